"""Machines with their nozzles, materials and spools of a workshop."""

from __future__ import annotations

from typing import Any

from django.db import models

from northpace.naming import DEFAULT_TEMPLATE


class Workshop(models.Model):
    """A workshop; everything else belongs to one."""

    name = models.CharField(max_length=120)
    name_template = models.CharField(max_length=120, default=DEFAULT_TEMPLATE)
    sample = models.BooleanField(default=False)

    def __str__(self) -> str:
        return self.name


class Machine(models.Model):
    """A machine. ``figures`` holds the core's machine settings that differ from their defaults, ``learnt`` what its finished jobs told about it."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="machines")
    name = models.CharField(max_length=80)
    figures = models.JSONField(default=dict)
    learnt = models.JSONField(null=True, blank=True)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["workshop", "name"], name="machine_name_once")]

    def __str__(self) -> str:
        return self.name


class Nozzle(models.Model):
    """A nozzle a machine can carry, with what it changes: bore, flow, least and greatest layer height."""

    machine = models.ForeignKey(Machine, on_delete=models.CASCADE, related_name="nozzles")
    bore = models.FloatField()
    flow = models.FloatField()
    least_height = models.FloatField()

    class Meta:
        ordering = ["bore"]

    def __str__(self) -> str:
        return f"{self.bore:g} mm"

    def spec(self) -> dict[str, Any]:
        """The core's machine group for this machine with this nozzle."""
        found = self.machine.learnt or {}
        own = {"acceleration_reached": 100 * found["factor"], "layer_overhead": found["layer_s"], "estimate_spread": 100 * found["spread"]} if found else {}
        return {**self.machine.figures, **own, "name": self.machine.name, "nozzle": self.bore, "nozzle_flow": self.flow,
                "least_height": self.least_height}


class Material(models.Model):
    """A kind of filament. ``figures`` holds the core's material settings that differ from their defaults."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="materials")
    name = models.CharField(max_length=80)
    figures = models.JSONField(default=dict)

    class Meta:
        ordering = ["id"]
        constraints = [models.UniqueConstraint(fields=["workshop", "name"], name="material_name_once")]

    def __str__(self) -> str:
        return self.name


class Spool(models.Model):
    """A spool on the shelf: what is left on it, and what was measured of its filament. ``figures`` holds what was found to suit it better than
    the figures of its material."""

    material = models.ForeignKey(Material, on_delete=models.CASCADE, related_name="spools")
    label = models.CharField(max_length=40)
    colour = models.CharField(max_length=40, blank=True)
    usable_mass = models.FloatField(help_text="g")
    diameter = models.FloatField(default=1.75, help_text="mm, as measured")
    figures = models.JSONField(default=dict, blank=True)

    class Meta:
        ordering = ["label"]

    def __str__(self) -> str:
        return self.label


class Recipe(models.Model):
    """A named starting point for plans: the settings it brings, and the nozzle it suits. ``machine`` and ``material``, when given, narrow
    it further."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="recipes")
    name = models.CharField(max_length=80)
    note = models.CharField(max_length=300, blank=True)
    settings = models.JSONField(default=dict)
    bore = models.FloatField(help_text="mm")
    machine = models.ForeignKey(Machine, on_delete=models.CASCADE, null=True, blank=True, related_name="recipes")
    material = models.ForeignKey(Material, on_delete=models.CASCADE, null=True, blank=True, related_name="recipes")

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["workshop", "name"], name="recipe_name_once")]

    def __str__(self) -> str:
        return self.name

    def suits(self, nozzle: Nozzle, material: Material) -> bool:
        """Whether it can be used with this nozzle and material."""
        return (abs(self.bore - nozzle.bore) < 1e-9 and self.machine_id in (None, nozzle.machine_id)
                and self.material_id in (None, material.pk))


def material_spec(material: Material, spool: Spool | None) -> dict[str, Any]:
    """The core's material group for a material from a spool."""
    own = {**spool.figures, "usable_mass": spool.usable_mass, "diameter": spool.diameter} if spool else {}
    return {**material.figures, "name": material.name, **own}
