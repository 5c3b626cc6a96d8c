"""Exchange of stretches between stacks: closes what multipliers leave between the corners of the
hull.
"""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

from northpace.heights.rules import StackRules
from northpace.heights.solve import total


class Deal(NamedTuple):
    """What a stack is to make small, and what it may cost."""

    rules: StackRules
    #: (N, m) of a layer that starts at a z step with a height: what is made small, and what is
    #: bounded
    goal: np.ndarray
    price: np.ndarray
    #: most that the layers above the first may cost
    limit: float

    @property
    def slack(self) -> float:
        """The limit plus a rounding tolerance."""
        return self.limit + 1e-9 * max(abs(self.limit), 1.0)

    def both(self, stack: np.ndarray) -> tuple[float, float]:
        """Goal and price of a stack (n,) in z steps."""
        low = self.rules.low
        return total(stack, low, self.goal), total(stack, low, self.price)


class Ground(NamedTuple):
    """The same for the kernel."""

    low: int
    first: int
    least: np.ndarray
    most: np.ndarray
    goal: np.ndarray
    price: np.ndarray


def exchange(base: np.ndarray, others: list[np.ndarray], deal: Deal) -> np.ndarray:
    """The base stack with stretches of the others put in where that lowers Σ goal and keeps Σ price
    at most its limit.

    Stacks (n,) in z steps; a stretch lies between two boundaries that both stacks have, and its
    ends keep the step limit. The best exchange is made again and again until none helps.
    """
    if len(base) < 3:
        return base
    low, price = deal.rules.low, deal.price
    ground = Ground(low, deal.rules.first, deal.rules.least, deal.rules.most, deal.goal, price)
    for _ in range(24):
        at = np.cumsum(base)
        slack = deal.limit - float(price[at[:-1], base[1:] - low].sum())
        best = (-1e-9, 0, 0, -1)
        for n, other in enumerate(others):
            gain, start, end = _stretch(base, other, ground, slack)
            if gain < best[0]:
                best = (gain, start, end, n)
        if best[3] < 0:
            break
        other, start, end = others[best[3]], best[1], best[2]
        theirs = np.cumsum(other)
        base = np.concatenate(
            [
                base[: np.searchsorted(at, start) + 1],
                other[np.searchsorted(theirs, start) + 1 : np.searchsorted(theirs, end) + 1],
                base[np.searchsorted(at, end) + 1 :],
            ]
        )
    return base


@numba.njit(cache=True, nogil=True)
def _stretch(base, other, ground, slack):  # type: ignore[no-untyped-def]
    """The stretch of ``other`` that lowers the goal most within the slack: (change of goal, from,
    to) in z steps.
    """
    low, first, least, most = ground.low, ground.first, ground.least, ground.most
    goal, price = ground.goal, ground.price
    room = len(base) + len(other)
    place = np.empty(room, np.int64)
    delta_goal, delta_price = np.empty(room), np.empty(room)
    enter, leave = np.zeros(room, np.bool_), np.zeros(room, np.bool_)
    count, i, j = 0, 1, 1
    zi, zj = first, first
    g, p = 0.0, 0.0
    top = base.sum()
    while zi < top or zj < top:
        if zi == zj:
            place[count], delta_goal[count], delta_price[count] = zi, g, p
            if i == 1:
                enter[count] = leave[count] = True
            else:
                up_o, up_b = other[j] - low, base[i] - low
                below_b, below_o = base[i - 1] - low, other[j - 1] - low
                enter[count] = least[up_o] <= below_b and below_b <= most[up_o]
                leave[count] = least[up_b] <= below_o and below_o <= most[up_b]
            count = count + 1
        if zi <= zj:
            g -= goal[zi, base[i] - low]
            p -= price[zi, base[i] - low]
            zi = zi + base[i]
            i = i + 1
        else:
            g += goal[zj, other[j] - low]
            p += price[zj, other[j] - low]
            zj = zj + other[j]
            j = j + 1
    place[count], delta_goal[count], delta_price[count], leave[count] = top, g, p, True
    count = count + 1
    best, start, end = 0.0, 0, 0
    for a in range(count):
        if not enter[a]:
            continue
        for b in range(a + 1, count):
            if not leave[b]:
                continue
            gain = delta_goal[b] - delta_goal[a]
            if gain < best and delta_price[b] - delta_price[a] <= slack:
                best, start, end = gain, place[a], place[b]
    return best, start, end
