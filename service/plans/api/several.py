"""One recipe for several parts at once."""

from __future__ import annotations

from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from service.accounts.api.auth import workshop_of
from service.parts.models import Part
from service.plans.api.asking import asked
from service.plans.rules import versions
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
