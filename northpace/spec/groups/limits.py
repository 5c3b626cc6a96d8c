"""What a plan may take at most."""

from __future__ import annotations

from northpace.spec.declare import Group, setting


class Limits(Group):
    """What a plan may take at most; over it is a finding."""

    time_min: float | None = setting(
        None,
        "Time cap",
        help="The whole plan within this.",
        unit="min",
        ge=1,
        le=100000,
        moves=("time",),
        source="nobody",
    )
    mass_g: float | None = setting(
        None,
        "Mass cap",
        help="Filament of one part.",
        unit="g",
        ge=0.1,
        le=100000,
        moves=("mass",),
        source="nobody",
    )
    cost: float | None = setting(
        None,
        "Money cap",
        help="Filament, machine, electricity and failures of one part.",
        unit="€",
        ge=0.01,
        le=100000,
        moves=("time", "mass"),
        source="nobody",
    )
