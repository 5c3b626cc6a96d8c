"""The schedule of a workshop: a first answer at once, and a better one some seconds later."""

from __future__ import annotations

from collections.abc import Sequence

from northpace.schedule.bound import least_cost, under_way
from northpace.schedule.floor import Floor, LaidBed
from northpace.schedule.listing import Placed, in_time, listed, waiting
from northpace.schedule.problem import BedTime, Problem
from northpace.schedule.search import TRIED_BEDS, Tell, improved
from northpace.schedule.solver import WORK, solved
from northpace.schedule.timetable import Timetable, cost, ends


def at_once(problem: Problem) -> Timetable:
    """A first schedule, in less than a second."""
    floor = Floor(problem)
    placed = listed(floor.copy(), waiting(problem))
    return _timetable(problem, floor, placed, least_cost(problem), "list")


def scheduled(problem: Problem, tell: Tell = lambda share: True, effort: float = 1.0) -> Timetable:
    """The best schedule that is found: first with other sequences of lines, then by the solver. The
    same problem with the same ``effort`` (1 is usual, 0.1 takes a tenth of the time) has the same
    answer. ``tell`` is called with the share that is done, and may end it early.
    """
    floor, bound = Floor(problem), least_cost(problem)
    placed = improved(problem, floor, lambda share: tell(0.8 * share), effort * TRIED_BEDS)
    best = _timetable(problem, floor, placed, bound, "list")
    answer = solved(problem, floor, placed[0], effort * WORK) if tell(0.8) else None
    if answer is None:
        return best
    bound = max(bound, answer[1] + under_way(problem))
    best = _timetable(problem, floor, placed, bound, "list")
    beds = _put(floor.copy(), answer[0])
    if beds is None:
        return best
    other = _timetable(problem, floor, (beds, placed[1]), bound, "solver")
    return min(best, other, key=lambda table: round(table.cost_h, 6))


def _put(floor: Floor, beds: Sequence[tuple[LaidBed, BedTime]]) -> list[LaidBed] | None:
    """Beds put on machines one after the other; None if there is no spool left for one of them."""
    out = []
    for laid, plan in beds:
        put = floor.tried(laid.order, laid.line, plan, laid.pieces)
        if put is None:
            return None
        floor.put(put)
        out.append(put)
    return in_time(out)


def _timetable(
    problem: Problem, floor: Floor, placed: Placed, bound: float, found_by: str
) -> Timetable:
    counted = cost(problem, floor.presence, *placed)
    beds, unplaced = placed
    done = ends(problem, beds, unplaced)
    return Timetable(
        tuple(beds), tuple(unplaced), tuple(done), counted, min(bound, counted), found_by
    )
