"""A cost that no schedule can be below."""

from __future__ import annotations

import numpy as np

from northpace.schedule.problem import FloorMachine, Problem, WantedOrder
from northpace.schedule.timetable import order_cost


def least_cost(problem: Problem) -> float:
    """A cost in hours that no schedule can be below (see `timetable.cost`).

    It comes from two facts, and the larger one counts. First, an order that has all machines for
    itself still takes as long as one piece of each of its lines, and as long as its work divided by
    the number of machines. Second, if all machines are taken as one that works as fast as all of
    them together, the times until orders are done add up to least if the orders with the least work
    for their urgency come first (W. E. Smith, Naval Research Logistics Quarterly 3, 1956, 59-66).
    """
    machines = {one.key: one for one in problem.machines}
    alone = [max(_alone(order, machines), order.under_way_s) for order in problem.orders]
    own = sum(order_cost(o, at) for o, at in zip(problem.orders, alone, strict=True))
    work = np.array([_work(order) for order in problem.orders])
    weight = np.array([order.urgency for order in problem.orders], float)
    some = work > 0
    if not some.any() or not machines:
        return own
    first = min(one.free_s for one in machines.values())
    share, weight_of = work[some] / len(machines), weight[some]
    by = np.argsort(share / weight_of, kind="stable")
    done = first + np.cumsum(share[by])
    together = float((weight_of[by] * done).sum() / 3600)
    soon = sum(order.urgency * at / 3600 for order, at in zip(problem.orders, alone, strict=True))
    rest = sum(
        order.urgency * order.under_way_s / 3600
        for order, there in zip(problem.orders, some, strict=True)
        if not there
    )
    return own - soon + max(soon, together + rest)


def under_way(problem: Problem) -> float:
    """The cost in hours of the orders that have nothing left to be printed."""
    return sum(
        order_cost(order, order.under_way_s)
        for order in problem.orders
        if not any(line.pieces and line.beds for line in order.lines)
    )


def _work(order: WantedOrder) -> float:
    """The least number of machine seconds in which an order can be printed."""
    return sum(
        line.pieces * min(bed.takes(count) / count for bed in line.beds for count in bed.pieces)
        for line in order.lines
        if line.pieces and line.beds
    )


def _alone(order: WantedOrder, machines: dict[str, FloorMachine]) -> float:
    """When an order is done at the earliest if nothing else is printed, in seconds from now."""
    free = {key: one.free_s for key, one in machines.items()}
    at = 0.0
    for line in order.lines:
        beds = [bed for bed in line.beds if bed.machine in free]
        if line.pieces and beds:
            at = max(at, min(free[bed.machine] + bed.takes(1) for bed in beds))
    if free and (work := _work(order)):
        at = max(at, min(free.values()) + work / len(free))
    return at
