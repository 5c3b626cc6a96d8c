"""What goes over the API about beds."""

from __future__ import annotations

from typing import Any

from django.db.models import FloatField, Max, Prefetch, QuerySet
from django.db.models.fields.json import KeyTransform
from django.db.models.functions import Cast
from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers
from typing_extensions import TypedDict

from northpace import VERSION
from northpace.beds.figures import BedReport
from northpace.beds.spec import BedSpec
from northpace.spec import Machine
from service.beds.models import Bed, BedVersion
from service.beds.rules.spools import BedReach, spool_reach
from service.config.typed import CoreField, FiguresField
from service.plans.models import PlanVersion
from service.workshop.rules.drawn import Plate, Ring, plate_drawn


class SweepOutline(TypedDict):
    """What of the head covers what, from a height above the bed on."""

    name: str
    over_mm: float
    outline: list[Ring]


class PlanOutline(TypedDict):
    """A plan at a turn, about the middle of its part."""

    outline: list[Ring]
    top_mm: float
    sweeps: list[SweepOutline]


class BedPin(TypedDict):
    """A version of a plan that placings pin, and the newest exact one where that is another."""

    key: str
    plan: int
    plan_number: int
    version: int
    part: str
    part_id: int
    material: str
    time_s: float
    newer: str | None
    newer_version: int | None


class BedCreateSerializer(serializers.Serializer[Any]):
    plans = serializers.ListField(
        child=serializers.IntegerField(),
        required=False,
        help_text="plans, their newest exact versions are taken",
    )
    parts = serializers.ListField(
        child=serializers.IntegerField(),
        required=False,
        help_text="parts, of each the newest exact version of any plan, all for one nozzle",
    )
    copies = serializers.IntegerField(required=False, min_value=1, max_value=400)
    name = serializers.CharField(required=False, allow_blank=True, max_length=120)


class BedChangeSerializer(serializers.Serializer[Any]):
    spec = CoreField(BedSpec, required=False)
    wish = serializers.ChoiceField(["", "arrange", "fill", "share"], required=False)
    fill_with = serializers.CharField(
        required=False, help_text="key of the version to fill with, or to share out copies of"
    )
    count = serializers.IntegerField(
        required=False,
        min_value=1,
        max_value=200_000,
        help_text="copies in all to share out over as many beds as it takes",
    )
    evenly = serializers.BooleanField(
        required=False, help_text="as many on each bed, instead of one filled after the other"
    )
    name = serializers.CharField(required=False, allow_blank=True, max_length=120)
    spool = serializers.IntegerField(required=False, allow_null=True)
    base = serializers.IntegerField(
        required=False, help_text="the number of the version the change was made on"
    )


class BedVersionSerializer(serializers.ModelSerializer[BedVersion]):
    spec = serializers.SerializerMethodField()
    report = serializers.SerializerMethodField()
    outlines = serializers.SerializerMethodField()
    beside = serializers.ListField(child=serializers.IntegerField())

    class Meta:
        model = BedVersion
        fields = [
            "id",
            "number",
            "spec",
            "wish",
            "state",
            "stage",
            "share",
            "message",
            "beside",
            "report",
            "outlines",
            "by",
            "created",
            "computed",
        ]
        read_only_fields = fields

    @extend_schema_field(CoreField(BedSpec))
    def get_spec(self, version: BedVersion) -> Any:
        return version.spec

    @extend_schema_field(FiguresField(BedReport, allow_null=True))
    def get_report(self, version: BedVersion) -> Any:
        return version.report if version.core_version == VERSION else None

    @extend_schema_field(FiguresField(dict[str, PlanOutline], allow_null=True))
    def get_outlines(self, version: BedVersion) -> Any:
        return version.outlines


class BedProgressSerializer(serializers.ModelSerializer[BedVersion]):
    class Meta:
        model = BedVersion
        fields = ["id", "number", "state", "stage", "share", "message"]
        read_only_fields = fields


class BedSerializer(serializers.ModelSerializer[Bed]):
    version = serializers.SerializerMethodField()
    exact = serializers.SerializerMethodField()
    machine = serializers.CharField(source="nozzle.machine.name")
    plate = serializers.SerializerMethodField()
    pins = serializers.SerializerMethodField()
    can_undo = serializers.SerializerMethodField()
    can_redo = serializers.SerializerMethodField()
    spool_reach = serializers.SerializerMethodField()

    class Meta:
        model = Bed
        fields = [
            "id",
            "number",
            "name",
            "machine",
            "nozzle",
            "spool",
            "plate",
            "pins",
            "version",
            "exact",
            "can_undo",
            "can_redo",
            "spool_reach",
            "created",
        ]
        read_only_fields = fields

    @extend_schema_field(FiguresField(BedReach, allow_null=True))
    def get_spool_reach(self, bed: Bed) -> BedReach | None:
        return spool_reach(bed.latest)

    @extend_schema_field(BedVersionSerializer)
    def get_version(self, bed: Bed) -> Any:
        return BedVersionSerializer(bed.latest).data

    @extend_schema_field(BedVersionSerializer(allow_null=True))
    def get_exact(self, bed: Bed) -> Any:
        """The newest computed version, where the newest is not computed."""
        if bed.latest.state == BedVersion.State.DONE:
            return None
        found = bed.versions.filter(state=BedVersion.State.DONE).order_by("-number").first()
        return BedVersionSerializer(found).data if found else None

    @extend_schema_field(FiguresField(Plate))
    def get_plate(self, bed: Bed) -> Plate:
        return plate_drawn(Machine(**bed.nozzle.spec()))

    @extend_schema_field(FiguresField(list[BedPin]))
    def get_pins(self, bed: Bed) -> list[BedPin]:
        out: list[BedPin] = []
        pins = bed.latest.pins.select_related("plan", "plan__part", "part", "material")
        for pin in pins:
            newest = (
                pin.plan.versions.filter(
                    state=PlanVersion.State.DONE, core_version=VERSION, nozzle=bed.nozzle
                )
                .order_by("-number")
                .first()
            )
            newer = newest if newest and newest.checksum != pin.checksum else None
            assert pin.report is not None
            out.append(
                {
                    "key": str(pin.pk),
                    "plan": pin.plan_id,
                    "plan_number": pin.plan.number,
                    "version": pin.number,
                    "part": pin.its_part.name,
                    "part_id": pin.its_part.pk,
                    "material": pin.material.name,
                    "time_s": pin.report["time_s"]["total"],
                    "newer": str(newer.pk) if newer else None,
                    "newer_version": newer.number if newer else None,
                }
            )
        return out

    def get_can_undo(self, bed: Bed) -> bool:
        return bed.latest.back_id is not None

    def get_can_redo(self, bed: Bed) -> bool:
        return bed.latest.forth_id is not None


class BedListSerializer(serializers.Serializer[Any]):
    """A row of the list of beds; `listed` brings what it shows."""

    id = serializers.IntegerField()
    number = serializers.IntegerField()
    name = serializers.CharField()
    machine = serializers.CharField(source="nozzle.machine.name")
    placings = serializers.SerializerMethodField()
    parts = serializers.SerializerMethodField()
    state = serializers.ChoiceField(BedVersion.State.choices, source="newest.state")
    time_s = serializers.FloatField(source="newest.time_s", allow_null=True)
    mass_g = serializers.FloatField(source="newest.mass_g", allow_null=True)
    created = serializers.DateTimeField()

    def get_placings(self, bed: Any) -> int:
        return len(bed.newest.spec["placings"])

    def get_parts(self, bed: Any) -> list[str]:
        return sorted({pin.its_part.name for pin in bed.newest.pins.all()})


def listed(beds: QuerySet[Bed]) -> list[Any]:
    """Beds with their newest version as ``newest``, without what is large of it."""
    newest = beds.select_related("nozzle__machine").annotate(last=Max("versions__pk"))
    newest = newest.order_by("-number")  # what is grouped forgets its order
    found: list[Any] = list(newest)
    versions = (
        BedVersion.objects.filter(pk__in=[bed.last for bed in found])
        .defer("report", "outlines")
        .annotate(
            time_s=Cast(KeyTransform("total_s", "report"), FloatField()),
            mass_g=Cast(KeyTransform("mass_g", "report"), FloatField()),
        )
        .prefetch_related(
            Prefetch(
                "pins",
                PlanVersion.objects.only("pk", "part__name", "plan__part__name").select_related(
                    "part", "plan__part"
                ),
            )
        )
    )
    by_bed = {version.bed_id: version for version in versions}
    for bed in found:
        bed.newest = by_bed[bed.pk]
    return found
