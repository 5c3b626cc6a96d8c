"""Recipes over the API: named starting points for plans."""

from __future__ import annotations

from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import generics, serializers
from rest_framework.request import Request
from rest_framework.response import Response

from northpace.errors import InputError
from service.accounts.api.auth import workshop_of
from service.workshop.models import Material, Nozzle, Recipe


class RecipeSerializer(serializers.ModelSerializer[Recipe]):
    settings = serializers.DictField(child=serializers.DictField(), read_only=True)

    class Meta:
        model = Recipe
        fields = ["id", "name", "note", "settings", "bore", "machine", "material"]
        read_only_fields = ["bore", "machine", "material"]


class RecipeSaveSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(max_length=80)
    note = serializers.CharField(max_length=300, required=False, allow_blank=True)
    this_machine = serializers.BooleanField(
        default=False, help_text="it holds on the plan's machine only"
    )
    this_material = serializers.BooleanField(
        default=False, help_text="it holds in the plan's material only"
    )


class RecipeList(generics.ListAPIView[Recipe]):
    """Recipes of the workshop; with a nozzle and a material only those that suit them."""

    serializer_class = RecipeSerializer

    @extend_schema(parameters=[OpenApiParameter("nozzle", int), OpenApiParameter("material", int)])
    def get(self, request: Request, *args: Any, **kwargs: Any) -> Response:
        return super().get(request, *args, **kwargs)

    def get_queryset(self) -> Any:
        workshop = workshop_of(self.request)
        found = Recipe.objects.filter(workshop=workshop)
        asked = self.request.query_params
        if "nozzle" not in asked or "material" not in asked:
            return found
        nozzle = get_object_or_404(Nozzle, machine__workshop=workshop, pk=_number(asked, "nozzle"))
        material = get_object_or_404(Material, workshop=workshop, pk=_number(asked, "material"))
        return [recipe for recipe in found if recipe.suits(nozzle, material)]


def _number(asked: Any, name: str) -> int:
    try:
        return int(asked[name])
    except ValueError as error:
        raise InputError(f"'{asked[name]}' is no number of a {name}", name) from error


class RecipeDetail(generics.RetrieveUpdateDestroyAPIView[Recipe]):
    """One recipe: its name and note can be changed; plans made from it keep their settings when it
    is removed.
    """

    serializer_class = RecipeSerializer
    http_method_names = ["get", "patch", "delete"]

    def get_queryset(self) -> Any:
        return Recipe.objects.filter(workshop=workshop_of(self.request))
