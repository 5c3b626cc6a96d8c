"""What the part is made of: a copy of the workshop's, so that a plan stays what it was."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from northpace.spec.declare import Group, setting


class FlowPoint(Group):
    """What the material melts at a temperature."""

    temp: float = setting(
        210.0,
        "Nozzle",
        help="At this temperature.",
        unit="°C",
        ge=0,
        le=500,
    )
    flow: float = setting(
        11.0,
        "Most flow",
        help="So much is melted without loss.",
        unit="mm³/s",
        ge=0.1,
        le=500,
    )


class FanStage(Group):
    """Fan from a height on."""

    above_mm: float = setting(
        1.0,
        "From",
        help="Layers that begin at this height or higher.",
        unit="mm",
        ge=0,
        le=5000,
    )
    fan: float = setting(
        100.0,
        "Fan",
        help="Until the next stage.",
        unit="%",
        ge=0,
        le=100,
    )


def _open(label: str, unit: str = "mm/s", most: float = 1000) -> Any:
    """A speed or an acceleration that may be left open."""
    return setting(0.0, label, help="0 leaves it to the limits.", unit=unit, ge=0, le=most)


PUSH = ("mm/s²", 50000)


class PaceEnd(Group):
    """One end of the dial for a machine: speeds and accelerations, 0 where they follow from
    limits.
    """

    machine: str = setting(
        "",
        "Machine",
        help="By its name; empty for any machine.",
    )
    outer_wall_speed: float = _open("Outer wall")
    inner_wall_speed: float = _open("Inner walls")
    solid_speed: float = _open("Solid layers")
    top_speed: float = _open("Top")
    gap_speed: float = _open("Thin beads")
    infill_speed: float = _open("Infill")
    bridge_speed: float = _open("Bridges")
    support_speed: float = _open("Supports")
    acceleration: float = _open("Acceleration", *PUSH)
    outer_wall_acceleration: float = _open("Outer wall acceleration", *PUSH)
    top_acceleration: float = _open("Top acceleration", *PUSH)
    first_layer_acceleration: float = _open("First layer acceleration", *PUSH)
    travel_acceleration: float = _open("Travel acceleration", *PUSH)


class Material(Group):
    """What the part is made of; a copy of the workshop's material and spool."""

    name: str = setting(
        "PLA",
        "Name",
        help="The generic kind.",
    )
    density: float = setting(
        1.24,
        "Density",
        help="Mass of solid material.",
        unit="g/cm³",
        ge=0.1,
        le=20,
        moves=("mass",),
    )
    diameter: float = setting(
        1.75,
        "Filament diameter",
        help="As measured on the spool.",
        unit="mm",
        ge=0.5,
        le=5,
    )
    flow: float = setting(
        100.0,
        "Flow correction",
        help="More or less filament than computed, from a measured test wall.",
        unit="%",
        ge=50,
        le=150,
        moves=("mass",),
        within="region",
    )
    price: float = setting(
        20.0,
        "Price",
        help="Of a kilogram.",
        unit="€/kg",
        ge=0,
        le=10000,
    )
    failed_share: float = setting(
        0.0,
        "Failed prints",
        help="Share of prints in this material thrown away, beside the machine's own.",
        unit="%",
        ge=0,
        le=90,
    )
    abrasive: bool = setting(
        False,
        "Abrasive",
        help="Filled with fibres or grains that wear a soft nozzle.",
    )
    max_flow: float = setting(
        11.0,
        "Most flow",
        help="Melted by a 0.4 mm nozzle without loss.",
        unit="mm³/s",
        ge=0.1,
        le=500,
        moves=("time",),
    )
    flow_points: tuple[FlowPoint, ...] = setting(
        (),
        "Most flow by temperature",
        help="Where it is known at several temperatures; between them evenly, beyond them "
        "as at the ends.",
        moves=("time",),
    )
    precise: tuple[PaceEnd, ...] = setting(
        (),
        "Precise end of the dial",
        help="Speeds that look best, by machine; what is left open follows from limits.",
        moves=("time", "surface"),
    )
    quick: tuple[PaceEnd, ...] = setting(
        (),
        "Quick end of the dial",
        help="Speeds that still hold, by machine; what is left open follows from limits.",
        moves=("time", "surface"),
    )
    least_layer_time: float = setting(
        6.0,
        "Least layer time",
        help="For a layer to set.",
        unit="s",
        ge=0,
        le=600,
        moves=("time",),
    )
    floor_speed: float = setting(
        10.0,
        "Floor speed",
        help="Never slower than this when a layer is slowed to let it set.",
        unit="mm/s",
        ge=1,
        le=100,
        moves=("time",),
    )
    nozzle_temp: float = setting(
        205.0,
        "Nozzle",
        help="Above the first layer.",
        unit="°C",
        ge=0,
        le=500,
    )
    first_nozzle_temp: float = setting(
        210.0,
        "Nozzle, first layer",
        help="On the first layer.",
        unit="°C",
        ge=0,
        le=500,
    )
    bed_temp: float = setting(
        55.0,
        "Bed",
        help="Above the first layer.",
        unit="°C",
        ge=0,
        le=200,
    )
    first_bed_temp: float = setting(
        60.0,
        "Bed, first layer",
        help="On the first layer.",
        unit="°C",
        ge=0,
        le=200,
    )
    fan: float = setting(
        100.0,
        "Fan",
        help="Above the first layers.",
        unit="%",
        ge=0,
        le=100,
    )
    fan_stages: tuple[FanStage, ...] = setting(
        (),
        "Fan by height",
        help="Stages of the fan from the bed up, instead of one value; nothing below the first.",
        moves=("surface", "strength"),
    )
    usable_mass: float | None = setting(
        None,
        "Left on the spool",
        help="What can still be used.",
        unit="g",
        ge=0,
        le=100000,
    )

    @property
    def section(self) -> float:
        """Area of the filament's cross section in mm²."""
        return math.pi * self.diameter**2 / 4

    @property
    def grams_per_mm(self) -> float:
        """Mass in g of a millimetre of filament."""
        return self.section / 1e3 * self.density

    def flow_at(self, temp: Any) -> Any:
        """What is melted at best in mm³/s at nozzle temperatures (°C, a number or an array)."""
        if not self.flow_points:
            return np.full(np.shape(temp), self.max_flow) if np.ndim(temp) else self.max_flow
        points = sorted(self.flow_points, key=lambda point: point.temp)
        found = np.interp(temp, [point.temp for point in points], [point.flow for point in points])
        return found if np.ndim(temp) else float(found)
