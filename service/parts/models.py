"""Parts: the uploaded file as it came, and what was read from it."""

from __future__ import annotations

from django.db import models

from northpace.plan.source import Source
from service.files import fetch


class Part(models.Model):
    """A mesh file of a workshop. The file is kept as it came; ``mesh_key`` is the mended solid."""

    class State(models.TextChoices):
        READING = "reading"
        READY = "ready"
        REFUSED = "refused"

    workshop = models.ForeignKey(
        "workshop.Workshop", on_delete=models.CASCADE, related_name="parts"
    )
    name = models.CharField(max_length=120)
    filename = models.CharField(max_length=200)
    checksum = models.CharField(max_length=64)
    size_bytes = models.BigIntegerField()
    file_key = models.CharField(max_length=120)
    mesh_key = models.CharField(max_length=120, blank=True)
    picture = models.TextField(blank=True)
    state = models.CharField(max_length=10, choices=State.choices, default=State.READING)
    message = models.TextField(blank=True)
    facts = models.JSONField(default=dict)
    created = models.DateTimeField(auto_now_add=True)
    labels = models.JSONField(default=list, help_text="words a maker puts it under")

    planned = models.JSONField(
        null=True, blank=True, help_text="the plan its file held: settings, machine, material"
    )

    class Meta:
        ordering = ["-created", "-id"]

    def __str__(self) -> str:
        return self.name

    @property
    def source(self) -> Source:
        """The file as plans are made from it; read only when something of it is not known yet."""
        return Source(self.filename, self.checksum, lambda: fetch(self.file_key))
