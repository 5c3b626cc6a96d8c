"""A schedule by a list: lines in some order, each given the bed with which it is done soonest."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import inf

from northpace.schedule.floor import Floor, LaidBed
from northpace.schedule.problem import BedTime, Problem, WantedOrder, WantedPieces
from northpace.schedule.timetable import BED, Unplaced


@dataclass(frozen=True)
class Turn:
    """A line when it is its turn."""

    order: str
    line: WantedPieces


def turns(problem: Problem) -> list[Turn]:
    """All lines with pieces to lay: those of late and urgent orders first, then by due time."""

    def rank(order: WantedOrder) -> tuple[float, int]:
        due = inf if order.due_s is None else order.due_s
        return (due / order.urgency if due > 0 else due, -order.urgency)

    found = []
    for order in sorted(problem.orders, key=rank):
        found += [Turn(order.key, line) for line in order.lines if line.pieces and line.beds]
    return found


def listed(floor: Floor, order: Sequence[Turn]) -> tuple[list[LaidBed], list[Unplaced]]:
    """Beds for lines in their order; ``floor`` is used up."""
    beds: list[LaidBed] = []
    unplaced: list[Unplaced] = []
    for turn in order:
        left = turn.line.pieces
        while left:
            laid = _soonest(floor, turn, left)
            if laid is None:
                unplaced.append(Unplaced(turn.order, turn.line.key, left, why(floor, turn.line)))
                break
            floor.put(laid)
            beds.append(laid)
            left -= laid.pieces
    return sorted(beds, key=lambda bed: (bed.begin_s, bed.machine)), unplaced


def why(floor: Floor, line: WantedPieces) -> str:
    """Why no bed can be laid for a line."""
    if not line.beds:
        return "no plan of it has exact times on a machine yet"
    reasons = sorted({floor.refused(bed, 1) for bed in line.beds} - {""})
    if reasons:
        return "; ".join(reasons)
    if not floor.presence.longest:
        return "nobody is ever there to clear a bed or change a spool"
    return "no spool of its material has enough left after what is scheduled before it"


def _soonest(floor: Floor, turn: Turn, left: int) -> LaidBed | None:
    """The bed with which a line is done soonest, if its other pieces come at the same rate from
    all machines that may lay it, each as soon as it is free.
    """
    rates = {bed.machine: bed.holds / bed.takes(bed.holds) for bed in turn.line.beds}
    rates = {key: rate for key, rate in rates.items() if key in floor.stands}
    whole = sum(rates.values())
    busy = sum(rate * floor.stands[key].free for key, rate in rates.items())
    best: tuple[tuple[float, float, float, str], LaidBed] | None = None
    for bed in turn.line.beds:
        for count in _counts(floor, bed, left, len(rates)):
            laid = floor.tried(turn.order, turn.line.key, bed, count)
            if laid is None:
                continue
            stand = floor.stands[bed.machine]
            after = laid.end_s + (
                0.0 if stand.machine.clears_itself else stand.machine.bed_change_s
            )
            level = (left - count + busy + rates[bed.machine] * (after - stand.free)) / whole
            hands = 3600 * BED * -(-(left - count) // bed.holds)
            # of beds as quick the one with the least time for a piece
            rank = (
                max(laid.off_s, level) + hands,
                laid.end_s,
                bed.takes(count) / count,
                bed.machine,
            )
            if best is None or rank < best[0]:
                best = rank, laid
    return None if best is None else best[1]


def _counts(floor: Floor, bed: BedTime, left: int, machines: int) -> list[int]:
    """How many pieces a bed is tried with: as many as it holds, a fair share, half, and as many as
    are done before who is there leaves, or before somebody comes.
    """
    most = min(bed.holds, left)
    found = {most, min(-(-left // machines), most), max(most // 2, 1), 1}
    stand = floor.stands.get(bed.machine)
    if stand is not None:
        at, there = stand.free, floor.presence
        for until in (there.leaves(at), there.comes(at)):
            fits = _within(bed, min(until - at, 1e9), most)
            if fits:
                found.add(fits)
    by_spool = _by_grams(bed, floor.most_g.get(bed.material, 0.0), most)
    within = _within(bed, floor.longest, most)
    return sorted({min(count, by_spool, within) for count in found} - {0}, reverse=True)


def _within(bed: BedTime, seconds: float, most: int) -> int:
    """How many pieces a bed holds that takes no longer than so many seconds."""
    low, high = 0, most
    while low < high:
        middle = (low + high + 1) // 2
        low, high = (middle, high) if bed.takes(middle) <= seconds else (low, middle - 1)
    return low


def _by_grams(bed: BedTime, grams: float, most: int) -> int:
    low, high = 0, most
    while low < high:
        middle = (low + high + 1) // 2
        low, high = (middle, high) if bed.weighs(middle) <= grams else (low, middle - 1)
    return low
