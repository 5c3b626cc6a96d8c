"""What a path waits for: the walls it lies against that are to be laid before it."""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

#: Paths lie against each other when their middles are this many lanes apart or less: neighbours are
#: one, the next but one two.
AGAINST = 1.35
#: Least edge of the cells that edges are looked up in (mm).
CELL = 2.0


class Waits(NamedTuple):
    """Which of n paths wait for which, both ways round; numbers count from the first of them."""

    #: (W,) what path k waits for: ``before[before_at[k]:before_at[k + 1]]``
    before: np.ndarray
    before_at: np.ndarray
    #: (W,) what waits for path k
    after: np.ndarray
    after_at: np.ndarray


@numba.njit(cache=True)
def nothing_waits(n):  # type: ignore[no-untyped-def]
    """`Waits` of n paths in any order."""
    none, at = np.empty(0, np.int64), np.zeros(n + 1, np.int64)
    return Waits(none, at, none, at)


@numba.njit(cache=True)
def waits_of(ways, at, end):  # type: ignore[no-untyped-def]
    """Which ways from ``at`` to ``end`` wait for which: those of a higher rank for those of a lower
    one that they lie against.
    """
    n, lowest, highest = end - at, ways.rank[at], ways.rank[at]
    for k in range(at, end):
        lowest, highest = min(lowest, ways.rank[k]), max(highest, ways.rank[k])
    if lowest == highest:
        return nothing_waits(n)
    pairs, count = np.empty((4 * n, 2), np.int64), 0
    cells = _cells(ways, at, end, highest)
    seen = np.full(n, -1)
    for k in range(at, end):
        if ways.rank[k] == lowest:
            continue
        u = ways.last[k] - 1 if ways.closed[k] else ways.first[k]
        for v in range(ways.first[k], ways.last[k]):
            ax, ay = ways.points[u, 0], ways.points[u, 1]
            bx, by = ways.points[v, 0], ways.points[v, 1]
            steps = int(np.hypot(bx - ax, by - ay) / cells.edge) + 1
            for step in range(1, steps + 1):
                part = step / steps
                place = (ax + part * (bx - ax), ay + part * (by - ay))
                pairs, count = _against(ways, cells, at, k, place, seen, pairs, count)
            u = v
    return _both_ways(pairs[:count], n)


class Cells(NamedTuple):
    """Edges by the cells they pass."""

    #: lowest corner in mm
    x: float
    #: the same along y
    y: float
    #: of a cell in mm
    edge: float
    #: cells side by side
    columns: int
    #: (C,) the last entry of every cell, −1 for none; (E,) the entry before it in the same cell
    head: np.ndarray
    behind: np.ndarray
    #: (E,) way, and the points its edge runs between
    way: np.ndarray
    #: (E,) point it begins at
    tail: np.ndarray
    #: (E,) point it ends at
    tip: np.ndarray


@numba.njit(cache=True)
def _cells(ways, at, end, highest):  # type: ignore[no-untyped-def]
    """All edges of ways below the highest rank by cells."""
    points = ways.points
    low, high = np.full(2, np.inf), np.full(2, -np.inf)
    widest, total = 0.0, 0
    for k in range(at, end):
        widest = max(widest, ways.lane[k])
        for v in range(ways.first[k], ways.last[k]):
            for axis in range(2):
                low[axis] = min(low[axis], points[v, axis])
                high[axis] = max(high[axis], points[v, axis])
    edge = max(CELL, 2.0 * AGAINST * widest)
    columns, rows = int((high[0] - low[0]) / edge) + 1, int((high[1] - low[1]) / edge) + 1
    for k in range(at, end):
        if ways.rank[k] < highest:
            u = ways.last[k] - 1 if ways.closed[k] else ways.first[k]
            for v in range(ways.first[k], ways.last[k]):
                far = np.hypot(points[v, 0] - points[u, 0], points[v, 1] - points[u, 1])
                total += int(far / edge) + 2
                u = v
    out = Cells(
        low[0],
        low[1],
        edge,
        columns,
        np.full(columns * rows, -1),
        np.empty(total, np.int64),
        np.empty(total, np.int64),
        np.empty(total, np.int64),
        np.empty(total, np.int64),
    )
    entry = 0
    for k in range(at, end):
        if ways.rank[k] == highest:
            continue
        u = ways.last[k] - 1 if ways.closed[k] else ways.first[k]
        for v in range(ways.first[k], ways.last[k]):
            ax, ay = points[u, 0], points[u, 1]
            bx, by = points[v, 0], points[v, 1]
            steps, cell = int(np.hypot(bx - ax, by - ay) / edge) + 1, -1
            for step in range(steps + 1):
                part = step / steps
                column = int((ax + part * (bx - ax) - low[0]) / edge)
                row = int((ay + part * (by - ay) - low[1]) / edge)
                if row * columns + column != cell:
                    cell = row * columns + column
                    out.way[entry], out.tail[entry], out.tip[entry] = k, u, v
                    out.behind[entry], out.head[cell] = out.head[cell], entry
                    entry += 1
            u = v
    return out


@numba.njit(cache=True)
def _against(ways, cells, at, k, place, seen, pairs, count):  # type: ignore[no-untyped-def]
    """Note what way ``k`` lies against at a place; returns the pairs and how many there are."""
    x, y = place
    column, row = int((x - cells.x) / cells.edge), int((y - cells.y) / cells.edge)
    rows = len(cells.head) // cells.columns
    for r in range(max(row - 1, 0), min(row + 2, rows)):
        for c in range(max(column - 1, 0), min(column + 2, cells.columns)):
            entry = cells.head[r * cells.columns + c]
            while entry >= 0:
                j = cells.way[entry]
                if ways.rank[j] < ways.rank[k] and seen[j - at] != k:
                    reach = AGAINST * (ways.lane[j] + ways.lane[k]) / 2
                    if _beside(ways.points, cells.tail[entry], cells.tip[entry], x, y) <= reach:
                        seen[j - at] = k
                        if count == len(pairs):
                            more = np.empty((2 * count, 2), np.int64)
                            more[:count] = pairs
                            pairs = more
                        pairs[count, 0], pairs[count, 1] = k - at, j - at
                        count += 1
                entry = cells.behind[entry]
    return pairs, count


@numba.njit(cache=True)
def _beside(points, u, v, x, y):  # type: ignore[no-untyped-def]
    """How far a place is from an edge in mm."""
    ax, ay = points[u, 0], points[u, 1]
    dx, dy = points[v, 0] - ax, points[v, 1] - ay
    square = dx * dx + dy * dy
    part = 0.0
    if square > 0:
        part = min(max(((x - ax) * dx + (y - ay) * dy) / square, 0.0), 1.0)
    return np.hypot(ax + part * dx - x, ay + part * dy - y)


@numba.njit(cache=True)
def _both_ways(pairs, n):  # type: ignore[no-untyped-def]
    """`Waits` from pairs (W, 2) of what waits and what for."""
    at, room = np.zeros((2, n + 1), np.int64), np.empty((2, len(pairs)), np.int64)
    for side in range(2):
        for w in range(len(pairs)):
            at[side, pairs[w, side] + 1] += 1
        for k in range(n):
            at[side, k + 1] += at[side, k]
        free = at[side].copy()
        for w in range(len(pairs)):
            mine = pairs[w, side]
            room[side, free[mine]] = pairs[w, 1 - side]
            free[mine] += 1
    return Waits(room[0], at[0], room[1], at[1])
