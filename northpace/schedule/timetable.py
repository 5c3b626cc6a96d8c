"""A finished schedule, and by what one is better than another."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from northpace.schedule.floor import LaidBed
from northpace.schedule.problem import Problem, WantedOrder
from northpace.schedule.week import Presence

#: Hours that an hour of lateness counts as, so that being on time comes first.
LATE = 100.0
#: Hours that a piece counts as which finds no place at all.
NO_PLACE = 1e6
#: Hours that work by hand counts as: of every bed, of a change of spool, and more for a bed that
#: ends while nobody is there.
BED, SPOOL_CHANGE, NIGHT_END = 0.1, 0.1, 0.05


@dataclass(frozen=True)
class Unplaced:
    """Pieces of a line that no machine can lay, and why."""

    order: str
    line: str
    pieces: int
    why: str


@dataclass(frozen=True)
class OrderEnd:
    """When the last piece of an order is taken off, and how late that is."""

    order: str
    #: seconds from now; None while some of it finds no place
    done_s: float | None
    #: seconds after its due time, 0 or less when it is on time; None without one
    late_s: float | None


@dataclass(frozen=True)
class Timetable:
    """Beds in the order of their beginning, and what comes of them."""

    beds: tuple[LaidBed, ...]
    unplaced: tuple[Unplaced, ...]
    orders: tuple[OrderEnd, ...]
    #: what it counts as, in hours (`cost`), and what no schedule can be below
    cost_h: float
    bound_h: float
    #: how it was found: "list" or "solver"
    found_by: str

    @property
    def gap(self) -> float:
        """Share by which a better schedule could be better at most; of what finds no place
        nothing is known, so 1.
        """
        return (
            1.0 if self.unplaced else max(self.cost_h - self.bound_h, 0.0) / max(self.cost_h, 1e-9)
        )


def ends(problem: Problem, beds: Sequence[LaidBed], unplaced: Sequence[Unplaced]) -> list[OrderEnd]:
    """When each order is done."""
    off: dict[str, float] = {}
    for bed in beds:
        off[bed.order] = max(off.get(bed.order, 0.0), bed.off_s)
    lacking = {one.order for one in unplaced}
    found = []
    for order in problem.orders:
        done = max(off.get(order.key, 0.0), order.under_way_s)
        if order.key in lacking:
            found.append(OrderEnd(order.key, None, None))
        else:
            late = None if order.due_s is None else done - order.due_s
            found.append(OrderEnd(order.key, done, late))
    return found


def order_cost(order: WantedOrder, done_s: float) -> float:
    """What an order counts as in hours when it is done at a moment: how late it is, then how soon
    it is done, each by its urgency.
    """
    late = 0.0 if order.due_s is None else max(done_s - max(order.due_s, 0.0), 0.0)
    return order.urgency * (LATE * late + done_s) / 3600


def cost(
    problem: Problem, presence: Presence, beds: Sequence[LaidBed], unplaced: Sequence[Unplaced]
) -> float:
    """What a schedule counts as, in hours: late orders, then when they are done, then work by hand
    and beds that end while nobody is there.
    """
    orders = {order.key: order for order in problem.orders}
    out = sum(
        order_cost(orders[end.order], end.done_s)
        for end in ends(problem, beds, unplaced)
        if end.done_s is not None
    )
    out += NO_PLACE * sum(one.pieces for one in unplaced)
    changes = sum(bed.changed for bed in beds)
    out += BED * len(beds) + SPOOL_CHANGE * changes
    if not presence.always:
        out += NIGHT_END * sum(not presence.there(bed.end_s) for bed in beds)
    return out
