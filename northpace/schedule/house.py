"""What a workshop says once about its orders: when somebody is there, and what work costs."""

from __future__ import annotations

from northpace.schedule.rates import OrderRates
from northpace.schedule.week import Week
from northpace.spec.declare import Group, setting

#: Results that are known weigh as much as the assumed share of failures once there are so many.
FIRM = 20


class House(Group):
    """The rules of a workshop for schedules and quotes."""

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
        help="Share of pieces that fail, as long as a plan has few results of its own.",
        unit="%",
        ge=0,
        le=90,
    )

    def failing(self, told: int, good: int) -> float:
        """The share of a plan's pieces that fail, 0 to 0.9, if of ``told`` pieces whose result is
        known ``good`` are good. The workshop's own figure counts as `FIRM` results.
        """
        share = (told - good + FIRM * self.fails / 100) / (told + FIRM)
        return min(max(share, 0.0), 0.9)


def spare(pieces: int, fails: float) -> int:
    """How many pieces are printed beyond ``pieces``, so that as many are likely to be good."""
    return round(pieces * fails / (1 - fails))
