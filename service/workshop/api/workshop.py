"""The workshop itself, and the list of settings."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.naming import FIELDS, check_template
from northpace.schedule.house import House
from northpace.spec import settings
from service.accounts.api.auth import workshop_of
from service.config.typed import CoreField
from service.workshop.models import Workshop
from service.workshop.rules.house import house_of, keep_house


class WorkshopSerializer(serializers.ModelSerializer[Workshop]):
    template_fields = serializers.SerializerMethodField()
    checklist = serializers.ListField(
        child=serializers.CharField(max_length=120), max_length=40, required=False
    )

    house = CoreField(House, required=False)

    class Meta:
        model = Workshop
        fields = [
            "name",
            "name_template",
            "checklist",
            "labour_rate",
            "keep_days",
            "house",
            "sample",
            "template_fields",
        ]
        read_only_fields = ["sample"]
        extra_kwargs = {
            "labour_rate": {"min_value": 0, "max_value": 1000},
            "keep_days": {"min_value": 0, "max_value": 3650},
        }

    def get_template_fields(self, workshop: Workshop) -> dict[str, str]:
        return FIELDS

    def to_representation(self, workshop: Workshop) -> dict[str, Any]:
        shown = super().to_representation(workshop)
        return {**shown, "house": house_of(workshop).model_dump(mode="json")}

    def update(self, workshop: Workshop, values: dict[str, Any]) -> Workshop:
        if "house" in values:
            keep_house(workshop, values.pop("house"))
        return super().update(workshop, values)

    def validate_name_template(self, value: str) -> str:
        check_template(value)
        return value


class WorkshopView(generics.RetrieveUpdateAPIView[Workshop]):
    """The workshop and its file name template."""

    serializer_class = WorkshopSerializer
    http_method_names = ["get", "patch"]

    def get_object(self) -> Workshop:
        return workshop_of(self.request)


class SettingSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    group = serializers.CharField()
    group_title = serializers.CharField()
    key = serializers.CharField()
    label = serializers.CharField()  # type: ignore[assignment]
    type = serializers.ChoiceField(
        choices=["number", "integer", "bool", "text", "choice", "list", "numbers", "names"]
    )
    unit = serializers.CharField(allow_blank=True)
    min = serializers.FloatField(allow_null=True)
    max = serializers.FloatField(allow_null=True)
    default = serializers.JSONField(allow_null=True)
    choices = serializers.ListField(child=serializers.CharField())
    help = serializers.CharField()
    moves = serializers.ListField(child=serializers.CharField())
    source = serializers.CharField(allow_blank=True)  # type: ignore[assignment]
    optional = serializers.BooleanField()
    multiline = serializers.BooleanField()
    within = serializers.CharField(allow_blank=True)


class SettingsView(APIView):
    @extend_schema(responses=SettingSerializer(many=True))
    def get(self, request: Request) -> Response:
        """Every setting with unit, bounds, default, help and what it moves."""
        return Response(settings())
