"""Exact search: every stack that could still beat the best one known, kept as labels of (goal,
price) at each boundary and height.

Labels that others dominate, or that the multiplier's bound shows to lead nowhere, are dropped; with
a small gap few are left. Gives up when there are more than it was allowed. After Dumitrescu and
Boland, "Improved preprocessing, labeling and scaling algorithms for the weight-constrained shortest
path problem", Networks 42(3), 2003.
"""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

from northpace.heights.rules import StackRules


def search(
    rules: StackRules,
    goal: np.ndarray,
    price: np.ndarray,
    multiplier: float,
    limit: float,
    best: float,
    most_labels: int,
) -> tuple[np.ndarray, bool]:
    """A stack with Σ goal below ``best`` and Σ price at most ``limit``, the least there is; and
    whether the search was complete.

    Empty when there is none, or when it gave up: only a complete search proves that ``best`` is the
    least. ``goal`` and ``price`` are (B, H), by bottom and height in z steps; ``multiplier`` weighs
    price against goal in the bound; the stack is (N,), in z steps.
    """
    ahead = Ahead(
        multiplier, _rest(rules, goal, price, multiplier), _rest(rules, price, price, 0.0)
    )
    return _search(rules, goal, price, ahead, limit, best, most_labels)


class Ahead(NamedTuple):
    """What a stack costs at least from a boundary to the top, after a layer of each height."""

    multiplier: float
    #: (B + 1, H) goal and, weighed by the multiplier, price
    weighed: np.ndarray
    #: (B + 1, H) price
    price: np.ndarray


@numba.njit(cache=True, nogil=True)
def _rest(rules, cost, other, weight):  # type: ignore[no-untyped-def]
    """(N + 1, m) least cost + weight·other from a boundary to the top after a layer of a height."""
    steps, count = cost.shape
    broken, low = rules.broken, rules.low
    out = np.full((steps + 1, count), np.inf)
    out[steps] = 0.0
    ahead = np.empty(count)
    for b in range(steps - 1, rules.first - 1, -1):
        for j in range(count):
            end = b + low + j
            ahead[j] = (
                np.inf
                if end > steps or broken[b, j]
                else out[end, j] + cost[b, j] + weight * other[b, j]
            )
        for k in range(count):
            # the step limit is the same both ways
            for j in range(rules.least[k], rules.most[k] + 1):
                out[b, k] = min(out[b, k], ahead[j])
    return out


@numba.njit(cache=True, nogil=True)
def _search(rules, goal, price, ahead, limit, best, most_labels):  # type: ignore[no-untyped-def]
    steps, count = goal.shape
    broken, first, low = rules.broken, rules.first, rules.low
    none = np.empty(0, np.int64)
    if steps <= first:
        return none, True
    g, p = np.empty(most_labels), np.empty(most_labels)
    parent, height = np.full(most_labels, -1, np.int64), np.zeros(most_labels, np.int64)
    start, size = np.zeros((steps + 1, count), np.int64), np.zeros((steps + 1, count), np.int64)
    used = 0
    room_g, room_p, room_l = (
        np.empty(most_labels),
        np.empty(most_labels),
        np.empty(most_labels, np.int64),
    )
    winner = -1
    for b in range(first, steps):
        for j in range(count):
            end = b + low + j
            if end > steps or broken[b, j]:
                continue
            n = 0
            for k in range(rules.least[j], rules.most[j] + 1):
                if b == first:
                    if k > rules.least[j]:
                        break
                    tries, at = 1, -1
                else:
                    tries, at = size[b, k], start[b, k]
                for t in range(tries):
                    ng = goal[b, j] + (g[at + t] if at >= 0 else 0.0)
                    np_ = price[b, j] + (p[at + t] if at >= 0 else 0.0)
                    if (
                        np_ + ahead.price[end, j] > limit
                        or ng + ahead.multiplier * (np_ - limit) + ahead.weighed[end, j]
                        >= best - 1e-9
                    ):
                        continue
                    if n >= most_labels:
                        return none, False
                    room_g[n], room_p[n], room_l[n] = ng, np_, at + t if at >= 0 else -1
                    n += 1
            if n == 0:
                continue
            order = np.argsort(room_g[:n])
            start[end, j] = used
            lowest = np.inf
            for t in order:
                if room_p[t] < lowest - 1e-12:
                    lowest = room_p[t]
                    if used >= most_labels:
                        return none, False
                    g[used], p[used], parent[used], height[used] = (
                        room_g[t],
                        room_p[t],
                        room_l[t],
                        low + j,
                    )
                    if end == steps and g[used] < best - 1e-9:
                        best, winner = g[used], used
                    used += 1
            size[end, j] = used - start[end, j]
    if winner < 0:
        return none, True
    out = np.empty(steps // low + 2, np.int64)
    n, at = 0, winner
    while at >= 0:
        out[n] = height[at]
        at = parent[at]
        n += 1
    out[n] = first
    return out[: n + 1][::-1].copy(), True
