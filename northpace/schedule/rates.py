"""What work, machine time and a margin cost in a workshop."""

from __future__ import annotations

from northpace.spec.declare import Group, setting


class OrderRates(Group):
    """The prices a quote is computed with."""

    machine_h: float = setting(
        2.0,
        "Machine hour",
        help="Wear, power and room of an hour on a machine.",
        unit="€/h",
        ge=0,
        le=1000,
    )
    hands_h: float = setting(30.0, "Hour of work", help="Work by hand.", unit="€/h", ge=0, le=1000)
    setup_min: float = setting(
        10.0,
        "Setting up",
        help="Work by hand for each part of an order, however many pieces.",
        unit="min",
        ge=0,
        le=10000,
    )
    packing_min: float = setting(
        5.0, "Packing", help="Work by hand for each order.", unit="min", ge=0, le=10000
    )
    finishing_min: float = setting(
        2.0,
        "Finishing",
        help="Work by hand on each piece, while no result has shown how long it takes.",
        unit="min",
        ge=0,
        le=10000,
    )
    margin: float = setting(
        25.0, "Margin", help="Added to what pieces cost.", unit="%", ge=0, le=1000
    )
    rush: float = setting(
        30.0, "Rush", help="Added to what urgent orders cost.", unit="%", ge=0, le=1000
    )
