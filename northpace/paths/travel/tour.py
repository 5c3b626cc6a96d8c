"""One tour over the groups of a layer: the stands, the islands of the part."""

from __future__ import annotations

import numba
import numpy as np

from northpace.paths.travel.improve import Ends, shorten
from northpace.paths.travel.waits import nothing_waits

#: How far the order of paths is improved.
AS_CUT, TAKE_NEAREST, IMPROVED = 0, 1, 2


@numba.njit(cache=True, nogil=True)
def groups_of(values, at, end):  # type: ignore[no-untyped-def]
    """Where each run of equal values from ``at`` to ``end`` begins, and the end of the last."""
    groups, count = np.empty(end - at + 1, np.int64), 0
    for k in range(at, end):
        if k == at or values[k] != values[k - 1]:
            groups[count] = k
            count += 1
    groups[count] = end
    return groups[: count + 1]


@numba.njit(cache=True, nogil=True)
def tour(ways, seams, how, groups, x, y):  # type: ignore[no-untyped-def]
    """(G,) groups one after the other from (x, y): the nearest next, then exchanged while that is
    shorter. The seam of its outer wall stands for a group, as that is near where it is left; one
    without is entered where the head comes from. ``seams`` (P,) are the points where ways have to
    begin, −1 for anywhere.
    """
    count, points = len(groups) - 1, ways.points
    turn = np.arange(count)
    if count < 2 or how == AS_CUT:
        return turn
    seam = np.full(count, -1)
    box = np.empty((count, 4))
    for g in range(count):
        for j in range(groups[g], groups[g + 1]):
            if seams[j] >= 0:
                seam[g] = seams[j]
                break
        bounds(points, ways.first[groups[g]], ways.last[groups[g]], box[g])
    ex, ey = np.empty(count), np.empty(count)
    used = np.zeros(count, np.bool_)
    tx, ty = x, y
    for line in range(count):
        chosen, nearest, nx, ny = -1, np.inf, 0.0, 0.0
        for g in range(count):
            if used[g]:
                continue
            first, last = seam[g], seam[g] + 1
            if first < 0:
                if beyond(box[g], tx, ty) >= nearest:
                    continue
                first, last = ways.first[groups[g]], ways.last[groups[g]]
            for v in range(first, last):
                away = np.hypot(points[v, 0] - tx, points[v, 1] - ty)
                if away < nearest:
                    chosen, nearest, nx, ny = g, away, points[v, 0], points[v, 1]
        used[chosen], turn[line] = True, chosen
        tx, ty = nx, ny
        ex[line], ey[line] = nx, ny
    if how == IMPROVED and count > 2:
        none, free = np.zeros(count, np.int64), np.ones(count, np.bool_)
        ends = Ends(ex, ey, ex.copy(), ey.copy(), none.copy(), free)
        shorten(x, y, ends, nothing_waits(count), turn, none)
    return turn


@numba.njit(cache=True, nogil=True)
def bounds(points, first, last, box):  # type: ignore[no-untyped-def]
    """Write the box (4,) of points: lowest x, y, highest x, y."""
    for axis in range(2):
        box[axis], box[2 + axis] = np.inf, -np.inf
        for v in range(first, last):
            box[axis] = min(box[axis], points[v, axis])
            box[2 + axis] = max(box[2 + axis], points[v, axis])


@numba.njit(cache=True, nogil=True)
def beyond(box, x, y):  # type: ignore[no-untyped-def]
    """How far (x, y) lies outside of a box (4,)."""
    return np.hypot(max(box[0] - x, 0.0, x - box[2]), max(box[1] - y, 0.0, y - box[3]))
