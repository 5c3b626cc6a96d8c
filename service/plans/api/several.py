"""Many parts and plans at once."""

from __future__ import annotations

from typing import Any

from django.db.models import Model
from django.http import HttpResponse, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import serializers
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from service.accounts.api.auth import workshop_of
from service.answers import files
from service.files import download
from service.paged import asked_page, keys_asked
from service.parts.models import Part
from service.plans.api.asking import asked, author_of
from service.plans.api.plans import PlanAskSerializer
from service.plans.models import Plan
from service.plans.rules import library, several, versions
from service.workshop.models import Material, Nozzle, Recipe, Spool


class SeveralAskSerializer(serializers.Serializer[Any]):
    parts = serializers.ListField(child=serializers.IntegerField(), min_length=1, max_length=100)
    nozzle = serializers.IntegerField()
    material = serializers.IntegerField()
    spool = serializers.IntegerField(required=False, allow_null=True)


class SeveralDoneSerializer(serializers.Serializer[Any]):
    """The plans that were made, by part, and parts that could not be planned with the reason."""

    plans = serializers.ListField(child=serializers.IntegerField())
    refused = serializers.ListField(child=serializers.CharField())


#: Plans that something is done to at once at most.
MOST = 200


class PlansAskSerializer(serializers.Serializer[Any]):
    plans = serializers.ListField(child=serializers.IntegerField(), min_length=1, max_length=MOST)


class PlansChangeSerializer(PlansAskSerializer):
    """What the plans are to have; what is not mentioned stays as each has it."""

    nozzle = serializers.IntegerField(required=False)
    material = serializers.IntegerField(required=False)
    spool = serializers.IntegerField(required=False)
    recipe = serializers.IntegerField(required=False)


def _plans_of(request: Request, keys: list[int]) -> list[Plan]:
    """Plans in the order they are asked for; one that is gone, or somebody else's, is none."""
    found = Plan.objects.select_related("part", "workshop").in_bulk(keys)
    own = workshop_of(request).pk
    missing = [key for key in keys if key not in found or found[key].workshop_id != own]
    if missing:
        raise NotFound("one of the plans is not there any more")
    return [found[key] for key in dict.fromkeys(keys)]


class PlansSeveral(APIView):
    @extend_schema(
        operation_id="plans_change", request=PlansChangeSerializer, responses=SeveralDoneSerializer
    )
    def post(self, request: Request) -> Response:
        """Give several plans another machine, spool or recipe: a new version of each."""
        workshop, values = workshop_of(request), asked(PlansChangeSerializer, request)

        def wanted(name: str, kind: type[Model], **of: Any) -> Any:
            return get_object_or_404(kind, pk=values[name], **of) if name in values else None

        spool = wanted("spool", Spool, material__workshop=workshop)
        found = several.change(
            _plans_of(request, values["plans"]),
            several.Wanted(
                wanted("nozzle", Nozzle, machine__workshop=workshop),
                spool.material if spool else wanted("material", Material, workshop=workshop),
                spool,
                wanted("recipe", Recipe, workshop=workshop),
            ),
            author_of(request),
        )
        return Response(found._asdict())


class PlansRemove(APIView):
    @extend_schema(
        operation_id="plans_remove", request=PlansAskSerializer, responses=SeveralDoneSerializer
    )
    def post(self, request: Request) -> Response:
        """Remove several plans; those that jobs or beds need stay, and it is said why."""
        keys = asked(PlansAskSerializer, request)["plans"]
        return Response(several.remove(_plans_of(request, keys))._asdict())


class PlansFile(APIView):
    @extend_schema(
        operation_id="plans_file",
        parameters=[OpenApiParameter("plans", str, description="numbers with commas between")],
        responses=files("application/zip"),
    )
    def get(self, request: Request) -> HttpResponse:
        """Several plans as 3MF files in one archive."""
        plans = _plans_of(request, keys_asked(request, "plans"))
        return download(several.as_files(plans), "plans.zip", "application/zip")


class PlansTable(APIView):
    @extend_schema(
        operation_id="plans_table",
        parameters=[PlanAskSerializer],
        responses={(200, "text/csv"): OpenApiTypes.STR},
    )
    def get(self, request: Request) -> StreamingHttpResponse:
        """All plans that are asked for as a table, a row a plan."""
        ask = asked_page(PlanAskSerializer, request)
        plans = library.sorted_plans(workshop_of(request), ask).select_related("part")
        lines = several.as_table(plans.defer("part__picture").iterator(500))
        answer = StreamingHttpResponse(lines, content_type="text/csv; charset=utf-8")
        answer["Content-Disposition"] = 'attachment; filename="plans.csv"'
        return answer


class RecipeApply(APIView):
    @extend_schema(
        operation_id="recipe_apply", request=SeveralAskSerializer, responses=SeveralDoneSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Plan several parts from a recipe."""
        workshop, values = workshop_of(request), asked(SeveralAskSerializer, request)
        recipe = get_object_or_404(Recipe, pk=pk, workshop=workshop)
        nozzle = get_object_or_404(Nozzle, pk=values["nozzle"], machine__workshop=workshop)
        material = get_object_or_404(Material, pk=values["material"], workshop=workshop)
        spool = (
            get_object_or_404(Spool, pk=values["spool"], material=material)
            if values.get("spool")
            else None
        )
        made, refused = [], []
        for key in dict.fromkeys(values["parts"]):
            part = get_object_or_404(Part, pk=key, workshop=workshop)
            try:
                made.append(
                    versions.create_plan(workshop, part, nozzle, material, spool, recipe=recipe).pk
                )
            except InputError as error:
                refused.append(f"{part.name}: {error}")
        return Response({"plans": made, "refused": refused})
