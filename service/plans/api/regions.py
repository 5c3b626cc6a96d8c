"""Regions as contours."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from northpace.outlines.volumes import volume_sections
from service.core import pipeline
from service.plans.api.asking import asked, plan_of, spec_asked
from service.plans.api.serializers import PlanChangeSerializer

#: Contours a region is drawn with on the stage at most, and how finely (mm).
CONTOURS, FINE = 14, 0.15


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
