"""A first schedule: the lines of all orders are taken in a given sequence, and each gets the beds
with which it is done soonest.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from math import inf

from northpace.schedule.floor import LEEWAY_G, Floor, LaidBed
from northpace.schedule.problem import BedTime, Problem, WantedOrder, WantedPieces
from northpace.schedule.timetable import BED, Unplaced
from northpace.schedule.week import AHEAD_DAYS

#: Beds sorted by when they begin, and the pieces that cannot be printed.
Placed = tuple[list[LaidBed], list[Unplaced]]


@dataclass(frozen=True)
class WaitingLine:
    """A line of an order that waits to be put on machines."""

    order: str
    line: WantedPieces


def waiting(problem: Problem) -> list[WaitingLine]:
    """All lines with pieces to print, sorted: overdue orders first, then by due time, which is
    taken as earlier for urgent orders.
    """

    def rank(order: WantedOrder) -> tuple[float, int]:
        due = inf if order.due_s is None else order.due_s
        return (due / order.urgency if due > 0 else due, -order.urgency)

    return [
        WaitingLine(order.key, line)
        for order in sorted(problem.orders, key=rank)
        for line in order.lines
        if line.pieces
    ]


def listed(floor: Floor, lines: Sequence[WaitingLine]) -> Placed:
    """Put lines on machines, one line after the other. The beds are put on ``floor``."""
    beds: list[LaidBed] = []
    unplaced: list[Unplaced] = []
    for one in lines:
        left = one.line.pieces
        while left:
            laid = _soonest(floor, one, left)
            if laid is None:
                unplaced.append(Unplaced(one.order, one.line.key, left, _why(floor, one.line)))
                break
            floor.put(laid)
            beds.append(laid)
            left -= laid.pieces
    return in_time(beds), unplaced


def in_time(beds: Iterable[LaidBed]) -> list[LaidBed]:
    """Beds sorted by when they begin."""
    return sorted(beds, key=lambda bed: (bed.begin_s, bed.machine))


def _why(floor: Floor, line: WantedPieces) -> str:
    """Why not even one more piece of a line can be printed."""
    if not line.beds:
        return "no plan of it can be scheduled yet; plan it for one of the machines"
    reasons = {floor.refused(bed, 1) for bed in line.beds}
    if "" not in reasons:
        return "; ".join(sorted(reasons))
    if not floor.presence.longest:
        return "nobody is ever there to clear a bed or change a spool"
    return f"it would not be done within {AHEAD_DAYS} days"


def _soonest(floor: Floor, one: WaitingLine, left: int) -> LaidBed | None:
    """The next bed for a line of which ``left`` pieces are missing: the one after which the whole
    line is likely to be done soonest. For that the other pieces are shared out over all machines
    that may print them, each from the time its bed is clear: on beds of the size that is tried on
    its machine, and on full beds on the others.
    """
    full = {
        bed.machine: _rate(floor, bed, bed.holds)
        for bed in one.line.beds
        if bed.machine in floor.machines
    }
    ready = {key: _ready(floor, key) for key in full}
    best: tuple[tuple[float, float, float, str], LaidBed] | None = None
    for bed in one.line.beds:
        for count in _counts(floor, bed, left, len(full)):
            laid = floor.tried(one.order, one.line.key, bed, count)
            if laid is None:
                continue
            rates = full | {bed.machine: _rate(floor, bed, count)}
            again = ready | {bed.machine: laid.off_s}
            level = _level(left - count, [(again[key], rates[key]) for key in rates])
            # if two are as soon, the one that takes less time for a piece
            rank = (
                max(laid.off_s, level) + 3600 * BED * -(-left // count),
                laid.end_s,
                bed.takes(count) / count,
                bed.machine,
            )
            if best is None or rank < best[0]:
                best = rank, laid
    return None if best is None else best[1]


def _level(pieces: int, machines: Sequence[tuple[float, float]]) -> float:
    """When machines have printed so many pieces together, in s from now; 0 for no pieces.

    Every machine is given by when it can begin (s from now), and by how many pieces it prints in a
    second. One that could begin only after all pieces are printed does not take part.
    """
    if not pieces:
        return 0.0
    level, weight, whole = inf, float(pieces), 0.0
    for free, rate in sorted(machines):
        if free >= level:
            break
        weight, whole = weight + rate * free, whole + rate
        level = weight / whole
    return level


def _rate(floor: Floor, bed: BedTime, count: int) -> float:
    """How many pieces a machine prints in a second if each of its beds holds ``count`` of them, bed
    changes included.
    """
    return count / (bed.takes(count) + _again(floor, bed.machine))


def _ready(floor: Floor, machine: str) -> float:
    """When the bed of a machine has been cleared after its last print, in s from now."""
    state = floor.machines[machine]
    return floor.presence.ready(state.free, 0.0 if state.clear else state.machine.bed_change_s)


def _again(floor: Floor, machine: str) -> float:
    """Seconds a person needs to clear the bed of a machine; 0 if it clears itself."""
    found = floor.machines[machine].machine
    return 0.0 if found.clears_itself else found.bed_change_s


def _counts(floor: Floor, bed: BedTime, left: int, machines: int) -> list[int]:
    """Numbers of pieces with which a bed is tried: as many as possible, an equal share for every
    machine, half a bed, one, as many as are done before the person who is there leaves, and as many
    as are done before somebody comes.
    """
    state, grams = floor.machines.get(bed.machine), floor.most_grams(bed.material)
    if state is None:
        return []
    most = _most(bed.takes, floor.longest, min(bed.holds, left))
    most = _most(bed.weighs, grams + LEEWAY_G, most)
    free, there = state.free, floor.presence
    found = {most, -(-left // machines), most // 2, 1}
    found |= {_most(bed.takes, at - free, most) for at in (there.leaves(free), there.comes(free))}
    return sorted({min(count, most) for count in found} - {0}, reverse=True)


def _most(value: Callable[[int], float], limit: float, most: int) -> int:
    """The largest number of pieces, up to ``most``, whose value is within a limit. The value must
    not fall with more pieces.
    """
    return bisect_right(range(1, most + 1), limit, key=value)
