"""The plan spec: all groups as one answer, and the contradictions between them."""

from __future__ import annotations

import math

from pydantic import model_validator

from northpace.spec import widths
from northpace.spec.declare import Group
from northpace.spec.groups.body import Body
from northpace.spec.groups.ends import Ends
from northpace.spec.groups.footing import Footing
from northpace.spec.groups.heat import HeatAir
from northpace.spec.groups.limits import Limits
from northpace.spec.groups.machine import Machine
from northpace.spec.groups.material import Material
from northpace.spec.groups.mesh import Mesh, body_contradictions
from northpace.spec.groups.pace import Pace
from northpace.spec.groups.placement import Placement
from northpace.spec.groups.supports import Supports
from northpace.spec.groups.surface import Surface, height_contradictions
from northpace.spec.places.regions import region_contradictions

#: Settings that are the width of a laid bead.
WIDTHS = (
    ("body", "outer_width"),
    ("body", "inner_width"),
    ("body", "solid_width"),
    ("body", "top_width"),
    ("body", "infill_width"),
    ("body", "first_layer_width"),
    ("footing", "skirt_width"),
    ("supports", "width"),
)


#: What `PlanSpec.tallest` reads.
TALLEST = (
    "surface.first_layer_height",
    "surface.layer_height",
    "surface.greatest_height",
    "surface.kind",
    "surface.stack",
    "surface.pins",
    "surface.bands",
    "machine.nozzle",
    "machine.greatest_height",
)


class PlanSpec(Group):
    """One complete answer for one part. Only numbers and words: no file, no database row."""

    mesh: Mesh = Mesh()
    place: Placement = Placement()
    surface: Surface = Surface()
    body: Body = Body()
    pace: Pace = Pace()
    air: HeatAir = HeatAir()
    footing: Footing = Footing()
    supports: Supports = Supports()
    limits: Limits = Limits()
    ends: Ends = Ends()
    machine: Machine = Machine()
    material: Material = Material()

    @property
    def tallest(self) -> float:
        """The tallest layer in mm that this plan can have."""
        surface, stated = self.surface, [self.surface.first_layer_height]
        if surface.kind == "even" and not surface.stack:
            stated.append(surface.layer_height)
        elif not surface.stack:
            stated.append(min(surface.greatest_height or math.inf, self.machine.h_max))
        stated += [*surface.stack, *(pin.height_mm for pin in surface.pins)]
        stated += [
            value for band in surface.bands for value in (band.height_mm, band.greatest_mm) if value
        ]
        return max(stated)

    @model_validator(mode="after")
    def _contradictions(self) -> PlanSpec:
        problems = [
            *height_contradictions(self.surface, self.machine),
            *region_contradictions(self.body.regions),
            *body_contradictions(self.mesh),
            *self._heights(),
            *self._widths(),
            *self._temperatures(),
        ]
        if not self.body.solid_angles:
            problems.append("body.solid_angles: solid lines need at least one angle")
        if self.place.down_x**2 + self.place.down_y**2 + self.place.down_z**2 < 1e-6:
            problems.append("place.down_z: the face to stand on needs a direction; 0, 0, 0 is none")
        if problems:
            raise ValueError("; ".join(problems))
        return self

    def _heights(self) -> list[str]:
        machine, problems = self.machine, []
        low, high, q = machine.least_height, machine.h_max, machine.z_step
        for name in ("layer_height", "first_layer_height"):
            value = getattr(self.surface, name)
            if not low - 1e-9 <= value <= high + 1e-9:
                problems.append(
                    f"surface.{name}: {value:g} mm is outside what {machine.name} lays with its "
                    f"{machine.nozzle:g} mm nozzle: {low:g} to {high:g} mm"
                )
            elif abs(value / q - round(value / q)) > 1e-6:
                problems.append(
                    f"surface.{name}: {value:g} mm is no multiple of the machine's height step; "
                    f"allowed are multiples of {q:g} mm"
                )
        return problems

    def _widths(self) -> list[str]:
        """Beads that the nozzle does not lay; see `northpace.spec.widths`."""
        bore, tallest, problems = self.machine.nozzle, self.tallest, []
        low, high = widths.BEAD[0] * bore, widths.BEAD[1] * bore
        for group, name in WIDTHS:
            width = getattr(getattr(self, group), name)
            if width is None:
                continue
            if width <= tallest:
                problems.append(
                    f"{group}.{name}: a bead of {width:g} mm must be wider than the tallest "
                    f"layer ({tallest:g} mm)"
                )
            elif not low - 1e-9 <= width <= high + 1e-9:
                problems.append(
                    f"{group}.{name}: a {bore:g} mm nozzle lays no bead of {width:g} mm; "
                    f"allowed are {low:g} to {high:g} mm"
                )
        wall = self.body.outer_width
        low, high = widths.SPIRAL[0] * bore, widths.SPIRAL[1] * bore
        if self.body.build == "spiral" and not low - 1e-9 <= wall <= high + 1e-9:
            problems.append(
                f"body.outer_width: one wall that rises without a stop holds with {low:g} to "
                f"{high:g} mm from a {bore:g} mm nozzle, not with {wall:g} mm"
            )
        bridge = self.body.bridge_width
        low, high = widths.BRIDGE[0] * bore, widths.BRIDGE[1] * bore
        if bridge is not None and not low - 1e-9 <= bridge <= high + 1e-9:
            problems.append(
                f"body.bridge_width: a {bore:g} mm nozzle draws no thread of {bridge:g} mm across "
                f"open air; allowed are {low:g} to {high:g} mm"
            )
        return problems

    def _temperatures(self) -> list[str]:
        machine, heat, problems = self.machine, resolve_heat(self), []
        hot = max(heat["nozzle_temp"], heat["first_nozzle_temp"])
        if hot > machine.hottest_nozzle:
            problems.append(
                f"air.nozzle_temp: {self.material.name} at {hot:g} °C is too hot for "
                f"{machine.name}; at most {machine.hottest_nozzle:g} °C"
            )
        warm = max(heat["bed_temp"], heat["first_bed_temp"])
        if warm > machine.hottest_bed:
            problems.append(
                f"air.bed_temp: {warm:g} °C is more than the bed of {machine.name} reaches; at "
                f"most {machine.hottest_bed:g} °C"
            )
        return problems


def resolve_heat(spec: PlanSpec) -> dict[str, float]:
    """Temperatures (°C), fan (%), floor speed (mm/s) and least layer time (s) with the material's
    values where the plan leaves them open.
    """
    out = {
        name: getattr(spec.air, name)
        if getattr(spec.air, name) is not None
        else getattr(spec.material, name)
        for name in ("nozzle_temp", "first_nozzle_temp", "bed_temp", "first_bed_temp", "fan")
    }
    out["bridge_fan"] = out["fan"] if spec.air.bridge_fan is None else spec.air.bridge_fan
    own, slowest = spec.pace.least_layer_time, spec.pace.floor_speed
    out["floor_speed"] = spec.material.floor_speed if slowest is None else slowest
    out["least_layer_time"] = spec.material.least_layer_time if own is None else own
    return out
