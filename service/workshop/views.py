"""The workshop's machines, materials and spools, and the list of settings."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import generics, serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.naming import FIELDS, check_template
from northpace.spec import settings, spec_from
from service.accounts.auth import workshop_of
from service.workshop.models import Machine, Material, Nozzle, Spool, Workshop


class NozzleSerializer(serializers.ModelSerializer[Nozzle]):
    class Meta:
        model = Nozzle
        fields = ["id", "bore", "flow", "least_height"]


class LearntSerializer(serializers.Serializer[Any]):
    """What finished jobs told: share of the accelerations that is reached, seconds a layer, how far off jobs still are and were before."""

    factor = serializers.FloatField()
    layer_s = serializers.FloatField()
    spread = serializers.FloatField()
    before = serializers.FloatField()
    jobs = serializers.IntegerField()


class MachineSerializer(serializers.ModelSerializer[Machine]):
    learnt = LearntSerializer(read_only=True, allow_null=True)
    nozzles = NozzleSerializer(many=True, read_only=True)
    figures = serializers.DictField()

    class Meta:
        model = Machine
        fields = ["id", "name", "figures", "learnt", "nozzles"]

    def validate_figures(self, value: dict[str, Any]) -> dict[str, Any]:
        spec_from({"machine": {**value, "name": "machine"}})
        return value


class SpoolSerializer(serializers.ModelSerializer[Spool]):
    material_name = serializers.CharField(source="material.name", read_only=True)

    class Meta:
        model = Spool
        fields = ["id", "label", "colour", "usable_mass", "diameter", "figures", "material", "material_name"]
        read_only_fields = ["material"]
        extra_kwargs = {"figures": {"read_only": True}, "usable_mass": {"min_value": 0, "max_value": 100000}, "diameter": {"min_value": 0.5, "max_value": 5}}


class MaterialSerializer(serializers.ModelSerializer[Material]):
    spools = SpoolSerializer(many=True, read_only=True)
    figures = serializers.DictField()

    class Meta:
        model = Material
        fields = ["id", "name", "figures", "spools"]

    def validate_figures(self, value: dict[str, Any]) -> dict[str, Any]:
        spec_from({"machine": {"hottest_nozzle": 600, "hottest_bed": 200}, "material": {**value, "name": "material"}})
        return value


class WorkshopSerializer(serializers.ModelSerializer[Workshop]):
    template_fields = serializers.SerializerMethodField()

    class Meta:
        model = Workshop
        fields = ["name", "name_template", "sample", "template_fields"]
        read_only_fields = ["sample"]

    def get_template_fields(self, workshop: Workshop) -> dict[str, str]:
        return FIELDS

    def validate_name_template(self, value: str) -> str:
        check_template(value)
        return value


class WorkshopView(generics.RetrieveUpdateAPIView[Workshop]):
    """The workshop and its file name template."""

    serializer_class = WorkshopSerializer
    http_method_names = ["get", "patch"]

    def get_object(self) -> Workshop:
        return workshop_of(self.request)


class MachineList(generics.ListAPIView[Machine]):
    """Machines with their nozzles."""

    serializer_class = MachineSerializer

    def get_queryset(self) -> Any:
        return Machine.objects.filter(workshop=workshop_of(self.request)).prefetch_related("nozzles")


class MachineDetail(generics.RetrieveUpdateAPIView[Machine]):
    """One machine; its figures can be corrected."""

    serializer_class = MachineSerializer
    http_method_names = ["get", "patch"]

    def get_queryset(self) -> Any:
        return Machine.objects.filter(workshop=workshop_of(self.request))


class MaterialList(generics.ListAPIView[Material]):
    """Materials with their spools."""

    serializer_class = MaterialSerializer

    def get_queryset(self) -> Any:
        return Material.objects.filter(workshop=workshop_of(self.request)).prefetch_related("spools__material")


class SpoolDetail(generics.RetrieveUpdateAPIView[Spool]):
    """One spool; what is left on it can be corrected."""

    serializer_class = SpoolSerializer
    http_method_names = ["get", "patch"]

    def get_queryset(self) -> Any:
        return Spool.objects.filter(material__workshop=workshop_of(self.request))


class SettingSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    group = serializers.CharField()
    group_title = serializers.CharField()
    key = serializers.CharField()
    label = serializers.CharField()  # type: ignore[assignment]
    type = serializers.ChoiceField(choices=["number", "integer", "bool", "text", "choice", "list", "numbers"])
    unit = serializers.CharField(allow_blank=True)
    min = serializers.FloatField(allow_null=True)
    max = serializers.FloatField(allow_null=True)
    default = serializers.JSONField(allow_null=True)  # type: ignore[assignment]
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


