"""What goes over the API about plans."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from northpace import VERSION
from northpace.layers.decide import RULES
from northpace.layers.measure import MEASURES
from northpace.motion.pace import safe_flow
from northpace.spec import resolve_heat, spec_from
from service.parts.views import PartSerializer
from service.plans import rules
from service.plans.models import Acknowledgement, Plan, PlanVersion, TestSlice


class PlanCreateSerializer(serializers.Serializer[Any]):
    part = serializers.IntegerField()
    nozzle = serializers.IntegerField()
    material = serializers.IntegerField()
    spool = serializers.IntegerField(required=False, allow_null=True)
    settings = serializers.DictField(child=serializers.DictField(), required=False)
    recipe = serializers.IntegerField(required=False, allow_null=True)


class PlanChangeSerializer(serializers.Serializer[Any]):
    settings = serializers.DictField(child=serializers.DictField(), required=False)
    nozzle = serializers.IntegerField(required=False)
    material = serializers.IntegerField(required=False)
    spool = serializers.IntegerField(required=False, allow_null=True)
    name = serializers.CharField(required=False, allow_blank=True, max_length=120)
    baseline = serializers.IntegerField(required=False, allow_null=True)
    recipe = serializers.IntegerField(required=False, allow_null=True)


class QuickTime(serializers.Serializer[Any]):
    total = serializers.FloatField()
    by_feature = serializers.DictField(child=serializers.FloatField())
    flow_floor = serializers.FloatField(required=False)
    spread = serializers.FloatField(required=False, help_text="s, one standard deviation of the machine's jobs; 0 while it is not known")


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
    error_um = serializers.ListField(child=serializers.FloatField())
    mean_error_um = serializers.ListField(child=serializers.FloatField())
    rule = serializers.ListField(child=serializers.ChoiceField(choices=list(RULES)))
    coarser_s = serializers.ListField(child=serializers.FloatField())
    coarser_um = serializers.ListField(child=serializers.FloatField())
    finer_s = serializers.ListField(child=serializers.FloatField())
    finer_um = serializers.ListField(child=serializers.FloatField())


class SurfaceSerializer(serializers.Serializer[Any]):
    """Surface error in µm; ``gap``: the share by which no other stack could be better."""

    mean_um = serializers.FloatField()
    p95_um = serializers.FloatField()
    max_um = serializers.FloatField()
    over_target = serializers.FloatField()
    gap = serializers.FloatField()
    reached = serializers.BooleanField()
    out_of_reach_mm = serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))
    missed = serializers.CharField(allow_blank=True)
    seen_mm2 = serializers.FloatField()
    hidden_mm2 = serializers.FloatField()
    flats_mm = serializers.ListField(child=serializers.FloatField())


class QuickSerializer(serializers.Serializer[Any]):
    """The ≈ figures."""

    exact = serializers.BooleanField()
    time_s = QuickTime()
    filament = QuickFilament()
    layers = LayersSerializer()
    surface = SurfaceSerializer()


class FindingSerializer(serializers.Serializer[Any]):
    code = serializers.CharField()
    severity = serializers.ChoiceField(choices=["stop", "look", "note"])
    message = serializers.CharField()
    z_mm = serializers.FloatField(allow_null=True)
    at_mm = serializers.ListField(child=serializers.FloatField(), allow_null=True)
    help = serializers.CharField(allow_blank=True)
    places = serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))
    change = serializers.DictField(child=serializers.JSONField())


class PatchSerializer(serializers.Serializer[Any]):
    """A solid patch: where it is, what it costs, which open faces cause it."""

    at_mm = serializers.ListField(child=serializers.FloatField())
    from_mm = serializers.FloatField()
    to_mm = serializers.FloatField()
    area_mm2 = serializers.FloatField()
    seconds = serializers.FloatField()
    solid = serializers.BooleanField()
    kinds = serializers.ListField(child=serializers.CharField())


class SolidSerializer(serializers.Serializer[Any]):
    """Patches, and the causes the move table numbers: patch, kind, height of the open face in mm."""

    patches = PatchSerializer(many=True)
    causes = serializers.ListField(child=serializers.ListField(child=serializers.JSONField()))


class StandSerializer(serializers.Serializer[Any]):
    number = serializers.IntegerField()
    at_mm = serializers.ListField(child=serializers.FloatField())
    from_mm = serializers.FloatField()
    to_mm = serializers.FloatField()
    contact_mm2 = serializers.FloatField()
    seconds = serializers.FloatField()
    seen_mm2 = serializers.FloatField()
    on_part = serializers.BooleanField()
    why = serializers.CharField()


class StrengthSerializer(serializers.Serializer[Any]):
    """Proxies, not a simulation: relative to a solid part."""

    least_stiffness = serializers.FloatField()
    least_at_mm = serializers.FloatField()
    mean_stiffness = serializers.FloatField()


class FootSerializer(serializers.Serializer[Any]):
    lift_mm = serializers.FloatField()
    loops = serializers.IntegerField()
    area_mm2 = serializers.FloatField()
    contact_mm2 = serializers.FloatField()


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
    seams = serializers.IntegerField()
    travel_saved_mm = serializers.FloatField()
    around = serializers.IntegerField()
    gap_area_mm2 = serializers.FloatField()
    missing_area_mm2 = serializers.FloatField()
    walls = serializers.IntegerField()
    wall_thickness_mm = serializers.FloatField()
    diameter_change_mm = serializers.FloatField()
    first_diameter_change_mm = serializers.FloatField()


class ReportPart(serializers.Serializer[Any]):
    size_mm = serializers.ListField(child=serializers.FloatField())
    volume_mm3 = serializers.FloatField()


class LanesSerializer(serializers.Serializer[Any]):
    """Values of every layer: % infill, walls, mm/s, mm³/s, °C, % fan."""

    infill = serializers.ListField(child=serializers.FloatField())
    walls = serializers.ListField(child=serializers.FloatField())
    speed = serializers.ListField(child=serializers.FloatField())
    flow = serializers.ListField(child=serializers.FloatField())
    nozzle_temp = serializers.ListField(child=serializers.FloatField())
    fan = serializers.ListField(child=serializers.FloatField())


class BandPlaceSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(allow_blank=True)
    from_mm = serializers.FloatField()
    to_mm = serializers.FloatField()


class RegionPlaceSerializer(serializers.Serializer[Any]):
    """Where a region reaches inside the part; null where it lies outside."""

    name = serializers.CharField(allow_blank=True)
    from_mm = serializers.FloatField(allow_null=True)
    to_mm = serializers.FloatField(allow_null=True)
    area_mm2 = serializers.FloatField()


class ReportSerializer(serializers.Serializer[Any]):
    """The exact figures."""

    part = ReportPart()
    time_s = QuickTime()
    filament = ReportFilament()
    layers = ReportLayers()
    paths = ReportPaths()
    surface = SurfaceSerializer()
    findings = FindingSerializer(many=True)
    solid = SolidSerializer()
    stands = StandSerializer(many=True)
    strength = StrengthSerializer()
    footing = FootSerializer()
    lanes = LanesSerializer()
    bands = BandPlaceSerializer(many=True)
    regions = RegionPlaceSerializer(many=True)
    spirals = serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))
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
    bridge_fan = serializers.FloatField()
    safe_flow = serializers.FloatField()


class VersionSerializer(serializers.ModelSerializer[PlanVersion]):
    report = serializers.SerializerMethodField()
    settings = serializers.DictField(child=serializers.DictField())
    spec = serializers.DictField(child=serializers.DictField())
    resolved = serializers.SerializerMethodField()

    class Meta:
        model = PlanVersion
        fields = ["id", "number", "state", "stage", "share", "message", "core_version", "settings", "spec", "resolved", "report", "nozzle",
                  "material", "spool", "checksum", "created", "computed"]
        read_only_fields = fields

    @extend_schema_field(ReportSerializer(allow_null=True))
    def get_report(self, version: PlanVersion) -> Any:
        """Of this core; what an older one computed is computed again when the service starts."""
        return ReportSerializer(version.report).data if version.report and version.core_version == VERSION else None

    @extend_schema_field(ResolvedSerializer)
    def get_resolved(self, version: PlanVersion) -> dict[str, float]:
        spec = spec_from(version.spec)
        return {"least_height": spec.machine.least_height, "greatest_height": spec.machine.h_max, "safe_flow": safe_flow(spec),
                **resolve_heat(spec)}


class BaselineSerializer(serializers.ModelSerializer[PlanVersion]):
    """The version others are compared with."""

    report = ReportSerializer()
    plan_number = serializers.IntegerField(source="plan.number")

    class Meta:
        model = PlanVersion
        fields = ["id", "number", "plan", "plan_number", "report"]
        read_only_fields = fields


class TestSliceSerializer(serializers.ModelSerializer[TestSlice]):
    class Meta:
        model = TestSlice
        fields = ["id", "plan", "trial", "from_mm", "to_mm", "error_um", "verdict", "note", "target_um", "photo", "created"]

    photo = serializers.SerializerMethodField()

    def get_photo(self, found: TestSlice) -> bool:
        return bool(found.photo_key)


class SliceCutSerializer(serializers.Serializer[Any]):
    from_mm = serializers.FloatField()
    to_mm = serializers.FloatField()


class VerdictSerializer(serializers.Serializer[Any]):
    verdict = serializers.ChoiceField(choices=["accept", "too-coarse"])
    note = serializers.CharField(required=False, allow_blank=True, max_length=2000)
    target_um = serializers.FloatField(required=False, allow_null=True, min_value=1, max_value=2000)


class FrontierAskSerializer(PlanChangeSerializer):
    measure = serializers.ChoiceField(choices=list(MEASURES))
    points = serializers.IntegerField(min_value=2, max_value=60, default=28)


class FrontierPointSerializer(serializers.Serializer[Any]):
    time_s = serializers.FloatField()
    mean_um = serializers.FloatField()
    p95_um = serializers.FloatField()
    max_um = serializers.FloatField()
    layers = serializers.IntegerField()
    breaks = serializers.ListField(child=serializers.CharField())


class EvenPointSerializer(FrontierPointSerializer):
    layer_height = serializers.FloatField()


class FrontierSerializer(serializers.Serializer[Any]):
    """The least time for every surface error, and the even stacks, tallest first."""

    points = FrontierPointSerializer(many=True)
    even = EvenPointSerializer(many=True)


class AcknowledgementSerializer(serializers.ModelSerializer[Acknowledgement]):
    by = serializers.CharField(source="by.member", default="", read_only=True)

    class Meta:
        model = Acknowledgement
        fields = ["code", "message", "reason", "by", "created"]
        read_only_fields = ["message", "created"]


class TriedSerializer(serializers.Serializer[Any]):
    """Exact figures of settings that are not kept."""

    time_s = serializers.FloatField()
    mass_g = serializers.FloatField()
    p95_um = serializers.FloatField()
    stiffness = serializers.FloatField()
    least_stiffness = serializers.FloatField()
    infill_s = serializers.FloatField()
    moves = serializers.IntegerField()
    seams = serializers.IntegerField()
    retractions = serializers.IntegerField()
    walls = serializers.IntegerField()
    wall_thickness_mm = serializers.FloatField()


class ChangeSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    before = serializers.JSONField(allow_null=True)
    after = serializers.JSONField(allow_null=True)


class EffectSerializer(serializers.Serializer[Any]):
    """What one change of settings did, from the exact versions before and after it."""

    changes = ChangeSerializer(many=True)
    time_s = serializers.FloatField()
    mass_g = serializers.FloatField()
    p95_um = serializers.FloatField()


class PlanSerializer(serializers.ModelSerializer[Plan]):
    part = PartSerializer()
    latest = VersionSerializer()
    exact = serializers.SerializerMethodField()
    baseline = serializers.SerializerMethodField()
    slices = TestSliceSerializer(many=True)
    acknowledgements = AcknowledgementSerializer(many=True)
    effects = serializers.SerializerMethodField()

    class Meta:
        model = Plan
        fields = ["id", "number", "name", "part", "latest", "exact", "baseline", "slices", "acknowledgements", "effects", "recipe", "created"]

    @extend_schema_field(EffectSerializer(many=True))
    def get_effects(self, plan: Plan) -> Any:
        return EffectSerializer(rules.effects(plan), many=True).data

    @extend_schema_field(BaselineSerializer(allow_null=True))
    def get_baseline(self, plan: Plan) -> Any:
        version = rules.baseline_of(plan)
        return BaselineSerializer(version).data if version else None

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
    surface = serializers.SerializerMethodField()
    exact = serializers.SerializerMethodField()
    slice_of = serializers.SerializerMethodField()

    class Meta:
        model = Plan
        fields = ["id", "number", "name", "part", "part_name", "picture", "state", "machine", "material", "time_s", "mass_g", "surface",
                  "exact", "slice_of", "created"]

    def _latest(self, plan: Plan) -> PlanVersion:
        return plan.versions.all()[0]

    def _figure(self, plan: Plan, group: str, key: str) -> float | None:
        done = self._done(plan)
        return float(done.report[group][key]) if done and done.report else None

    def _done(self, plan: Plan) -> PlanVersion | None:
        return next((version for version in plan.versions.all() if version.report and version.core_version == VERSION), None)

    @extend_schema_field(SurfaceSerializer(allow_null=True))
    def get_surface(self, plan: Plan) -> Any:
        done = self._done(plan)
        return done.report["surface"] if done and done.report else None

    def get_exact(self, plan: Plan) -> int | None:
        """The newest computed version."""
        done = self._done(plan)
        return done.pk if done else None

    def get_slice_of(self, plan: Plan) -> int | None:
        """The plan this is a test slice of."""
        found = getattr(plan, "slice_of", None)
        return found.plan_id if found else None

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
