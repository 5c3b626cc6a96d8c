"""The nozzle: its bore, the layers it lays, what it melts and stands."""

from __future__ import annotations

from northpace.spec.declare import Group, setting
from northpace.spec.widths import tallest_layer


class Nozzle(Group):
    """The nozzle and the heat it stands."""

    nozzle: float = setting(
        0.4,
        "Nozzle",
        help="Bore of the nozzle.",
        unit="mm",
        ge=0.1,
        le=3,
    )
    nozzle_hard: bool = setting(
        False,
        "Hard nozzle",
        help="Stands abrasive materials: steel, carbide, ruby. Brass does not.",
    )
    least_height: float = setting(
        0.08,
        "Least layer height",
        help="Lowest layer this nozzle lays well.",
        unit="mm",
        ge=0.01,
        le=2,
    )
    greatest_height: float | None = setting(
        None,
        "Greatest layer height",
        help="Left open: three quarters of the nozzle.",
        unit="mm",
        ge=0.01,
        le=2,
        source="nozzle",
    )
    z_step: float = setting(
        0.01,
        "Height step",
        help="Layer heights are whole multiples of this.",
        unit="mm",
        ge=0.001,
        le=0.1,
    )
    nozzle_flow: float = setting(
        20.0,
        "Most flow",
        help="What the hot end can melt at best.",
        unit="mm³/s",
        ge=0.1,
        le=500,
    )
    hottest_nozzle: float = setting(
        260.0,
        "Hottest nozzle",
        help="What the hot end can stand.",
        unit="°C",
        ge=100,
        le=600,
    )
    hottest_bed: float = setting(
        100.0,
        "Hottest bed",
        help="What the bed reaches.",
        unit="°C",
        ge=0,
        le=300,
    )

    @property
    def h_max(self) -> float:
        """Greatest layer height in mm; that of the bore unless the machine states its own."""
        own = self.greatest_height
        return tallest_layer(self.nozzle) if own is None else own
