"""A better schedule: the lines of all orders are put on machines in other sequences. The number of
tries is fixed, so that the same problem has the same answer.
"""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence

from northpace.schedule.floor import Floor
from northpace.schedule.listing import Placed, WaitingLine, in_time, listed, waiting
from northpace.schedule.problem import Problem
from northpace.schedule.timetable import cost

#: How many beds are put on machines in all tries together, about ten seconds' work.
TRIED_BEDS = 15_000
#: Most sequences that are tried.
MOST_TRIES = 3000

#: Called with the share that is done, 0 to 1; returns whether to go on.
Tell = Callable[[float], bool]


def improved(problem: Problem, floor: Floor, tell: Tell, beds: float = TRIED_BEDS) -> Placed:
    """The best schedule that is found by changing the sequence of lines step by step: two lines
    change places, or one is moved. A sequence is kept if its schedule costs less.
    """
    lines = waiting(problem)
    best = Trail(problem, floor, lines)
    if len(lines) < 2:
        return best.placed
    chance, done, tries = random.Random(1), 0, 0
    # a few lines have only a few sequences
    most = min(4 * len(lines) ** 2 + 10, MOST_TRIES)
    while done < beds and tries < most and tell(max(done / beds, tries / most)):
        other, kept = _neighbour(lines, chance)
        found = Trail(problem, floor, other, best, kept)
        done, tries = done + max(found.new, 1), tries + 1
        if found.cost < best.cost - 1e-9:
            lines, best = other, found
    return best.placed


class Trail:
    """A schedule of lines in a sequence. It remembers how the floor stood before each line, so that
    for another sequence with the same beginning only the rest has to be put on machines.

    Parameters
    ----------
    before
        the schedule of a sequence that begins with the same ``kept`` lines

    Attributes
    ----------
    new
        how many beds had to be put on
    """

    def __init__(
        self,
        problem: Problem,
        floor: Floor,
        lines: Sequence[WaitingLine],
        before: Trail | None = None,
        kept: int = 0,
    ) -> None:
        self._floors: list[Floor] = before._floors[: kept + 1] if before else [floor.copy()]
        self._parts: list[Placed] = before._parts[:kept] if before else []
        now = self._floors[-1].copy()
        for one in lines[kept:]:
            self._parts.append(listed(now, [one]))
            self._floors.append(now.copy())
        self.new = sum(len(beds) for beds, _ in self._parts[kept:])
        self.placed: Placed = (
            in_time(bed for beds, _ in self._parts for bed in beds),
            [one for _, unplaced in self._parts for one in unplaced],
        )
        self.cost = cost(problem, floor.presence, *self.placed)


def _neighbour(lines: list[WaitingLine], chance: random.Random) -> tuple[list[WaitingLine], int]:
    """Another sequence, and how many lines at its beginning are the same."""
    out = list(lines)
    a, b = chance.sample(range(len(out)), 2)
    if chance.random() < 0.5:
        out[a], out[b] = out[b], out[a]
    else:
        out.insert(b, out.pop(a))
    return out, min(a, b)
