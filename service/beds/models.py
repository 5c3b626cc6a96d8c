"""Beds and their versions: placings that pin versions of plans. A version does not change once it
is computed.
"""

from __future__ import annotations

from django.db import models

from northpace.beds.spec import BedSpec, bed_from
from service.computed import Computed, newest


class Bed(models.Model):
    """A build plate of one machine with one nozzle, growing by versions."""

    workshop = models.ForeignKey("workshop.Workshop", on_delete=models.CASCADE, related_name="beds")
    number = models.PositiveIntegerField()
    name = models.CharField(max_length=120, blank=True)
    nozzle = models.ForeignKey("workshop.Nozzle", on_delete=models.PROTECT, related_name="+")
    spool = models.ForeignKey(
        "workshop.Spool", on_delete=models.SET_NULL, null=True, blank=True, related_name="+"
    )
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created", "-id"]
        constraints = [
            models.UniqueConstraint(fields=["workshop", "number"], name="bed_number_once")
        ]

    def __str__(self) -> str:
        return f"bed {self.number}"

    @property
    def latest(self) -> BedVersion:
        """The version being worked on."""
        return newest(self.versions.all(), str(self))


class BedVersion(Computed):
    """A bed as it was laid out at one time, and what was computed of it."""

    bed = models.ForeignKey(Bed, on_delete=models.CASCADE, related_name="versions")
    spec = models.JSONField(help_text="the plan of a placing is the key of a version of a plan")
    pins = models.ManyToManyField("plans.PlanVersion", related_name="bed_versions")
    wish = models.CharField(
        max_length=40, blank=True, help_text="what is done to the placings first: arrange, fill KEY"
    )
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
    beside = models.JSONField(default=list, help_text="numbers of placings that did not fit")
    outlines = models.JSONField(null=True, help_text="what the map draws of every plan and turn")

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.UniqueConstraint(fields=["bed", "number"], name="bed_version_number_once")
        ]

    def __str__(self) -> str:
        return f"{self.bed} version {self.number}"

    @property
    def whole_spec(self) -> BedSpec:
        """What was said of it."""
        return bed_from(self.spec)
