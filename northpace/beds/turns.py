"""Who is laid before whom in turn, and what keeps the head off what is finished."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from northpace.beds.reach import Turned, hit, may_hit
from northpace.paths.travel.improve import Ends, shorten
from northpace.paths.travel.waits import both_ways

#: Distances (mm) at which it is tried whether a pair is far enough apart, and how exact the answer
#: is.
STEP, EXACT = 2.0, 0.05
#: A way that slabs make longer by this than the shortest one so far is not looked at further (mm).
REACHED = 20.0


class Hits:
    """Which placings hit which while they are laid, found when it is asked for."""

    def __init__(self, turned: Sequence[Turned], at: np.ndarray) -> None:
        """``at`` (n, 2) are the places of the placings in mm."""
        self.turned, self.at = turned, at
        self._known: dict[tuple[int, int], str] = {}

    def __call__(self, laid: int, finished: int) -> str:
        """What of the head hits ``finished`` while ``laid`` is laid; "" for nothing."""
        pair = (laid, finished)
        if pair not in self._known:
            away = self.at[finished] - self.at[laid]
            self._known[pair] = hit(self.turned[laid], self.turned[finished], away)
        return self._known[pair]

    def between(self, group: Sequence[int], other: Sequence[int]) -> tuple[int, int] | None:
        """The first pair of which the one in ``group`` hits the finished one in ``other``."""
        for laid in group:
            for finished in other:
                if self(laid, finished):
                    return laid, finished
        return None

    def apart(self, one: int, two: int, way: np.ndarray, most: float) -> float:
        """How far the second has to move along a way (2,) so that one of the two may come first, in
        mm; infinite where that is more than ``most``.
        """
        a, b, away = self.turned[one], self.turned[two], self.at[two] - self.at[one]

        def bad(by: float, meets: Callable[[Turned, Turned, np.ndarray], str]) -> bool:
            there = away + by * way
            return bool(meets(a, b, there) and meets(b, a, -there))

        # slabs say quickly how far is enough, and layers how much less is
        high = STEP
        while bad(high, may_hit):
            high += STEP
            if high > most + REACHED:
                return np.inf
        low = 0.0
        while high - low > EXACT:
            middle = 0.5 * (low + high)
            low, high = (middle, high) if bad(middle, hit) else (low, middle)
        return high


#: Ways that a placing is moved, and the furthest that is of use (mm).
FURTHEST = 1000.0
WAYS = {
    "to the right": (1.0, 0.0),
    "to the left": (-1.0, 0.0),
    "to the back": (0.0, 1.0),
    "to the front": (0.0, -1.0),
}


@dataclass(frozen=True)
class Clash:
    """Two placings that cannot be laid one after the other."""

    hits: Hits
    one: int
    two: int
    #: whether it is only that the order asked for has the first after the second
    only_order: bool = False

    @property
    def part(self) -> str:
        """What of the head meets the other."""
        return self.hits(self.one, self.two) or self.hits(self.two, self.one)

    @cached_property
    def parting(self) -> tuple[float, str]:
        """The shortest way, in mm and in words, by which the second moves so that one of the two
        may come first. It takes some tries, so it is found when it is said.
        """
        best = (np.inf, "")
        for direction, way in WAYS.items():
            most = min(best[0], FURTHEST)
            best = min(best, (self.hits.apart(self.one, self.two, np.array(way), most), direction))
        return float(np.ceil(best[0] * 10 - 1e-9) / 10), best[1]


@dataclass(frozen=True)
class GroupOrder:
    """Groups in the order they are laid, or why there is none."""

    groups: tuple[int, ...]
    clashes: tuple[Clash, ...]


def find_order(
    hits: Hits,
    groups: Sequence[Sequence[int]],
    asked: Sequence[int] = (),
    first_clash: bool = False,
) -> GroupOrder:
    """The order of groups of placings with the least travel in which nothing finished is hit, or
    the order that is ``asked`` for; and the clashes that stand against it. With ``first_clash`` the
    search ends at the first pair that allows no order.
    """
    count = len(groups)
    pairs, clashes = [], []
    for one in range(count):
        for two in range(one + 1, count):
            # what laying one group hits of the other has to come after it
            first = hits.between(groups[one], groups[two])
            if first:
                pairs.append((one, two))
            second = hits.between(groups[two], groups[one])
            if second:
                pairs.append((two, one))
            if first and second:
                clashes.append(Clash(hits, *_worst(hits, groups[one], groups[two])))
                if first_clash and not asked:
                    return GroupOrder(tuple(range(count)), tuple(clashes))
    if asked:
        place = {group: k for k, group in enumerate(asked)}
        against = [(one, two) for one, two in pairs if place[one] > place[two]]
        clashes = [_of_order(hits, groups, one, two) for one, two in against]
        return GroupOrder(tuple(asked), tuple(clashes))
    if clashes:
        return GroupOrder(tuple(range(count)), tuple(clashes))
    circle = _circle(pairs, count)
    if circle:
        found = [
            Clash(hits, *_any_pair(hits, groups[one], groups[two]))
            for one, two in zip(circle, circle[1:] + circle[:1], strict=True)
        ]
        return GroupOrder(tuple(range(count)), (min(found, key=lambda clash: clash.parting[0]),))
    middles = np.array([hits.at[list(group)].mean(axis=0) for group in groups])
    return GroupOrder(tuple(shortest(middles, pairs)), ())


def _worst(hits: Hits, one: Sequence[int], two: Sequence[int]) -> tuple[int, int]:
    """A pair of two groups that hit each other both ways, or one way."""
    for a in one:
        for b in two:
            if hits(a, b) and hits(b, a):
                return a, b
    return _any_pair(hits, one, two)


def _any_pair(hits: Hits, one: Sequence[int], two: Sequence[int]) -> tuple[int, int]:
    found = hits.between(one, two) or hits.between(two, one)
    assert found is not None
    return found


def _of_order(hits: Hits, groups: Sequence[Sequence[int]], one: int, two: int) -> Clash:
    """Why group ``one`` may not come after ``two``."""
    laid, finished = _any_pair(hits, groups[one], groups[two])
    return Clash(hits, laid, finished, only_order=True)


def _circle(pairs: list[tuple[int, int]], count: int) -> list[int]:
    """Groups that each have to come before the next, and the last before the first; empty where
    there is an order.
    """
    after: dict[int, list[int]] = {k: [] for k in range(count)}
    for one, two in pairs:
        after[one].append(two)
    state, path = [0] * count, []

    def walk(k: int) -> list[int]:
        state[k] = 1
        path.append(k)
        for other in after[k]:
            if state[other] == 1:
                return path[path.index(other) :]
            if state[other] == 0 and (found := walk(other)):
                return found
        state[k] = 2
        path.pop()
        return []

    for k in range(count):
        if state[k] == 0 and (found := walk(k)):
            return found
    return []


def shortest(middles: np.ndarray, pairs: list[tuple[int, int]]) -> np.ndarray:
    """(n,) an order with little travel from the corner where the machine begins, in which the first
    of every pair comes first.
    """
    count = len(middles)
    waiting = np.zeros(count, np.int64)
    after: dict[int, list[int]] = {k: [] for k in range(count)}
    for one, two in pairs:
        waiting[two] += 1
        after[one].append(two)
    here = middles.min(axis=0)
    begin, order = here, []
    left = np.ones(count, bool)
    while left.any():
        free = np.flatnonzero(left & (waiting == 0))
        k = int(free[np.argmin(np.hypot(*(middles[free] - here).T))])
        order.append(k)
        left[k], here = False, middles[k]
        for other in after[k]:
            waiting[other] -= 1
    item = np.array(order, np.int64)
    x, y = middles[item, 0].copy(), middles[item, 1].copy()
    ends = Ends(x, y, x.copy(), y.copy(), item.copy(), np.ones(count, bool))
    waits = both_ways(np.array([(two, one) for one, two in pairs], np.int64).reshape(-1, 2), count)
    shorten(begin[0], begin[1], ends, waits, item, item.copy())
    return item
