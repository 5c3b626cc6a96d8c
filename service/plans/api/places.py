"""Bands, regions and ways of building over the API: the vase check, test towers, merging, what
regions look like, what differs at a height.
"""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely
from django.db import transaction
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from northpace.outlines.volumes import volume_sections
from northpace.paths.spiral.check import set_aside
from northpace.plan.lanes import differs_at
from northpace.spec import Region, settings, spec_from
from northpace.spec.places.bands import merged, repeated
from service.core import pipeline
from service.plans import rules
from service.plans.api.serializers import PlanChangeSerializer, PlanSerializer
from service.plans.api.views import asked, plan_of, spec_asked

#: Contours a region is drawn with on the stage at most, and how finely (mm).
CONTOURS, FINE = 14, 0.15
#: What of a test can be written back: settings the material supplies, with the figure of the
#: material each becomes.
WRITTEN = {
    entry["name"]: entry["key"]
    for entry in settings()
    if entry["within"] and "material" in (entry["source"], entry["group"])
}


class BreakSerializer(serializers.Serializer[Any]):
    z = serializers.FloatField()
    rule = serializers.CharField()
    reason = serializers.CharField()


class OfferSerializer(serializers.Serializer[Any]):
    """A way on: settings by name; ``surface.bands`` is a band to add."""

    words = serializers.CharField()
    change = serializers.DictField(child=serializers.JSONField())


class AsideSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    value = serializers.JSONField(allow_null=True)
    because = serializers.CharField()


class VaseSerializer(serializers.Serializer[Any]):
    suits = serializers.BooleanField()
    sentence = serializers.CharField()
    from_mm = serializers.FloatField()
    to_mm = serializers.FloatField()
    breaks = BreakSerializer(many=True)
    offers = OfferSerializer(many=True)
    aside = serializers.DictField(child=AsideSerializer(many=True))


class PlanVase(APIView):
    @extend_schema(operation_id="plan_vase", request=PlanChangeSerializer, responses=VaseSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Whether the part can be one spiral under these settings, the first height that speaks
        against it, ways on, and what would be set aside.
        """
        plan = plan_of(request, pk)
        spec = spec_asked(request, plan, asked(PlanChangeSerializer, request))
        found = pipeline().vase(plan.part.source, spec, rules.correction_for(plan, spec))
        return Response(
            {
                **found.as_dict(),
                "aside": {build: set_aside(spec, build) for build in ("spiral", "open-vessel")},
            }
        )


class RepeatSerializer(serializers.Serializer[Any]):
    """Bands of one height from a height on, a setting going up by a step from one to the next."""

    name = serializers.CharField(allow_blank=True, max_length=40, default="")
    from_mm = serializers.FloatField(min_value=0, max_value=5000)
    every_mm = serializers.FloatField(min_value=0.1, max_value=5000)
    to_mm = serializers.FloatField(min_value=0, max_value=5000)
    setting = serializers.CharField()
    start = serializers.FloatField()
    step = serializers.FloatField()


class BandsSerializer(serializers.Serializer[Any]):
    bands = serializers.ListField(child=serializers.DictField())


class BandsRepeat(APIView):
    @extend_schema(operation_id="bands_repeat", request=RepeatSerializer, responses=BandsSerializer)
    def post(self, request: Request) -> Response:
        """The bands of a test tower, to look at before they are kept."""
        values = asked(RepeatSerializer, request)
        if (values["to_mm"] - values["from_mm"]) / values["every_mm"] > 200:
            raise InputError("that would be more than 200 bands; take a larger stretch", "every_mm")
        found = repeated(
            values["name"],
            values["from_mm"],
            values["every_mm"],
            values["to_mm"],
            values["setting"],
            values["start"],
            values["step"],
        )
        return Response({"bands": [band.model_dump() for band in _plain(list(found))]})


class BandsMerge(APIView):
    @extend_schema(operation_id="bands_merge", request=BandsSerializer, responses=BandsSerializer)
    def post(self, request: Request) -> Response:
        """Bands that overlap as bands that do not: what several share becomes one of its own with
        the changes of all.
        """
        values = asked(BandsSerializer, request)
        apart = [
            spec_from({"surface": {"bands": [band]}}).surface.bands[0] for band in values["bands"]
        ]
        return Response({"bands": [band.model_dump() for band in merged(tuple(apart))]})


def _plain(bands: list[Any]) -> list[Any]:
    """Bands checked one by one against the plain plan: names, bounds, types. What the machine says
    is checked when they are kept.
    """
    for band in bands:
        spec_from(
            {
                "surface": {"bands": [band.model_dump()]},
                "machine": {"hottest_nozzle": 600, "hottest_bed": 300},
            }
        )
    return bands


class RegionShapeSerializer(serializers.Serializer[Any]):
    """A region as contour lines in mm from the middle of the bed; ``message``: why it has none."""

    rings = serializers.ListField(
        child=serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))
    )
    from_mm = serializers.FloatField(allow_null=True)
    to_mm = serializers.FloatField(allow_null=True)
    message = serializers.CharField(allow_blank=True)


class PlanRegions(APIView):
    @extend_schema(
        operation_id="plan_regions",
        request=PlanChangeSerializer,
        responses=RegionShapeSerializer(many=True),
    )
    def post(self, request: Request, pk: int) -> Response:
        """The regions of these settings as contour lines for the stage."""
        plan = plan_of(request, pk)
        spec = spec_asked(request, plan, asked(PlanChangeSerializer, request))
        placed = pipeline().placed(plan.part.source, spec)
        return Response([_contours(region, placed) for region in spec.body.regions])


def _contours(region: Any, placed: Any) -> dict[str, Any]:
    try:
        levels = np.linspace(0, placed.height, 120)[1:] - placed.height / 240
        size = shapely.area(areas := volume_sections(region, placed, levels))
    except InputError as error:
        return {"rings": [], "from_mm": None, "to_mm": None, "message": error.message}
    here = np.flatnonzero(size > 0)
    if len(here) == 0:
        return {
            "rings": [],
            "from_mm": None,
            "to_mm": None,
            "message": "it lies outside the part's height",
        }
    shown = here[
        np.unique(np.round(np.linspace(0, len(here) - 1, min(CONTOURS, len(here)))).astype(int))
    ]
    rings = []
    for k in shown.tolist():
        outline = shapely.get_parts(shapely.boundary(shapely.simplify(areas[k], FINE)))
        rings += [
            [
                [round(float(x), 2), round(float(y), 2), round(float(levels[k]), 2)]
                for x, y in shapely.get_coordinates(ring)
            ]
            for ring in outline
        ]
    half = placed.height / 240
    return {
        "rings": rings,
        "from_mm": float(levels[here[0]] - half),
        "to_mm": float(levels[here[-1]] + half),
        "message": "",
    }


class HereAskSerializer(PlanChangeSerializer):
    z_mm = serializers.FloatField(min_value=0, max_value=5000)


class HereSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    value = serializers.JSONField(allow_null=True)
    base = serializers.JSONField(allow_null=True)
    kind = serializers.ChoiceField(choices=["band", "region"])
    by = serializers.CharField()


class PlanHere(APIView):
    @extend_schema(
        operation_id="plan_here", request=HereAskSerializer, responses=HereSerializer(many=True)
    )
    def post(self, request: Request, pk: int) -> Response:
        """What differs from the whole part at a height, and which band or region it is from."""
        plan = plan_of(request, pk)
        values = asked(HereAskSerializer, request)
        spec = spec_asked(request, plan, values)
        source, correction = (
            plan.part.source,
            rules.correction_for(plan, spec),
        )
        settled, placed = (
            pipeline().settled(source, spec, correction),
            pipeline().placed(source, spec),
        )
        heights = pipeline().stack(source, settled, correction).heights

        def reaches(region: Region, z: float) -> bool:
            try:
                return bool(shapely.area(volume_sections(region, placed, np.array([z])))[0] > 0)
            except InputError:
                return False  # the region itself says what is wrong with it

        return Response(differs_at(settled, np.cumsum(heights), heights, values["z_mm"], reaches))


class WriteBackSerializer(serializers.Serializer[Any]):
    name = serializers.ChoiceField(choices=list(WRITTEN))
    value = serializers.FloatField()
    to = serializers.ChoiceField(choices=["material", "spool"])


class PlanWriteBack(APIView):
    @extend_schema(
        operation_id="plan_write_back", request=WriteBackSerializer, responses=PlanSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Keep the value a test found best with the plan's material, or with its spool alone; plans
        made later start from it.
        """
        plan, values = plan_of(request, pk), asked(WriteBackSerializer, request)
        latest, figure = plan.latest, WRITTEN[values["name"]]
        holder = latest.spool if values["to"] == "spool" else latest.material
        if holder is None:
            raise InputError("this plan has no spool; choose one, or write to the material", "to")
        with transaction.atomic():
            holder = type(holder).objects.select_for_update().get(pk=holder.pk)
            figures = {**holder.figures, figure: values["value"]}
            spec_from({"material": figures, "machine": {"hottest_nozzle": 600, "hottest_bed": 300}})
            holder.figures = figures
            holder.save(update_fields=["figures"])
        return Response(PlanSerializer(plan).data)
