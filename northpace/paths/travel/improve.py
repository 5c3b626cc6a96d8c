"""An order of paths made shorter by exchanging."""

from __future__ import annotations

import numba
import numpy as np

#: Most paths in a group that are improved by exchanging, and how often all of them are looked at.
MOST, PASSES = 300, 6


@numba.njit(cache=True)
def ends_of(points, starts, row, closed, j, begin):  # type: ignore[no-untyped-def]
    """Where a path begins and ends when entered at a vertex."""
    first, last = starts[row[j]], starts[row[j] + 1]
    other = begin if closed[j] else (last - 1 if begin == first else first)
    return points[begin, 0], points[begin, 1], points[other, 0], points[other, 1], other


@numba.njit(cache=True)
def exchange(x0, y0, ex, ey, lx, ly, item, begin, other, free):  # type: ignore[no-untyped-def]
    """2-opt over n paths from (x0, y0): entries (ex, ey) and exits (lx, ly); returns the
    way saved.
    """
    n, saved = len(item), 0.0
    for _ in range(PASSES):
        better = False
        for i in range(n - 1):
            px, py = (x0, y0) if i == 0 else (lx[i - 1], ly[i - 1])
            into = np.hypot(ex[i] - px, ey[i] - py)
            for j in range(i + 1, n):
                if not free[j] or not free[i]:
                    break
                gain = into - np.hypot(lx[j] - px, ly[j] - py)
                if gain <= 1e-6 and j + 1 == n:
                    continue
                if j + 1 < n:
                    gain += np.hypot(ex[j + 1] - lx[j], ey[j + 1] - ly[j]) - np.hypot(
                        ex[j + 1] - ex[i], ey[j + 1] - ey[i]
                    )
                if gain > 1e-6:
                    a, b = i, j
                    while a <= b:
                        # both ends of the stretch change places, and every path in it is run the
                        # other way
                        ex[a], ey[a], lx[a], ly[a], ex[b], ey[b], lx[b], ly[b] = (
                            lx[b],
                            ly[b],
                            ex[b],
                            ey[b],
                            lx[a],
                            ly[a],
                            ex[a],
                            ey[a],
                        )
                        item[a], item[b] = item[b], item[a]
                        begin[a], other[a], begin[b], other[b] = (
                            other[b],
                            begin[b],
                            other[a],
                            begin[a],
                        )
                        a += 1
                        b -= 1
                    saved += gain
                    better = True
                    into = np.hypot(ex[i] - px, ey[i] - py)
        if not better:
            break
    return saved
