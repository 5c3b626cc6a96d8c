"""What goes over the API about plans."""

from __future__ import annotations

from typing import Any

from django.db.models import Prefetch, QuerySet
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from northpace import VERSION
from northpace.figures import QuickReport, Report, Resolved
from northpace.heights.measure import MEASURES
from northpace.plan.now import resolved
from service.config.typed import shown_as
from service.parts.api.parts import PartSerializer, PictureField
from service.plans.models import Acknowledgement, Plan, PlanVersion, TestSlice
from service.plans.rules import figures, versions
from service.plans.rules.experience import experience


class PlanCreateSerializer(serializers.Serializer[Any]):
    part = serializers.IntegerField()
    nozzle = serializers.IntegerField()
    material = serializers.IntegerField()
    spool = serializers.IntegerField(required=False, allow_null=True)
    settings = serializers.DictField(child=serializers.DictField(), required=False)
    recipe = serializers.IntegerField(required=False, allow_null=True)
    from_file = serializers.BooleanField(
        default=False, help_text="with the settings of the plan that the part's file held"
    )


class PlanChangeSerializer(serializers.Serializer[Any]):
    settings = serializers.DictField(child=serializers.DictField(), required=False)
    nozzle = serializers.IntegerField(required=False)
    material = serializers.IntegerField(required=False)
    spool = serializers.IntegerField(required=False, allow_null=True)
    name = serializers.CharField(required=False, allow_blank=True, max_length=120)
    verdict = serializers.CharField(required=False, allow_blank=True, max_length=300)
    baseline = serializers.IntegerField(required=False, allow_null=True)
    recipe = serializers.IntegerField(required=False, allow_null=True)
    base = serializers.IntegerField(
        required=False, help_text="the number of the version the change was made on"
    )
    mine = serializers.BooleanField(
        required=False, help_text="where others changed the same since, keep this"
    )


class LaidField(serializers.CharField):
    """What tells beads to look at while a version is computed from others; empty: none."""

    def __init__(self) -> None:
        super().__init__(source="laid_key", help_text="another when there are more beads")


class VersionSerializer(serializers.ModelSerializer[PlanVersion]):
    laid = LaidField()
    report = serializers.SerializerMethodField()
    settings = serializers.DictField(child=serializers.DictField())
    spec = serializers.DictField(child=serializers.DictField())
    resolved = serializers.SerializerMethodField()

    class Meta:
        model = PlanVersion
        fields = [
            "id",
            "number",
            "state",
            "stage",
            "share",
            "message",
            "laid",
            "laid_words",
            "core_version",
            "settings",
            "spec",
            "resolved",
            "report",
            "nozzle",
            "material",
            "spool",
            "checksum",
            "created",
            "computed",
        ]
        read_only_fields = fields

    @extend_schema_field(shown_as(Report, nullable=True))
    def get_report(self, version: PlanVersion) -> Any:
        """Of this core; what an older one computed is computed again when the service starts."""
        return version.report if version.core_version == VERSION else None

    @extend_schema_field(shown_as(Resolved))
    def get_resolved(self, version: PlanVersion) -> Any:
        return resolved(version.whole_spec)


class VersionProgressSerializer(serializers.ModelSerializer[PlanVersion]):
    """How far a version is."""

    laid = LaidField()

    class Meta:
        model = PlanVersion
        fields = ["id", "state", "stage", "share", "message", "laid", "laid_words"]
        read_only_fields = fields


class BaselineSerializer(serializers.ModelSerializer[PlanVersion]):
    """The version others are compared with."""

    report = serializers.SerializerMethodField()
    plan_number = serializers.IntegerField(source="plan.number")

    class Meta:
        model = PlanVersion
        fields = ["id", "number", "plan", "plan_number", "report"]
        read_only_fields = fields

    @extend_schema_field(shown_as(Report))
    def get_report(self, version: PlanVersion) -> Any:
        return version.report


class TestSliceSerializer(serializers.ModelSerializer[TestSlice]):
    class Meta:
        model = TestSlice
        fields = [
            "id",
            "plan",
            "trial",
            "from_mm",
            "to_mm",
            "error_um",
            "verdict",
            "note",
            "target_um",
            "photo",
            "created",
        ]

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
    points = serializers.IntegerField(min_value=0, max_value=60, default=28)


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


class AheadAskSerializer(PlanCreateSerializer):
    whole = serializers.BooleanField(default=False)


class AheadSerializer(serializers.Serializer[Any]):
    """≈ figures of a part on a machine, before it is planned; asked for whole, all that a desk
    shows first.
    """

    time_s = serializers.FloatField()
    mass_g = serializers.FloatField()
    p95_um = serializers.FloatField()
    layers = serializers.IntegerField()
    quick = serializers.SerializerMethodField()
    frontier = FrontierSerializer(allow_null=True)

    @extend_schema_field(shown_as(QuickReport, nullable=True))
    def get_quick(self, found: dict[str, Any]) -> Any:
        return found["quick"]


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


class ExperienceSerializer(serializers.Serializer[Any]):
    """What the jobs of a plan came to: mean finishing work (min) and what it costs a part (€)."""

    jobs = serializers.IntegerField()
    good = serializers.IntegerField()
    flaws = serializers.IntegerField()
    failed = serializers.IntegerField()
    finishing_min = serializers.FloatField()
    finishing_cost = serializers.FloatField()


class PlanSerializer(serializers.ModelSerializer[Plan]):
    part = PartSerializer()
    latest = VersionSerializer()
    exact = serializers.SerializerMethodField()
    baseline = serializers.SerializerMethodField()
    slices = TestSliceSerializer(many=True)
    acknowledgements = AcknowledgementSerializer(many=True)
    effects = serializers.SerializerMethodField()
    experience = serializers.SerializerMethodField()
    can_undo = serializers.SerializerMethodField()
    can_redo = serializers.SerializerMethodField()

    class Meta:
        model = Plan
        fields = [
            "can_undo",
            "can_redo",
            "id",
            "number",
            "name",
            "verdict",
            "part",
            "latest",
            "exact",
            "baseline",
            "slices",
            "acknowledgements",
            "effects",
            "experience",
            "recipe",
            "created",
        ]

    def get_can_undo(self, plan: Plan) -> bool:
        return plan.latest.back_id is not None

    def get_can_redo(self, plan: Plan) -> bool:
        return plan.latest.forth_id is not None

    @extend_schema_field(EffectSerializer(many=True))
    def get_effects(self, plan: Plan) -> Any:
        return EffectSerializer(figures.effects(plan), many=True).data

    @extend_schema_field(ExperienceSerializer)
    def get_experience(self, plan: Plan) -> Any:
        """What its jobs came to."""
        return ExperienceSerializer(experience(plan)).data

    @extend_schema_field(BaselineSerializer(allow_null=True))
    def get_baseline(self, plan: Plan) -> Any:
        version = versions.baseline_of(plan)
        return BaselineSerializer(version).data if version else None

    @extend_schema_field(VersionSerializer(allow_null=True))
    def get_exact(self, plan: Plan) -> Any:
        version = figures.last_exact(plan)
        return VersionSerializer(version).data if version else None


def listed(plans: QuerySet[Plan]) -> QuerySet[Plan]:
    """Plans with what the list shows of them, without their reports, which are large."""
    versions = PlanVersion.objects.select_related("nozzle__machine", "material", "spool").defer(
        "report", "spec", "settings"
    )
    return (
        plans.select_related("part", "slice_of")
        .defer("part__picture")
        .prefetch_related(Prefetch("versions", versions))
    )


class StepErrorSerializer(serializers.Serializer[Any]):
    """Step error of a plan in µm: mean, 95th percentile and highest."""

    mean_um = serializers.FloatField()
    p95_um = serializers.FloatField()
    max_um = serializers.FloatField()


class PlanListSerializer(serializers.ModelSerializer[Plan]):
    part_name = serializers.CharField(source="part.name")
    picture = PictureField(source="part", read_only=True)
    state = serializers.SerializerMethodField()
    machine = serializers.SerializerMethodField()
    material = serializers.SerializerMethodField()
    surface = serializers.SerializerMethodField()
    exact = serializers.SerializerMethodField()
    slice_of = serializers.SerializerMethodField()

    class Meta:
        model = Plan
        fields = [
            "id",
            "number",
            "name",
            "verdict",
            "part",
            "part_name",
            "picture",
            "state",
            "machine",
            "material",
            "time_s",
            "mass_g",
            "cost",
            "surface",
            "stops",
            "looks",
            "printed",
            "told",
            "good",
            "exact",
            "slice_of",
            "created",
        ]
        read_only_fields = fields

    def _latest(self, plan: Plan) -> PlanVersion:
        return plan.versions.all()[0]

    def _done(self, plan: Plan) -> Any:
        """The newest exact version."""
        return next(
            (
                version
                for version in plan.versions.all()
                if version.state == PlanVersion.State.DONE and version.core_version == VERSION
            ),
            None,
        )

    @extend_schema_field(StepErrorSerializer(allow_null=True))
    def get_surface(self, plan: Plan) -> Any:
        return None if plan.p95_um is None else StepErrorSerializer(plan).data

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
