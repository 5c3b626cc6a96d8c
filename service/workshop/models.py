"""Machines with their nozzles, materials and spools of a workshop."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.db import models
from django.db.models.fields.json import KT

from northpace.naming import DEFAULT_TEMPLATE


class Workshop(models.Model):
    """A workshop; everything else belongs to one."""

    name = models.CharField(max_length=120)
    name_template = models.CharField(max_length=120, default=DEFAULT_TEMPLATE)
    checklist = models.JSONField(default=list, blank=True)
    labour_rate = models.FloatField(default=0, help_text="€/h of work by hand")
    sample = models.BooleanField(default=False)
    keep_days = models.PositiveIntegerField(
        default=60, help_text="days a version of a plan is kept that nothing needs; 0 for ever"
    )
    house = models.JSONField(
        default=dict,
        blank=True,
        help_text="hours, rates and rules for orders, as the core has them",
    )

    def __str__(self) -> str:
        return self.name


class Machine(models.Model):
    """A machine. ``figures`` holds the core's machine settings that differ from their defaults,
    ``learnt`` what its finished jobs told about it.

    ``connection`` says how jobs get to it: ``{"kind": "printer", "address": …}``, ``{"kind":
    "folder", "folder": …}``, or nothing, when files are carried by hand. ``contact`` is what was
    last heard from it.
    """

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="machines")
    name = models.CharField(max_length=80)
    figures = models.JSONField(default=dict)
    learnt = models.JSONField(null=True, blank=True)
    learnt_off = models.BooleanField(
        default=False, help_text="its estimates are not corrected by its jobs"
    )
    connection = models.JSONField(default=dict, blank=True)
    contact = models.JSONField(default=dict, blank=True)
    bed_change_min = models.FloatField(
        default=5, help_text="minutes from the end of a job to the start of the next"
    )
    held = models.BooleanField(default=False, help_text="its queue waits")
    clears_itself = models.BooleanField(
        default=False, help_text="the bed is clear without a hand, and the next job may start"
    )
    spool_change_min = models.FloatField(
        default=5, help_text="minutes a change of spool or nozzle takes"
    )
    # what hangs on it and is fitted, since when, and who said so
    loaded = models.ForeignKey(
        "Spool", on_delete=models.SET_NULL, null=True, blank=True, related_name="+"
    )
    loaded_since = models.DateTimeField(null=True, blank=True)
    loaded_by = models.ForeignKey(
        settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, blank=True, related_name="+"
    )
    fitted = models.ForeignKey(
        "Nozzle", on_delete=models.SET_NULL, null=True, blank=True, related_name="+"
    )

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], name="machine_name_once"),
            # of all workshops: two that speak to one printer would clear each other's beds
            models.UniqueConstraint(
                KT("connection__address"),
                condition=models.Q(connection__kind="printer"),
                name="printer_once",
            ),
            models.UniqueConstraint(
                KT("connection__folder"),
                condition=models.Q(connection__kind="folder"),
                name="folder_once",
            ),
        ]

    def __str__(self) -> str:
        return self.name


class Nozzle(models.Model):
    """A nozzle a machine can carry, with what it changes: bore, flow, least and greatest layer
    height.
    """

    machine = models.ForeignKey(Machine, on_delete=models.CASCADE, related_name="nozzles")
    bore = models.FloatField()
    flow = models.FloatField()
    least_height = models.FloatField()
    greatest_height = models.FloatField(null=True, blank=True)
    hard = models.BooleanField(default=False)

    class Meta:
        ordering = ["bore"]

    def __str__(self) -> str:
        return f"{self.bore:g} mm"

    def spec(self) -> dict[str, Any]:
        """The core's machine group for this machine with this nozzle."""
        found = self.machine.learnt or {}
        own = (
            {
                "acceleration_reached": 100 * found["factor"],
                "layer_overhead": found["layer_s"],
                "estimate_spread": 100 * found["spread"],
            }
            if found
            else {}
        )
        tallest = {} if self.greatest_height is None else {"greatest_height": self.greatest_height}
        return {
            **self.machine.figures,
            **own,
            "name": self.machine.name,
            "nozzle": self.bore,
            "nozzle_flow": self.flow,
            "least_height": self.least_height,
            "nozzle_hard": self.hard,
            **tallest,
        }


class Material(models.Model):
    """A kind of filament. ``figures`` holds the core's material settings that differ from their
    defaults.
    """

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="materials")
    name = models.CharField(max_length=80)
    figures = models.JSONField(default=dict)
    purge_g = models.FloatField(
        default=4, help_text="g that are laid until a new spool of it runs clean"
    )

    class Meta:
        ordering = ["id"]
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], name="material_name_once")
        ]

    def __str__(self) -> str:
        return self.name


class Spool(models.Model):
    """A spool on the shelf: what is left on it, and what was measured of its filament. ``figures``
    holds what was found to suit it better than the figures of its material.
    """

    material = models.ForeignKey(Material, on_delete=models.CASCADE, related_name="spools")
    label = models.CharField(max_length=40)
    colour = models.CharField(max_length=40, blank=True)
    usable_mass = models.FloatField(help_text="g")
    diameter = models.FloatField(default=1.75, help_text="mm, as measured")
    tare = models.FloatField(null=True, blank=True, help_text="g, the empty reel")
    net = models.FloatField(null=True, blank=True, help_text="g, filament when new")
    figures = models.JSONField(default=dict, blank=True)

    class Meta:
        ordering = ["label"]

    def __str__(self) -> str:
        return self.label


class SpoolEntry(models.Model):
    """A line of a spool's ledger: what was taken or put right (g, negative is less), and what was
    left after it.
    """

    class Kind(models.TextChoices):
        TAKEN = "taken"
        WEIGHED = "weighed"
        CORRECTED = "corrected"

    spool = models.ForeignKey(Spool, on_delete=models.CASCADE, related_name="entries")
    kind = models.CharField(max_length=10, choices=Kind.choices)
    grams = models.FloatField()
    left_after = models.FloatField()
    job = models.ForeignKey(
        "jobs.Job", on_delete=models.SET_NULL, null=True, blank=True, related_name="entries"
    )
    note = models.CharField(max_length=300, blank=True)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created", "-id"]

    def __str__(self) -> str:
        return f"{self.grams:+.2f} g on {self.spool}"


class Recipe(models.Model):
    """A named starting point for plans: the settings it brings, and the nozzle it suits.
    ``machine`` and ``material``, when given, narrow it further.
    """

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="recipes")
    name = models.CharField(max_length=80)
    note = models.CharField(max_length=300, blank=True)
    settings = models.JSONField(default=dict)
    bore = models.FloatField(help_text="mm")
    machine = models.ForeignKey(
        Machine, on_delete=models.CASCADE, null=True, blank=True, related_name="recipes"
    )
    material = models.ForeignKey(
        Material, on_delete=models.CASCADE, null=True, blank=True, related_name="recipes"
    )

    class Meta:
        ordering = ["name"]
        constraints = [
            models.UniqueConstraint(fields=["workshop", "name"], name="recipe_name_once")
        ]

    def __str__(self) -> str:
        return self.name

    def suits(self, nozzle: Nozzle, material: Material) -> bool:
        """Whether it can be used with this nozzle and material."""
        return (
            abs(self.bore - nozzle.bore) < 1e-9
            and self.machine_id in (None, nozzle.machine_id)
            and self.material_id in (None, material.pk)
        )


def material_spec(material: Material, spool: Spool | None) -> dict[str, Any]:
    """The core's material group for a material from a spool."""
    own = (
        {**spool.figures, "usable_mass": spool.usable_mass, "diameter": spool.diameter}
        if spool
        else {}
    )
    return {**material.figures, "name": material.name, **own}
