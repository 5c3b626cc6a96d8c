"""An order of paths made shorter by exchanging."""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

#: Most paths in a group that are improved by exchanging, and how often all of them are looked at.
MOST, PASSES = 300, 6


class Ends(NamedTuple):
    """Where n paths begin and end, for the kernel."""

    #: (n,) entries and exits in mm
    ex: np.ndarray
    ey: np.ndarray
    lx: np.ndarray
    ly: np.ndarray
    #: (n,) the point each would be entered at the other way round, and whether it may be
    other: np.ndarray
    free: np.ndarray


@numba.njit(cache=True)
def ends_of(ways, j, begin):  # type: ignore[no-untyped-def]
    """Where a path begins and ends when entered at a point, and its entry the other way round."""
    first, last = ways.first[j], ways.last[j]
    other = begin if ways.closed[j] else (last - 1 if begin == first else first)
    points = ways.points
    return points[begin, 0], points[begin, 1], points[other, 0], points[other, 1], other


@numba.njit(cache=True)
def exchange(x0, y0, ends, item, begin):  # type: ignore[no-untyped-def]
    """2-opt over n paths ``item`` from (x0, y0), each entered at ``begin``; all are changed in
    place. Returns the way saved in mm.
    """
    ex, ey, lx, ly = ends.ex, ends.ey, ends.lx, ends.ly
    n, saved = len(item), 0.0
    for _ in range(PASSES):
        better = False
        for i in range(n - 1):
            px, py = (x0, y0) if i == 0 else (lx[i - 1], ly[i - 1])
            into = np.hypot(ex[i] - px, ey[i] - py)
            for j in range(i + 1, n):
                if not ends.free[j] or not ends.free[i]:
                    break
                gain = into - np.hypot(lx[j] - px, ly[j] - py)
                if gain <= 1e-6 and j + 1 == n:
                    continue
                if j + 1 < n:
                    gain += np.hypot(ex[j + 1] - lx[j], ey[j + 1] - ly[j])
                    gain -= np.hypot(ex[j + 1] - ex[i], ey[j + 1] - ey[i])
                if gain > 1e-6:
                    _turn_round(ends, item, begin, i, j)
                    saved += gain
                    better = True
                    into = np.hypot(ex[i] - px, ey[i] - py)
        if not better:
            break
    return saved


@numba.njit(cache=True)
def _turn_round(ends, item, begin, i, j):  # type: ignore[no-untyped-def]
    """Run the paths i … j the other way round: their order is turned, and every one of them."""
    ex, ey, lx, ly, other = ends.ex, ends.ey, ends.lx, ends.ly, ends.other
    a, b = i, j
    while a <= b:
        ex[a], lx[b] = lx[b], ex[a]
        ey[a], ly[b] = ly[b], ey[a]
        begin[a], other[b] = other[b], begin[a]
        if a != b:
            ex[b], lx[a] = lx[a], ex[b]
            ey[b], ly[a] = ly[a], ey[b]
            begin[b], other[a] = other[a], begin[b]
        item[a], item[b] = item[b], item[a]
        a += 1
        b -= 1
