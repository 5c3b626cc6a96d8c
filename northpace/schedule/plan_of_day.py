"""The schedule of a workshop: the list's answer at once, then a better one."""

from __future__ import annotations

from collections.abc import Sequence

from northpace.schedule.bound import least_cost, under_way
from northpace.schedule.floor import Floor, LaidBed
from northpace.schedule.listing import why
from northpace.schedule.problem import BedTime, Problem
from northpace.schedule.search import TRIED_BEDS, Found, Tell, first, improved
from northpace.schedule.solver import WORK, solved
from northpace.schedule.timetable import Timetable, Unplaced, cost, ends


def at_once(problem: Problem) -> Timetable:
    """The list's answer, in less than a second."""
    floor = Floor(problem)
    return _timetable(problem, floor, first(problem, floor), "list", least_cost(problem))


def scheduled(problem: Problem, tell: Tell = lambda share: True, effort: float = 1.0) -> Timetable:
    """The best that is found: other orders of lines, then other machines and times for the beds.
    The same for the same problem and the same ``effort``, a share of what is usual.
    """
    floor, bound = Floor(problem), least_cost(problem)
    found, by = (
        improved(problem, floor, lambda share: tell(0.8 * share), effort * TRIED_BEDS),
        "list",
    )
    if not tell(0.8):
        return _timetable(problem, floor, found, by, bound)
    answer = solved(problem, floor, found[0], effort * WORK)
    if answer is not None:
        bound = max(bound, answer[1] + under_way(problem))
        put = _put(floor.copy(), answer[0])
        if put is not None:
            other = (put, found[1])
            if _cost(problem, floor, other) < _cost(problem, floor, found) - 1e-9:
                found, by = other, "solver"
    return _timetable(problem, floor, found, by, bound)


def _put(floor: Floor, order: Sequence[tuple[LaidBed, BedTime]]) -> list[LaidBed] | None:
    """Beds put on the floor one after the other; None where one finds no spool."""
    out = []
    for laid, bed in order:
        put = floor.tried(laid.order, laid.line, bed, laid.pieces)
        if put is None:
            return None
        floor.put(put)
        out.append(put)
    return sorted(out, key=lambda bed: (bed.begin_s, bed.machine))


def _cost(problem: Problem, floor: Floor, found: Found) -> float:
    return cost(problem, floor.presence, *found)


def _timetable(problem: Problem, floor: Floor, found: Found, by: str, bound: float) -> Timetable:
    beds, unplaced = found
    none = [
        Unplaced(order.key, line.key, line.pieces, why(floor, line))
        for order in problem.orders
        for line in order.lines
        if line.pieces and not line.beds
    ]
    unplaced = [*unplaced, *none]
    counted = cost(problem, floor.presence, beds, unplaced)
    bound = min(bound, counted)
    return Timetable(
        tuple(beds), tuple(unplaced), tuple(ends(problem, beds, unplaced)), counted, bound, by
    )
