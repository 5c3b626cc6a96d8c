"""A finished schedule, and the cost by which schedules are compared."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from northpace.schedule.floor import LaidBed
from northpace.schedule.problem import Problem, WantedOrder
from northpace.schedule.week import Presence

#: The cost of an hour of lateness, in hours: so much that being on time comes first.
LATE = 100.0
#: The cost of a piece that no machine can print, in hours.
NO_PLACE = 1e6
#: The cost of work by hand, in hours: for every bed, for every change of spool, and for a bed that
#: ends while nobody is there.
BED, SPOOL_CHANGE, NIGHT_END = 0.1, 0.1, 0.05


@dataclass(frozen=True)
class Unplaced:
    """Pieces of a line that no machine can print, and why."""

    order: str
    line: str
    pieces: int
    why: str


@dataclass(frozen=True)
class OrderEnd:
    """When an order is done, which is when its last piece is taken off, and how late that is."""

    order: str
    #: seconds from now; None if some of its pieces cannot be printed
    done_s: float | None
    #: seconds after its due time, 0 or less if it is on time; None if it has no due time
    late_s: float | None


@dataclass(frozen=True)
class Timetable:
    """A finished schedule: its beds, sorted by when they begin, and when each order is done."""

    beds: tuple[LaidBed, ...]
    unplaced: tuple[Unplaced, ...]
    orders: tuple[OrderEnd, ...]
    #: its cost in hours (see `cost`), and a cost that no other schedule can be below; where the
    #: solver was asked, no other schedule of the same beds
    cost_h: float
    bound_h: float
    #: how it was found: "list" or "solver"
    found_by: str

    @property
    def gap(self) -> float:
        """By what share of its cost another schedule could be better at most, 0 to 1. If some
        pieces cannot be printed this says nothing, and is 1.
        """
        if self.unplaced:
            return 1.0
        return max(self.cost_h - self.bound_h, 0.0) / max(self.cost_h, 1e-9)


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
    """The cost in hours of an order that is done at ``done_s``: its lateness, which weighs most,
    and the time until it is done, both multiplied by its urgency.
    """
    late = 0.0 if order.due_s is None else max(done_s - max(order.due_s, 0.0), 0.0)
    return order.urgency * (LATE * late + done_s) / 3600


def cost(
    problem: Problem, presence: Presence, beds: Sequence[LaidBed], unplaced: Sequence[Unplaced]
) -> float:
    """The cost of a schedule in hours. Late orders weigh most, then the time until orders are done,
    then work by hand and beds that end while nobody is there.
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
