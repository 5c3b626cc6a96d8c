"""The rules of a workshop for all its orders: when somebody is there, and what work costs."""

from __future__ import annotations

from northpace.schedule.rates import OrderRates
from northpace.schedule.week import Week
from northpace.spec.declare import Group, setting

#: The assumed share of failures counts as much as so many results.
ASSUMED_RESULTS = 20


class House(Group):
    """What schedules and quotes of a workshop are computed with."""

    week: Week = Week()
    rates: OrderRates = OrderRates()
    longest_h: float | None = setting(
        None, "Longest print", help="No bed may take longer.", unit="h", ge=0.1, le=1000
    )
    unattended: bool = setting(
        True, "Unattended", help="Whether machines may run while nobody is there."
    )
    fails: float = setting(
        3.0,
        "Failed pieces",
        help="Share of pieces that is assumed to fail while a plan has few results of its own.",
        unit="%",
        ge=0,
        le=90,
    )

    def failing(self, known: int, good: int) -> float:
        """The share of a plan's pieces that is likely to fail, 0 to 0.9. Of ``known`` pieces with a
        result ``good`` are good; the assumed share counts as `ASSUMED_RESULTS` results more.
        """
        assumed = ASSUMED_RESULTS * self.fails / 100
        share = (known - good + assumed) / (known + ASSUMED_RESULTS)
        return min(max(share, 0.0), 0.9)


def spare(pieces: int, fails: float) -> int:
    """How many pieces to print in addition, so that ``pieces`` of all are likely to be good."""
    return round(pieces * fails / (1 - fails))
