"""What an hour on the machine costs."""

from __future__ import annotations

from northpace.spec.declare import Group, setting


class Costs(Group):
    """Money."""

    hourly_rate: float = setting(
        0.0,
        "Machine rate",
        help="Cost of an hour on the machine.",
        unit="€/h",
        ge=0,
        le=10000,
    )
    power: float = setting(
        120.0,
        "Power",
        help="Mean draw while printing.",
        unit="W",
        ge=0,
        le=20000,
    )
    tariff: float = setting(
        0.0,
        "Tariff",
        help="Price of electricity.",
        unit="€/kWh",
        ge=0,
        le=100,
    )
    failed_share: float = setting(
        0.0,
        "Failed prints",
        help="Share of prints thrown away, spread over the good ones.",
        unit="%",
        ge=0,
        le=90,
    )
