"""What a path waits for: the walls it lies against that are to be laid before it."""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

from northpace.geometry.scanline import grown

#: Paths lie against each other when their middles are this many lanes apart or less: neighbours are
#: one, the next but one two.
AGAINST = 1.35
#: Edge of the cells that edges are looked up in (mm), and how far apart, at least, a way is looked
#: at beside its corners.
CELL, STEP = 0.75, 2.0


class Waits(NamedTuple):
    """Which of n paths wait for which, both ways round; numbers count from the first of them."""

    #: (W,) what path k waits for: ``before[before_at[k]:before_at[k + 1]]``
    before: np.ndarray
    before_at: np.ndarray
    #: (W,) what waits for path k
    after: np.ndarray
    after_at: np.ndarray


@numba.njit(cache=True, nogil=True)
def nothing_waits(n):  # type: ignore[no-untyped-def]
    """`Waits` of n paths in any order."""
    none, at = np.empty(0, np.int64), np.zeros(n + 1, np.int64)
    return Waits(none, at, none, at)


@numba.njit(cache=True, nogil=True)
def pairs_of(ways, at, end):  # type: ignore[no-untyped-def]
    """(W, 2) ways and what they wait for, counted from ``at``, in the order of the first."""
    n, lowest, highest = end - at, ways.rank[at], ways.rank[at]
    for k in range(at, end):
        lowest, highest = min(lowest, ways.rank[k]), max(highest, ways.rank[k])
    if lowest == highest:
        return np.empty((0, 2), np.int64)
    pairs, count = np.empty((4 * n, 2), np.int64), 0
    cells = _cells(ways, at, end, highest)
    seen = np.full(n, -1)
    for k in range(at, end):
        if ways.rank[k] == lowest:
            continue
        pairs, count = _against(ways, cells, at, k, seen, pairs, count)
    return pairs[:count]


class Cells(NamedTuple):
    """Edges by the cells they pass."""

    #: lowest corner in mm
    x: float
    #: the same along y
    y: float
    #: of a cell in mm
    edge: float
    #: how far apart ways are looked at, in mm
    step: float
    #: cells side by side
    columns: int
    #: (C + 1,) where the entries of every cell begin
    at: np.ndarray
    #: (E,) way, and the points its edge runs between
    way: np.ndarray
    #: (E,) point it begins at
    tail: np.ndarray
    #: (E,) point it ends at
    tip: np.ndarray


@numba.njit(cache=True, nogil=True)
def _cells(ways, at, end, highest):  # type: ignore[no-untyped-def]
    """All edges of ways below the highest rank by cells."""
    points = ways.points
    low, high = np.full(2, np.inf), np.full(2, -np.inf)
    widest = 0.0
    for k in range(at, end):
        widest = max(widest, ways.lane[k])
        for v in range(ways.first[k], ways.last[k]):
            for axis in range(2):
                low[axis] = min(low[axis], points[v, axis])
                high[axis] = max(high[axis], points[v, axis])
    edge, step = CELL, max(STEP, 2.0 * AGAINST * widest)
    columns, rows = int((high[0] - low[0]) / edge) + 1, int((high[1] - low[1]) / edge) + 1
    begin = np.zeros(columns * rows + 1, np.int64)
    entries = np.empty((3, 0), np.int64)
    # counted first, so that the entries of a cell lie side by side
    for turn in range(2):
        for k in range(at, end):
            if ways.rank[k] == highest:
                continue
            u = ways.last[k] - 1 if ways.closed[k] else ways.first[k]
            for v in range(ways.first[k], ways.last[k]):
                ax, ay = points[u, 0], points[u, 1]
                bx, by = points[v, 0], points[v, 1]
                steps, cell = int(4 * np.hypot(bx - ax, by - ay) / edge) + 1, -1
                for place in range(steps + 1):
                    part = place / steps
                    column = int((ax + part * (bx - ax) - low[0]) / edge)
                    row = int((ay + part * (by - ay) - low[1]) / edge)
                    if row * columns + column == cell:
                        continue
                    cell = row * columns + column
                    if turn == 1:
                        n = begin[cell]
                        entries[0, n], entries[1, n], entries[2, n] = k, u, v
                    begin[cell] += 1
                u = v
        if turn == 0:
            total = begin.sum()
            entries = np.empty((3, total), np.int64)
            begin = np.cumsum(begin) - begin
    # filling moved every beginning to the end of its cell
    begin[1:] = begin[:-1].copy()
    begin[0] = 0
    return Cells(low[0], low[1], edge, step, columns, begin, entries[0], entries[1], entries[2])


@numba.njit(cache=True, nogil=True)
def _against(ways, cells, at, k, seen, pairs, count):  # type: ignore[no-untyped-def]
    """Note what way ``k`` lies against; returns the pairs and how many there are. One call a way:
    handing this many arrays over costs more than looking at a point.
    """
    points, rank, lane, edge, columns = ways.points, ways.rank, ways.lane, cells.edge, cells.columns
    begin, way, tail, tip = cells.at, cells.way, cells.tail, cells.tip
    rows, widest, mine, left = (len(begin) - 1) // columns, 0.0, rank[k], 0
    for j in range(at, at + len(seen)):
        if rank[j] < mine:
            widest = max(widest, lane[j])
            left += 1
    # edges are in the cells of places a quarter of a cell apart
    far = AGAINST * (widest + lane[k]) / 2 + edge / 8
    u = ways.last[k] - 1 if ways.closed[k] else ways.first[k]
    for v in range(ways.first[k], ways.last[k]):
        ax, ay = points[u, 0], points[u, 1]
        bx, by = points[v, 0], points[v, 1]
        steps = int(np.hypot(bx - ax, by - ay) / cells.step) + 1
        for place in range(1, steps + 1):
            x, y = ax + place / steps * (bx - ax), ay + place / steps * (by - ay)
            column, row = (x - cells.x) / edge, (y - cells.y) / edge
            low_c, high_c = int(max(column - far / edge, 0.0)), int(column + far / edge)
            low_r, high_r = int(max(row - far / edge, 0.0)), int(row + far / edge)
            for r in range(low_r, min(high_r + 1, rows)):
                # the cells of a row lie side by side, and so do their entries
                first, last = r * columns + low_c, r * columns + min(high_c + 1, columns)
                for entry in range(begin[first], begin[last]):
                    j = way[entry]
                    if rank[j] >= mine or seen[j - at] == k:
                        continue
                    px, py = points[tail[entry], 0], points[tail[entry], 1]
                    dx, dy = points[tip[entry], 0] - px, points[tip[entry], 1] - py
                    square, px, py = dx * dx + dy * dy, x - px, y - py
                    if square > 0:
                        part = min(max((px * dx + py * dy) / square, 0.0), 1.0)
                        px, py = px - part * dx, py - part * dy
                    reach = AGAINST * (lane[j] + lane[k]) / 2
                    if px * px + py * py <= reach * reach:
                        seen[j - at] = k
                        pairs = grown(pairs, count + 1)
                        pairs[count, 0], pairs[count, 1] = k - at, j - at
                        count, left = count + 1, left - 1
                        if left == 0:
                            return pairs, count
        u = v
    return pairs, count


@numba.njit(cache=True, nogil=True)
def both_ways(pairs, n):  # type: ignore[no-untyped-def]
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
