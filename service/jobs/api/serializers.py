"""What goes over the API about jobs."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema_field
from rest_framework import serializers

from service.jobs.models import Job
from service.jobs.rules.copies import STATES
from service.jobs.rules.schedule import Slot
from service.parts.api.parts import PictureField
from service.workshop.rules.printers import CONNECTIONS


class FiguresSerializer(serializers.Serializer[Any]):
    time_s = serializers.FloatField()
    mass_g = serializers.FloatField()
    length_mm = serializers.FloatField()
    cost = serializers.FloatField()
    layers = serializers.IntegerField()
    top_mm = serializers.FloatField(required=False)
    spread_s = serializers.FloatField(required=False)


class ProgressSerializer(serializers.Serializer[Any]):
    """What the machine last said of a job."""

    layer = serializers.IntegerField(required=False)
    layers = serializers.IntegerField(required=False)
    seconds = serializers.FloatField(required=False)
    left_s = serializers.FloatField(required=False)
    extruded_mm = serializers.FloatField(required=False)
    nozzle = serializers.FloatField(required=False)
    bed = serializers.FloatField(required=False)


class MeasureSerializer(serializers.Serializer[Any]):
    """A dimension of the finished part: what it is, what it should be, what was measured."""

    name = serializers.CharField(max_length=60)
    nominal_mm = serializers.FloatField(min_value=0, max_value=5000)
    measured_mm = serializers.FloatField(min_value=0, max_value=5000)


class SlotSerializer(serializers.Serializer[Slot]):
    """Clock times, and how many seconds the end may come out to either side."""

    begin = serializers.DateTimeField()
    end = serializers.DateTimeField()
    give_s = serializers.FloatField()


class CopySerializer(serializers.Serializer[Any]):
    """A placing of a bed's job: what came of it; "" while that is not known."""

    number = serializers.IntegerField()
    name = serializers.CharField()
    state = serializers.ChoiceField(STATES)


class JobSerializer(serializers.ModelSerializer[Job]):
    figures = FiguresSerializer()
    progress = ProgressSerializer()
    measures = MeasureSerializer(many=True)
    picture = PictureField(source="version.its_part", read_only=True)
    part_name = serializers.CharField(source="version.its_part.name")
    plan = serializers.IntegerField(source="version.plan_id")
    bed = serializers.IntegerField(source="bed.bed_id", default=None, allow_null=True)
    copies = CopySerializer(many=True)
    machine_name = serializers.CharField(source="machine.name", default="")
    spool_label = serializers.CharField(source="spool.label", default="")
    committed_by = serializers.CharField(source="committed_by.member", default="")
    reprint_of = serializers.IntegerField(source="reprint_of.number", default=None, allow_null=True)
    taken_g = serializers.SerializerMethodField()
    photo = serializers.SerializerMethodField()
    slot = serializers.SerializerMethodField()

    class Meta:
        model = Job
        fields = [
            "id",
            "number",
            "file_name",
            "title",
            "part_name",
            "figures",
            "picture",
            "plan",
            "bed",
            "copies",
            "machine",
            "machine_name",
            "spool",
            "spool_label",
            "committed_by",
            "created",
            "reprint_of",
            "state",
            "reason",
            "wish",
            "progress",
            "started",
            "ended",
            "taken_g",
            "slot",
            "outcome",
            "actual_s",
            "finishing_min",
            "note",
            "weighed_g",
            "measures",
            "photo",
            "checksums",
        ]
        read_only_fields = fields

    def get_taken_g(self, job: Job) -> float:
        """g booked so far."""
        return job.booked_mm * job.grams_per_mm

    def get_photo(self, job: Job) -> bool:
        return bool(job.photo_key)

    @extend_schema_field(SlotSerializer(allow_null=True))
    def get_slot(self, job: Job) -> Any:
        """Clock times while it is open."""
        slot = self.context.get("slots", {}).get(job.pk)
        return SlotSerializer(slot).data if slot else None


class NameSerializer(serializers.Serializer[Any]):
    template = serializers.CharField(max_length=120, required=False)


class PressSerializer(NameSerializer):
    """What a commit is pressed with."""

    copies = serializers.IntegerField(min_value=1, max_value=500, default=1)
    ticked = serializers.ListField(
        child=serializers.CharField(max_length=40), max_length=200, default=list
    )
    key = serializers.CharField(
        max_length=40,
        default="",
        allow_blank=True,
        help_text="Of this press: the same key commits once, and answers with the same jobs.",
    )


class CommitSerializer(PressSerializer):
    version = serializers.IntegerField()


class ToldCopySerializer(serializers.Serializer[Any]):
    number = serializers.IntegerField()
    state = serializers.ChoiceField(STATES)


class CopiesSerializer(serializers.Serializer[Any]):
    copies = ToldCopySerializer(many=True)


class NameAnswerSerializer(serializers.Serializer[Any]):
    file_name = serializers.CharField()
    limit = serializers.IntegerField()


class CheckSerializer(serializers.Serializer[Any]):
    key = serializers.CharField()
    level = serializers.ChoiceField(choices=["stop", "look", "fine"])
    words = serializers.CharField()


class ReviewSerializer(serializers.Serializer[Any]):
    checks = CheckSerializer(many=True)
    first = SlotSerializer()
    last = SlotSerializer()
    each_g = serializers.FloatField()
    reserved_g = serializers.FloatField()
    left_g = serializers.FloatField(allow_null=True)


class OutcomeSerializer(serializers.Serializer[Any]):
    outcome = serializers.ChoiceField(choices=["good", "flaws", "failed"])
    actual_s = serializers.FloatField(
        required=False, allow_null=True, min_value=1, max_value=10_000_000
    )
    finishing_min = serializers.FloatField(required=False, min_value=0, max_value=100_000)
    note = serializers.CharField(required=False, allow_blank=True, max_length=2000)
    weighed_g = serializers.FloatField(
        required=False, allow_null=True, min_value=0.01, max_value=100_000
    )
    measures = MeasureSerializer(many=True, required=False)


class InstructionSerializer(serializers.Serializer[Any]):
    """``pause``, ``resume``, ``cancel`` and ``give-up`` (a copy of a bed, by its number) for a
    machine that listens; ``started``, ``done`` and ``failed`` for one that a person speaks for;
    ``begin-short`` for a job that waits because its spool does not reach.
    """

    what = serializers.ChoiceField(
        choices=[
            *("pause", "resume", "cancel", "give-up"),
            *("started", "done", "failed", "begin-short"),
        ]
    )
    copy = serializers.IntegerField(required=False, min_value=1)
    actual_s = serializers.FloatField(
        required=False, allow_null=True, min_value=1, max_value=10_000_000
    )
    reason = serializers.CharField(required=False, allow_blank=True, max_length=300, default="")
    share = serializers.FloatField(required=False, min_value=0, max_value=1, default=0.0)


class PlaceSerializer(serializers.Serializer[Any]):
    before = serializers.IntegerField(
        allow_null=True, help_text="a job of the same queue; null for the end"
    )


class JobSpoolSerializer(serializers.Serializer[Any]):
    spool = serializers.IntegerField()


class FlowSerializer(serializers.Serializer[Any]):
    flow = serializers.FloatField()


class MachineStateSerializer(serializers.Serializer[Any]):
    """What a machine last said."""

    phase = serializers.CharField()
    name = serializers.CharField(allow_blank=True)
    reason = serializers.CharField(allow_blank=True)
    layer = serializers.IntegerField()
    layers = serializers.IntegerField()
    nozzle = serializers.FloatField()
    bed = serializers.FloatField()
    factor = serializers.FloatField()


class NeededChangeSerializer(serializers.Serializer[Any]):
    """What has to be changed on a machine before its next job begins."""

    job = serializers.IntegerField()
    number = serializers.IntegerField()
    kind = serializers.ChoiceField(choices=["spool", "nozzle", "short"])
    words = serializers.CharField()
    steps = serializers.ListField(child=serializers.CharField())
    minutes = serializers.FloatField()
    grams = serializers.FloatField()
    spool = serializers.IntegerField(allow_null=True)
    spool_label = serializers.CharField(allow_blank=True)
    nozzle = serializers.IntegerField(allow_null=True)
    instead = serializers.IntegerField(
        allow_null=True, help_text="a spool of the same material that hangs there already"
    )
    instead_label = serializers.CharField(allow_blank=True)
    material = serializers.IntegerField()


class UnattendedSerializer(serializers.Serializer[Any]):
    """How many waiting jobs run without help, and why the one after them does not."""

    count = serializers.IntegerField()
    waiting = serializers.IntegerField()
    then = serializers.CharField(allow_blank=True)


class FewerSerializer(serializers.Serializer[Any]):
    """Number of spool changes in the present order of a queue, and in the best one."""

    now = serializers.IntegerField()
    least = serializers.IntegerField()


class HungUpSerializer(serializers.Serializer[Any]):
    """A spool that hangs on a machine (null for none), or a nozzle that is fitted."""

    spool = serializers.IntegerField(required=False, allow_null=True)
    nozzle = serializers.IntegerField(required=False)

    def validate(self, said: dict[str, Any]) -> dict[str, Any]:
        if not said:
            raise serializers.ValidationError(
                "say which spool hangs there, or which nozzle is fitted"
            )
        return said


class BoardMachineSerializer(serializers.Serializer[Any]):
    id = serializers.IntegerField()
    name = serializers.CharField()
    kind = serializers.ChoiceField(choices=CONNECTIONS)
    state = MachineStateSerializer(allow_null=True)
    seen = serializers.DateTimeField(allow_null=True)
    lost = serializers.DateTimeField(allow_null=True)
    error = serializers.CharField(allow_blank=True)
    trouble = serializers.CharField(allow_blank=True)
    held = serializers.BooleanField()
    clears_itself = serializers.BooleanField()
    loaded = serializers.CharField(allow_blank=True)
    loaded_since = serializers.DateTimeField(allow_null=True)
    loaded_by = serializers.CharField(allow_blank=True)
    change = NeededChangeSerializer(allow_null=True)
    unattended = UnattendedSerializer()
    fewer = FewerSerializer(allow_null=True)
    free_at = serializers.DateTimeField()
    jobs = JobSerializer(many=True)


class BoardSerializer(serializers.Serializer[Any]):
    """Machines with what is on them and waits for them, and what ended last."""

    machines = BoardMachineSerializer(many=True)
    ended = JobSerializer(many=True)
    now = serializers.DateTimeField()


class SlipLineSerializer(serializers.Serializer[Any]):
    label = serializers.CharField()  # type: ignore[assignment]
    value = serializers.CharField()


class SlipSerializer(serializers.Serializer[Any]):
    """What is printed to lie beside a job."""

    job = JobSerializer()
    settings = SlipLineSerializer(many=True)
    code = serializers.CharField(help_text="SVG of the code to scan")
    address = serializers.CharField()
