"""The dynamic programme over (z, layer height): the cheapest stack that keeps every rule.

After Alexa, Hildebrand and Lefebvre, "Optimal discrete slicing", ACM Transactions on Graphics
36(1), 2017, with the step limit between neighbours as a second dimension of the state.
"""

from __future__ import annotations

import numba
import numpy as np

from northpace.heights.rules import StackRules

LEVELS = 4


def solve(
    rules: StackRules,
    first_cost: np.ndarray,
    second_cost: np.ndarray,
    weight: float,
    split: int = 0,
    above: float | None = None,
    change: float = 0.0,
) -> np.ndarray:
    """Heights (n,) in z steps, first layer included, that minimise Σ first + weight·second over the
    layers above the first, and ``change`` for every layer of another height than the one below.

    Costs are (N, m) by starting step and height. From the step ``split`` on the weight is
    ``above``, where that is given. Empty when the rules leave no stack.
    """
    high = weight if above is None else above
    return _solve(rules, first_cost, second_cost, weight, high, split, change)


@numba.njit(cache=True, nogil=True, fastmath={"nnan", "nsz"})
def _solve(rules, cost, other, weight, above, split, change):  # type: ignore[no-untyped-def]
    steps, count = cost.shape
    broken, first, low, least, most = (
        rules.broken,
        rules.first,
        rules.low,
        rules.least,
        rules.most,
    )
    if steps <= first:
        return np.full(1, steps, np.int64)
    # only the costs are kept: the way back finds each layer's best neighbour again, which is far
    # cheaper than noting all of them
    best = np.full((steps + 1, count), np.inf)
    before = np.empty(count)
    # least cost over 1, 2, 4 and 8 neighbouring heights: any range of heights is covered by two of
    # these
    level, second = np.empty(count, np.int64), np.empty(count, np.int64)
    for j in range(count):
        wide = most[j] - least[j] + 1
        p = 0
        while p < LEVELS - 1 and 2 << p <= wide:
            p += 1
        level[j] = p
        second[j] = max(most[j] + 1 - (1 << p), least[j])
    simple = True
    for j in range(count):
        simple &= most[j] - least[j] + 1 <= 2 << (LEVELS - 1)
    mins = np.empty((LEVELS, count))
    for b in range(first, steps):
        at = best[b]
        if b > first:
            alive = np.inf
            for j in range(count):
                alive = min(alive, at[j])
            if alive == np.inf:
                continue
            if simple:
                mins[0, :] = at
                for p in range(1, LEVELS):
                    half = 1 << (p - 1)
                    for k in range(count - half):
                        mins[p, k] = min(mins[p - 1, k], mins[p - 1, k + half])
                    for k in range(max(count - half, 0), count):
                        mins[p, k] = mins[p - 1, k]
                for j in range(count):
                    came = min(mins[level[j], least[j]], mins[level[j], second[j]])
                    before[j] = min(at[j], came + change)
            else:
                for j in range(count):
                    came = np.inf
                    for k in range(least[j], most[j] + 1):
                        came = min(came, at[k])
                    before[j] = min(at[j], came + change)
        else:
            before[:] = 0.0
        price = weight if b < split else above
        for j in range(min(count, steps - b - low + 1)):
            if not broken[b, j]:
                best[b + low + j, j] = before[j] + cost[b, j] + price * other[b, j]
    j = int(np.argmin(best[steps]))
    if best[steps, j] == np.inf:
        return np.empty(0, np.int64)
    out = np.empty(steps // low + 2, np.int64)
    n, z = 0, steps
    while z > first:
        out[n] = low + j
        z -= low + j
        n += 1
        # of neighbours that are as good the one of the same height
        k, came = j, best[z, j] - change
        for i in range(least[j], most[j] + 1):
            if best[z, i] < came:
                k, came = i, best[z, i]
        j = k
    out[n] = first
    return out[: n + 1][::-1].copy()


@numba.njit(cache=True, nogil=True)
def reachable(rules, bits):  # type: ignore[no-untyped-def]
    """(N + 1,) whether some stack from the bed that keeps the rules of these bits has a boundary at
    each step.
    """
    broken, first, low = rules.broken, rules.first, rules.low
    steps, count = broken.shape
    state = np.zeros((steps + 1, count), np.bool_)
    out = np.zeros(steps + 1, np.bool_)
    out[0] = True
    if first <= steps:
        out[first] = True
    for b in range(first, steps):
        if not out[b]:
            continue
        for j in range(count):
            if broken[b, j] & bits or b + low + j > steps:
                continue
            ok = b == first
            if not ok:
                for k in range(rules.least[j], rules.most[j] + 1):
                    if state[b, k]:
                        ok = True
                        break
            if ok:
                state[b + low + j, j] = True
                out[b + low + j] = True
    return out


def passes(rules: StackRules) -> bool:
    """Whether any stack keeps the rules all the way to the top."""
    return bool(reachable(rules, np.uint8(255))[-1])


def total(stack: np.ndarray, low: int, cost: np.ndarray) -> float:
    """Σ cost over the layers above the first of a stack in z steps. ``stack`` is (N,), ``cost`` (B,
    H) by bottom and height, ``low`` the least height.
    """
    bounds = np.cumsum(stack)[:-1]
    return float(cost[bounds, stack[1:] - low].sum(dtype=np.float64))
