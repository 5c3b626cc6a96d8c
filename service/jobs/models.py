"""Jobs: committed plans. A job never changes what it was committed with."""

from __future__ import annotations

from django.conf import settings
from django.db import models


class Job(models.Model):
    """A committed version of a plan, with the file that goes to the machine."""

    workshop = models.ForeignKey("workshop.Workshop", on_delete=models.CASCADE, related_name="jobs")
    version = models.ForeignKey("plans.PlanVersion", on_delete=models.PROTECT, related_name="jobs")
    number = models.PositiveIntegerField()
    file_name = models.CharField(max_length=220)
    file_key = models.CharField(max_length=120)
    title = models.CharField(max_length=300)
    figures = models.JSONField()
    committed_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    created = models.DateTimeField(auto_now_add=True)
    # what came of it; none of this changes what was committed
    outcome = models.CharField(max_length=8, blank=True, choices=[("good", "good"), ("flaws", "flaws"), ("failed", "failed")])
    actual_s = models.FloatField(null=True, blank=True, help_text="s, from start to end, heating included")
    finishing_min = models.FloatField(default=0, help_text="minutes of work by hand afterwards")
    note = models.CharField(max_length=2000, blank=True)

    class Meta:
        ordering = ["-number"]
        constraints = [models.UniqueConstraint(fields=["workshop", "number"], name="job_number_once")]

    def __str__(self) -> str:
        return f"job {self.number}"
