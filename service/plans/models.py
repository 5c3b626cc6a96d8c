"""Plans and their versions. A version is immutable once computed, and stamped with the version of
the core.
"""

from __future__ import annotations

from typing import Any

from django.db import models

from northpace.spec import PlanSpec
from northpace.spec.kept import VERSION as SPEC_VERSION
from northpace.spec.kept import spec_kept
from service.computed import Computed, Computing, newest


class Plan(models.Model):
    """One answer for one part, growing by versions."""

    workshop = models.ForeignKey(
        "workshop.Workshop", on_delete=models.CASCADE, related_name="plans"
    )
    part = models.ForeignKey("parts.Part", on_delete=models.CASCADE, related_name="plans")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=120, blank=True)
    verdict = models.CharField(max_length=300, blank=True)
    baseline = models.ForeignKey(
        "PlanVersion", on_delete=models.SET_NULL, null=True, blank=True, related_name="+"
    )
    recipe = models.ForeignKey(
        "workshop.Recipe", on_delete=models.SET_NULL, null=True, blank=True, related_name="+"
    )
    created = models.DateTimeField(auto_now_add=True)
    # of the newest exact version, to be sorted by
    time_s = models.FloatField(null=True)
    mass_g = models.FloatField(null=True)
    cost = models.FloatField(null=True)
    mean_um = models.FloatField(null=True)
    p95_um = models.FloatField(null=True)
    max_um = models.FloatField(null=True)
    stops = models.PositiveIntegerField(null=True)
    looks = models.PositiveIntegerField(null=True)
    # of its jobs and copies on beds that have ended
    printed = models.DateTimeField(null=True, help_text="when the last one was done")
    told = models.PositiveIntegerField(default=0, help_text="of how many it is known what came")
    good = models.PositiveIntegerField(default=0, help_text="how many of these are good")

    class Meta:
        ordering = ["-created", "-id"]
        constraints = [
            models.UniqueConstraint(fields=["workshop", "number"], name="plan_number_once")
        ]

    def __str__(self) -> str:
        return f"plan {self.number}"

    @property
    def latest(self) -> PlanVersion:
        """The version being worked on."""
        return newest(self.versions.all(), str(self))


class PlanVersion(Computed):
    """Settings, the spec they give with machine and material, and what was computed from it."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="versions")
    part = models.ForeignKey("parts.Part", on_delete=models.SET_NULL, null=True, related_name="+")
    nozzle = models.ForeignKey("workshop.Nozzle", on_delete=models.PROTECT, related_name="+")
    material = models.ForeignKey("workshop.Material", on_delete=models.PROTECT, related_name="+")
    spool = models.ForeignKey(
        "workshop.Spool", on_delete=models.SET_NULL, null=True, blank=True, related_name="+"
    )
    settings = models.JSONField(default=dict)
    spec = models.JSONField()
    spec_version = models.PositiveSmallIntegerField(default=SPEC_VERSION)
    checksum = models.CharField(max_length=64)
    correction = models.JSONField(null=True)
    back = models.ForeignKey(
        "self",
        on_delete=models.SET_NULL,
        null=True,
        related_name="+",
        help_text="the version that undoing the change returns to",
    )
    forth = models.ForeignKey(
        "self",
        on_delete=models.SET_NULL,
        null=True,
        related_name="+",
        help_text="the version that was undone, which doing it again returns to",
    )
    desk = models.CharField(max_length=40, blank=True, help_text="the screen it was made on")
    laid_key = models.CharField(
        max_length=120, blank=True, help_text="beads to look at while it is computed"
    )
    laid_words = models.CharField(max_length=60, blank=True, help_text="what these beads are")

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.UniqueConstraint(fields=["plan", "number"], name="version_number_once")
        ]

    def __str__(self) -> str:
        return f"{self.plan} version {self.number}"

    @property
    def its_part(self) -> Any:
        """The part it was computed for; that of its plan where that part is gone."""
        return self.part or self.plan.part

    @property
    def whole_spec(self) -> PlanSpec:
        """Its spec, also where an older program kept it."""
        return spec_kept(self.spec, self.spec_version)

    def save(self, *args: Any, **kwargs: Any) -> None:
        """Refuse to change what was computed."""
        if self.pk and PlanVersion.objects.filter(pk=self.pk, state=self.State.DONE).exists():
            raise ValueError(f"{self} is computed and does not change; make a new version")
        super().save(*args, **kwargs)


class Presence(models.Model):
    """A screen that shows a plan, and when it last said so."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="presences")
    desk = models.CharField(max_length=40)
    name = models.CharField(max_length=80)
    seen = models.DateTimeField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["plan", "desk"], name="desk_once")]

    def __str__(self) -> str:
        return f"{self.name} at {self.plan}"


class Acknowledgement(models.Model):
    """A finding a maker has looked at and accepts, with the reason. It holds while the finding says
    the same.
    """

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="acknowledgements")
    code = models.CharField(max_length=40)
    message = models.TextField()
    reason = models.CharField(max_length=300)
    by = models.ForeignKey("auth.User", on_delete=models.SET_NULL, null=True, related_name="+")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["created"]
        constraints = [models.UniqueConstraint(fields=["plan", "code"], name="acknowledged_once")]

    def __str__(self) -> str:
        return f"{self.code} of {self.plan}"

    def holds(self, finding: dict[str, Any]) -> bool:
        """Whether it is this finding, unchanged."""
        return bool(finding["code"] == self.code and finding["message"] == self.message)


class TestSlice(models.Model):
    """A stretch of a plan printed as a sample of its own: what it showed, and the verdict on it."""

    class Verdict(models.TextChoices):
        OPEN = "open"
        ACCEPT = "accept"
        TOO_COARSE = "too-coarse"

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="slices")
    version = models.ForeignKey(PlanVersion, on_delete=models.CASCADE, related_name="+")
    trial = models.OneToOneField(Plan, on_delete=models.CASCADE, related_name="slice_of")
    from_mm = models.FloatField()
    to_mm = models.FloatField()
    error_um = models.FloatField()
    verdict = models.CharField(max_length=12, choices=Verdict.choices, default=Verdict.OPEN)
    note = models.TextField(blank=True, max_length=2000)
    photo_key = models.CharField(max_length=120, blank=True)
    target_um = models.FloatField(null=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created", "-id"]

    def __str__(self) -> str:
        return f"{self.from_mm:.1f} to {self.to_mm:.1f} mm of {self.plan}"


class WaySearch(Computing):
    """Ways a plan's part may stand, as they are found: figures, and a picture each."""

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="way_searches")
    version = models.ForeignKey(PlanVersion, on_delete=models.CASCADE, related_name="+")
    pull = models.JSONField(null=True, help_text="a load in the file, x, y, z")
    ways = models.JSONField(default=list)
    of = models.PositiveIntegerField(default=0, help_text="how many are looked at")

    class Meta:
        ordering = ["-created", "-id"]

    def __str__(self) -> str:
        return f"ways of {self.plan}"


class Search(models.Model):
    """A search for changes that make a plan quicker, what it holds, and what came of it.
    ``correction`` is what its exact plans were made with.
    """

    class State(models.TextChoices):
        QUEUED = "queued"
        SEARCHING = "searching"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    OPEN = (State.QUEUED, State.SEARCHING)

    plan = models.ForeignKey(Plan, on_delete=models.CASCADE, related_name="searches")
    version = models.ForeignKey(PlanVersion, on_delete=models.CASCADE, related_name="+")
    held = models.JSONField()
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    stage = models.CharField(max_length=20, blank=True)
    share = models.FloatField(default=0)
    message = models.TextField(blank=True)
    result = models.JSONField(null=True)
    correction = models.JSONField(null=True)
    created = models.DateTimeField(auto_now_add=True)
    ended = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-created", "-id"]

    def __str__(self) -> str:
        return f"search of {self.plan}"

    def proposes(self, checksum: str) -> bool:
        """Whether settings with this checksum are among what was proposed, alone or as a step of
        the chain.
        """
        found = self.result or {}
        return any(
            one["checksum"] == checksum
            for one in (*found.get("singles", ()), *found.get("chain", ()))
        )
