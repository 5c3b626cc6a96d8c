"""Better orders of lines for the list: neighbours are tried, a fixed amount of work."""

from __future__ import annotations

import random
from collections.abc import Callable, Sequence

from northpace.schedule.floor import Floor, LaidBed
from northpace.schedule.listing import Turn, listed, turns
from northpace.schedule.problem import Problem
from northpace.schedule.timetable import Unplaced, cost

#: Beds that are placed in all while orders are tried, about ten seconds' work, and most orders.
TRIED_BEDS, MOST_ROUNDS = 15_000, 3000

Found = tuple[list[LaidBed], list[Unplaced]]
#: Told how much is done (0 to 1); returns whether to go on.
Tell = Callable[[float], bool]


def first(problem: Problem, floor: Floor) -> Found:
    """The answer of the list as the lines come."""
    return listed(floor.copy(), turns(problem))


def improved(problem: Problem, floor: Floor, tell: Tell, tried: float = TRIED_BEDS) -> Found:
    """The best of several orders: two lines change places, or one goes elsewhere. What comes before
    the first line that moved is not placed again.
    """
    order = turns(problem)
    trail = Trail(problem, floor, order)
    if len(order) < 2:
        return trail.found
    chance, done, rounds = random.Random(1), 0, 0
    # of few lines there are few orders
    most = min(4 * len(order) ** 2 + 10, MOST_ROUNDS)
    while done < tried and rounds < most:
        if not tell(max(done / tried, rounds / most)):
            break
        other, kept = _neighbour(order, chance)
        found = Trail(problem, floor, other, trail, kept)
        done, rounds = done + max(found.placed, 1), rounds + 1
        if found.cost < trail.cost - 1e-9:
            order, trail = other, found
    return trail.found


class Trail:
    """Lines placed in an order, with how the floor stands before each of them.

    Parameters
    ----------
    before
        another order with the same first ``kept`` lines, which are taken over from it
    """

    def __init__(
        self,
        problem: Problem,
        floor: Floor,
        order: Sequence[Turn],
        before: Trail | None = None,
        kept: int = 0,
    ) -> None:
        self._floors: list[Floor] = before._floors[: kept + 1] if before else [floor.copy()]
        self._parts: list[Found] = before._parts[:kept] if before else []
        now = self._floors[-1].copy()
        for turn in order[kept:]:
            self._parts.append(listed(now, [turn]))
            self._floors.append(now.copy())
        self.placed = sum(len(beds) for beds, _ in self._parts[kept:])
        beds = [bed for part, _ in self._parts for bed in part]
        beds.sort(key=lambda bed: (bed.begin_s, bed.machine))
        self.found: Found = beds, [one for _, part in self._parts for one in part]
        self.cost = cost(problem, floor.presence, *self.found)


def _neighbour(order: list[Turn], chance: random.Random) -> tuple[list[Turn], int]:
    """Another order, and how many lines at its beginning stay where they were."""
    out = list(order)
    a, b = chance.sample(range(len(out)), 2)
    if chance.random() < 0.5:
        out[a], out[b] = out[b], out[a]
    else:
        out.insert(b, out.pop(a))
    return out, min(a, b)
