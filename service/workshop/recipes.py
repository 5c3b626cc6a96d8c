"""Recipes over the API: named starting points for plans."""

from __future__ import annotations

from typing import Any

from rest_framework import generics, serializers

from service.accounts.auth import workshop_of
from service.workshop.models import Recipe


class RecipeSerializer(serializers.ModelSerializer[Recipe]):
    settings = serializers.DictField(child=serializers.DictField(), read_only=True)

    class Meta:
        model = Recipe
        fields = ["id", "name", "note", "settings", "bore", "machine", "material"]
        read_only_fields = ["bore", "machine", "material"]


class RecipeSaveSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(max_length=80)
    note = serializers.CharField(max_length=300, required=False, allow_blank=True)


class RecipeList(generics.ListAPIView[Recipe]):
    """Recipes of the workshop."""

    serializer_class = RecipeSerializer

    def get_queryset(self) -> Any:
        return Recipe.objects.filter(workshop=workshop_of(self.request))


class RecipeDetail(generics.RetrieveUpdateDestroyAPIView[Recipe]):
    """One recipe: its name and note can be changed; plans made from it keep their settings when it is removed."""

    serializer_class = RecipeSerializer
    http_method_names = ["get", "patch", "delete"]

    def get_queryset(self) -> Any:
        return Recipe.objects.filter(workshop=workshop_of(self.request))
