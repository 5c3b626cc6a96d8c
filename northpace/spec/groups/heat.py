"""Temperatures and fan."""

from __future__ import annotations

from northpace.spec.declare import Group, setting


class HeatAir(Group):
    """Temperatures and fan."""

    nozzle_temp: float | None = setting(
        None,
        "Nozzle",
        help="Above the first layer.",
        unit="°C",
        ge=0,
        le=500,
        moves=("strength",),
        source="material",
        within="band",
    )
    first_nozzle_temp: float | None = setting(
        None,
        "Nozzle, first layer",
        help="Often a little hotter.",
        unit="°C",
        ge=0,
        le=500,
        source="material",
    )
    bed_temp: float | None = setting(
        None,
        "Bed",
        help="Above the first layer.",
        unit="°C",
        ge=0,
        le=200,
        source="material",
        within="band",
    )
    first_bed_temp: float | None = setting(
        None,
        "Bed, first layer",
        help="Holds the part on the bed.",
        unit="°C",
        ge=0,
        le=200,
        source="material",
    )
    fan: float | None = setting(
        None,
        "Fan",
        help="Above the layers without fan.",
        unit="%",
        ge=0,
        le=100,
        moves=("surface", "strength"),
        source="material",
        within="band",
    )
    bridge_fan: float | None = setting(
        None,
        "Fan on bridges",
        help="While a bridge is laid.",
        unit="%",
        ge=0,
        le=100,
        moves=("surface",),
        source="fan",
        within="band",
    )
    fan_off_layers: int = setting(
        1,
        "Layers without fan",
        help="From the bed up.",
        ge=0,
        le=10000,
        moves=("strength",),
    )
