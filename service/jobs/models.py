"""Jobs: committed plans. A job never changes what it was committed with."""

from __future__ import annotations

from django.conf import settings
from django.db import models
from pydantic import ValidationError

from northpace.spec import Material, PlanSpec
from northpace.spec.kept import spec_kept


class JobQuerySet(models.QuerySet["Job"]):
    """Jobs by where they stand."""

    def open(self) -> JobQuerySet:
        """Those that have not ended."""
        return self.filter(state__in=Job.OPEN)


class Job(models.Model):
    """A committed version of a plan, with the file that goes to the machine, its place in the
    machine's queue, and what became of it.
    """

    class State(models.TextChoices):
        QUEUED = "queued"
        SENDING = "sending"
        HEATING = "heating"
        PRINTING = "printing"
        PAUSED = "paused"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    #: On the machine, or on its way there.
    ACTIVE = (State.SENDING, State.HEATING, State.PRINTING, State.PAUSED)
    OPEN = (State.QUEUED, *ACTIVE)
    ENDED = (State.DONE, State.FAILED, State.CANCELLED)

    objects = JobQuerySet.as_manager()

    workshop = models.ForeignKey("workshop.Workshop", on_delete=models.CASCADE, related_name="jobs")
    version = models.ForeignKey("plans.PlanVersion", on_delete=models.PROTECT, related_name="jobs")
    bed = models.ForeignKey(
        "beds.BedVersion",
        on_delete=models.PROTECT,
        null=True,
        blank=True,
        related_name="jobs",
        help_text="the bed it is of; its version is then the plan that is laid first",
    )
    number = models.PositiveIntegerField()
    # what was committed: none of this changes any more
    file_name = models.CharField(max_length=220)
    file_key = models.CharField(max_length=120)
    title = models.CharField(max_length=300)
    figures = models.JSONField()
    spec = models.JSONField(default=dict)
    checksums = models.JSONField(default=dict)
    checks = models.JSONField(default=list)
    machine = models.ForeignKey(
        "workshop.Machine", on_delete=models.PROTECT, null=True, related_name="jobs"
    )
    committed_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+"
    )
    created = models.DateTimeField(auto_now_add=True)
    # of the press that committed it, so that the same one never commits twice
    commit_key = models.CharField(max_length=40, blank=True, db_index=True)
    reprint_of = models.ForeignKey(
        "self", on_delete=models.SET_NULL, null=True, blank=True, related_name="reprints"
    )
    # where it stands
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    reason = models.CharField(max_length=300, blank=True)
    position = models.FloatField(default=0)
    run = models.CharField(max_length=32, blank=True)
    progress = models.JSONField(default=dict, blank=True)
    wish = models.CharField(
        max_length=10, blank=True, help_text="what the machine is to be told once it answers"
    )
    started = models.DateTimeField(null=True, blank=True)
    ended = models.DateTimeField(null=True, blank=True)
    spool = models.ForeignKey(
        "workshop.Spool", on_delete=models.SET_NULL, null=True, blank=True, related_name="jobs"
    )
    begin_short = models.BooleanField(
        default=False, help_text="it begins although its spool does not reach"
    )
    booked_mm = models.FloatField(default=0, help_text="mm of filament taken off spools so far")
    # what came of it
    outcome = models.CharField(
        max_length=8,
        blank=True,
        choices=[("good", "good"), ("flaws", "flaws"), ("failed", "failed")],
    )
    actual_s = models.FloatField(
        null=True, blank=True, help_text="s, from start to end, heating included"
    )
    finishing_min = models.FloatField(default=0, help_text="minutes of work by hand afterwards")
    copies = models.JSONField(
        default=list, blank=True, help_text="of a bed: number, name and what came of each"
    )
    note = models.CharField(max_length=2000, blank=True)
    weighed_g = models.FloatField(
        null=True, blank=True, help_text="g, the finished part on a scale"
    )
    measures = models.JSONField(default=list, blank=True)
    photo_key = models.CharField(max_length=120, blank=True)

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.UniqueConstraint(fields=["workshop", "number"], name="job_number_once"),
            models.UniqueConstraint(
                fields=["run"], condition=~models.Q(run=""), name="job_run_once"
            ),
        ]

    def __str__(self) -> str:
        return f"job {self.number}"

    @property
    def whole_spec(self) -> PlanSpec:
        """The spec it was committed with, also where an older program kept it."""
        return spec_kept(self.spec, self.version.spec_version)

    @property
    def given_up(self) -> list[int]:
        """Numbers of the copies of a bed that were given up."""
        return [copy["number"] for copy in self.copies if copy["state"] == "given-up"]

    @property
    def grams_per_mm(self) -> float:
        """Grams of a millimetre of the filament it was committed for."""
        try:
            return Material(**self.spec["material"]).grams_per_mm
        except ValidationError:  # kept by an older program
            return self.whole_spec.material.grams_per_mm

    @property
    def still_taken_g(self) -> float:
        """Grams it will still take from its spool."""
        return float(max(self.figures["mass_g"] - self.booked_mm * self.grams_per_mm, 0.0))
