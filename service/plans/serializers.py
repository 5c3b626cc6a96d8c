"""What goes over the API about plans."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from northpace.spec import resolve_heat, spec_from
from service.parts.views import PartSerializer
from service.plans import rules
from service.plans.models import Plan, PlanVersion


class PlanCreateSerializer(serializers.Serializer[Any]):
    part = serializers.IntegerField()
    nozzle = serializers.IntegerField()
    material = serializers.IntegerField()
    spool = serializers.IntegerField(required=False, allow_null=True)
    settings = serializers.DictField(child=serializers.DictField(), required=False)


class PlanChangeSerializer(serializers.Serializer[Any]):
    settings = serializers.DictField(child=serializers.DictField(), required=False)
    nozzle = serializers.IntegerField(required=False)
    material = serializers.IntegerField(required=False)
    spool = serializers.IntegerField(required=False, allow_null=True)
    name = serializers.CharField(required=False, allow_blank=True, max_length=120)


class QuickTime(serializers.Serializer[Any]):
    total = serializers.FloatField()
    by_feature = serializers.DictField(child=serializers.FloatField())
    flow_floor = serializers.FloatField(required=False)


class QuickFilament(serializers.Serializer[Any]):
    length_mm = serializers.FloatField()
    mass_g = serializers.FloatField()
    cost = serializers.FloatField()
    volume_mm3 = serializers.FloatField()


class LayersSerializer(serializers.Serializer[Any]):
    count = serializers.IntegerField()
    heights_mm = serializers.ListField(child=serializers.FloatField())
    tops_mm = serializers.ListField(child=serializers.FloatField())
    seconds = serializers.ListField(child=serializers.FloatField())


class QuickSerializer(serializers.Serializer[Any]):
    """The ≈ figures."""

    exact = serializers.BooleanField()
    time_s = QuickTime()
    filament = QuickFilament()
    layers = LayersSerializer()


class FindingSerializer(serializers.Serializer[Any]):
    code = serializers.CharField()
    severity = serializers.ChoiceField(choices=["stop", "look", "note"])
    message = serializers.CharField()
    z_mm = serializers.FloatField(allow_null=True)
    at_mm = serializers.ListField(child=serializers.FloatField(), allow_null=True)


class SpoolShareSerializer(serializers.Serializer[Any]):
    parts = serializers.IntegerField()
    left_over_g = serializers.FloatField()
    lighter_for_one_more_g = serializers.FloatField()


class ReportFilament(QuickFilament):
    spool = SpoolShareSerializer(allow_null=True)
    by_feature_mm = serializers.DictField(child=serializers.FloatField())


class ReportLayers(LayersSerializer):
    slowed = serializers.ListField(child=serializers.FloatField())
    mass_g = serializers.ListField(child=serializers.FloatField())


class ReportPaths(serializers.Serializer[Any]):
    moves = serializers.IntegerField()
    travel_mm = serializers.FloatField()
    retractions = serializers.IntegerField()
    outer_wall_crossings = serializers.IntegerField()


class ReportPart(serializers.Serializer[Any]):
    size_mm = serializers.ListField(child=serializers.FloatField())
    volume_mm3 = serializers.FloatField()


class ReportSerializer(serializers.Serializer[Any]):
    """The exact figures."""

    part = ReportPart()
    time_s = QuickTime()
    filament = ReportFilament()
    layers = ReportLayers()
    paths = ReportPaths()
    findings = FindingSerializer(many=True)
    elapsed_s = serializers.DictField(child=serializers.FloatField())


class ResolvedSerializer(serializers.Serializer[Any]):
    """Values a plan leaves open, as the core takes them."""

    least_height = serializers.FloatField()
    greatest_height = serializers.FloatField()
    least_layer_time = serializers.FloatField()
    nozzle_temp = serializers.FloatField()
    first_nozzle_temp = serializers.FloatField()
    bed_temp = serializers.FloatField()
    first_bed_temp = serializers.FloatField()
    fan = serializers.FloatField()


class VersionSerializer(serializers.ModelSerializer[PlanVersion]):
    report = ReportSerializer(allow_null=True)
    settings = serializers.DictField(child=serializers.DictField())
    spec = serializers.DictField(child=serializers.DictField())
    resolved = serializers.SerializerMethodField()

    class Meta:
        model = PlanVersion
        fields = ["id", "number", "state", "stage", "share", "message", "core_version", "settings", "spec", "resolved", "report", "nozzle",
                  "material", "spool", "checksum", "created", "computed"]
        read_only_fields = fields

    @extend_schema_field(ResolvedSerializer)
    def get_resolved(self, version: PlanVersion) -> dict[str, float]:
        spec = spec_from(version.spec)
        return {"least_height": spec.machine.least_height, "greatest_height": spec.machine.h_max, **resolve_heat(spec)}


class PlanSerializer(serializers.ModelSerializer[Plan]):
    part = PartSerializer()
    latest = VersionSerializer()
    exact = serializers.SerializerMethodField()

    class Meta:
        model = Plan
        fields = ["id", "number", "name", "part", "latest", "exact", "created"]

    @extend_schema_field(VersionSerializer(allow_null=True))
    def get_exact(self, plan: Plan) -> Any:
        version = rules.last_exact(plan)
        return VersionSerializer(version).data if version else None


class PlanListSerializer(serializers.ModelSerializer[Plan]):
    part_name = serializers.CharField(source="part.name")
    picture = serializers.CharField(source="part.picture")
    state = serializers.SerializerMethodField()
    machine = serializers.SerializerMethodField()
    material = serializers.SerializerMethodField()
    time_s = serializers.SerializerMethodField()
    mass_g = serializers.SerializerMethodField()

    class Meta:
        model = Plan
        fields = ["id", "number", "name", "part_name", "picture", "state", "machine", "material", "time_s", "mass_g", "created"]

    def _latest(self, plan: Plan) -> PlanVersion:
        return plan.versions.all()[0]

    def _figure(self, plan: Plan, group: str, key: str) -> float | None:
        done = [version for version in plan.versions.all() if version.report]
        return float(done[0].report[group][key]) if done and done[0].report else None

    def get_state(self, plan: Plan) -> str:
        return self._latest(plan).state

    def get_machine(self, plan: Plan) -> str:
        return f"{self._latest(plan).nozzle.machine.name}, {self._latest(plan).nozzle}"

    def get_material(self, plan: Plan) -> str:
        return self._latest(plan).material.name

    def get_time_s(self, plan: Plan) -> float | None:
        return self._figure(plan, "time_s", "total")

    def get_mass_g(self, plan: Plan) -> float | None:
        return self._figure(plan, "filament", "mass_g")
