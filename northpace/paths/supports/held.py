"""Support beads from hold to hold: none begins, ends or runs on in the air.

The beads of a layer are painted onto a grid that remembers the last layer painted in each cell. A
bead is held where the cell under its middle was painted in the layer below, or is ground; a loop,
whose leaning side is held by the rest of it, where a cell nearby was. What is not held is cut off,
unless it spans straight from one hold to the next.
"""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numba
import numpy as np
import shapely

from northpace.geometry.scanline import fill_lines, grown
from northpace.paths.table import PathTable

#: Cells of the grid in mm, and how many there are at most: what is larger gets larger cells.
CELL, MOST_CELLS = 0.1, 6_000_000
#: How far to either side of its middle a loop is held, in halves of its width.
LOOP = 0.7
#: Share of its length that a stretch in the air covers as the crow flies, to be called straight;
#: loops, which close over what two of them below leave open, may bend.
STRAIGHT, BENT = 0.85, 0.6


class _Paths(NamedTuple):
    """Paths for the kernel, in cells: as in `PathTable`."""

    points: np.ndarray
    starts: np.ndarray
    layer: np.ndarray
    closed: np.ndarray
    half: np.ndarray


def from_hold_to_hold(paths: PathTable, ground: np.ndarray, most: float) -> PathTable:
    """The paths, layer by layer from the bed, without what nothing holds.

    Parameters
    ----------
    paths
        Beads of supports alone.
    ground
        (N,) areas in every layer where its beads lie on the part.
    most
        Longest span in mm from one hold to the next.
    """
    if len(paths) == 0:
        return paths
    order = np.argsort(paths.layer, kind="stable")
    widest = float(paths.width.max())
    low, high = paths.points.min(axis=0), paths.points.max(axis=0)
    cell = max(CELL, float(np.sqrt(np.prod(high - low + 4.0) / MOST_CELLS)))
    low = low - widest / 2 - 3 * cell
    cells = np.ceil((high + widest / 2 + 3 * cell - low) / cell).astype(np.int64) + 1
    floor = _floor(ground, cell, low)
    half = paths.width[paths.starts[:-1]] / 2 / cell
    cut = _Paths((paths.points - low) / cell, paths.starts, paths.layer, paths.closed, half)
    size = (int(cells[0]), int(cells[1]))
    points, starts, source, whole = _cut(cut, order, floor, size, most / cell)
    back = np.argsort(source, kind="stable")
    return _some(paths, points * cell + low, starts, source, whole, back)


def _floor(ground: np.ndarray, cell: float, low: np.ndarray) -> _Paths:
    """The ground (N,) of all layers as lines that leave no cell between them out; ``low`` (2,) is
    the corner of the first cell in mm.
    """
    pieces, layer = shapely.get_parts(ground, return_index=True)
    count = len(pieces)
    none = np.zeros(count)
    chains = fill_lines(pieces, none, np.full(count, cell), none, False, 0.0)
    of = layer[chains.polygon]
    points = (chains.points - low) / cell
    return _Paths(points, chains.starts, of, np.zeros(len(of), bool), np.full(len(of), 0.5))


def _some(
    paths: PathTable,
    points: np.ndarray,
    starts: np.ndarray,
    source: np.ndarray,
    whole: np.ndarray,
    order: np.ndarray,
) -> PathTable:
    """Paths with ``points`` of their own (K, 2), each cut from the path it comes from."""
    size = np.diff(starts)[order]
    of = source[order]
    index = np.repeat(starts[order] - np.r_[0, np.cumsum(size)[:-1]], size) + np.arange(size.sum())
    columns = {
        name: getattr(paths, name)[of]
        for name in ("layer", "island", "rank", "feature", "height", "z", "fixed", "cause")
    }
    return replace(
        paths,
        points=np.ascontiguousarray(points[index]),
        starts=np.r_[0, np.cumsum(size)],
        width=np.repeat(paths.width[paths.starts[:-1]][of], size),
        closed=paths.closed[of] & whole[order],
        top=np.zeros(int(size.sum()), np.bool_),
        **columns,
    )


@numba.njit(cache=True, nogil=True)
def _cut(paths, order, floor, cells, most):  # type: ignore[no-untyped-def]
    """Points (K, 2), starts (Q + 1,), the path each was cut from (Q,) and whether it is whole."""
    mark = np.full(cells, -1, np.int32)
    points, used = np.empty((len(paths.points) + 1024, 2)), 0
    rows, count = np.empty((len(order) + 1024, 3), np.int64), 0  # start, path, whole
    flags, spots = np.empty(1024, np.bool_), np.empty((1024, 3))
    i, on_floor = 0, 0
    while i < len(order):
        layer = paths.layer[order[i]]
        j = i
        while j < len(order) and paths.layer[order[j]] == layer:
            j += 1
        while on_floor < len(floor.layer) and floor.layer[on_floor] <= layer:
            if floor.layer[on_floor] == layer:
                _paint(floor, on_floor, mark, layer)
            on_floor += 1
        first = count
        for n in range(i, j):
            p = order[n]
            a, b = paths.starts[p], paths.starts[p + 1]
            number = _samples(paths, p, spots)
            if number > len(spots):
                spots = np.empty((2 * number, 3))
                flags = np.empty(2 * number, np.bool_)
                number = _samples(paths, p, spots)
            if len(flags) < len(spots):
                flags = np.empty(len(spots), np.bool_)
            good = layer == 0
            if not good:
                near = LOOP * paths.half[p] if paths.closed[p] else 0.0
                good = _flagged(spots, number, near, mark, layer, flags)
            if good:
                points = grown(points, used + b - a)
                rows = grown(rows, count + 1)
                rows[count, 0], rows[count, 1], rows[count, 2] = used, p, 1
                count += 1
                points[used : used + b - a] = paths.points[a:b]
                used += b - a
                continue
            points, used, rows, count = _pieces(
                paths, p, spots, number, flags, most, points, used, rows, count
            )
        # what is laid holds the layer above
        for n in range(first, count):
            end = rows[n + 1, 0] if n + 1 < count else used
            _paint_points(
                points,
                rows[n, 0],
                end,
                rows[n, 2] == 1 and paths.closed[rows[n, 1]],
                paths.half[rows[n, 1]],
                mark,
                layer + 1,
            )
        i = j
    starts = np.empty(count + 1, np.int64)
    starts[:count] = rows[:count, 0]
    starts[count] = used
    return points[:used].copy(), starts, rows[:count, 1].copy(), rows[:count, 2] == 1


@numba.njit(cache=True, nogil=True)
def _samples(paths, p, spots):  # type: ignore[no-untyped-def]
    """Spots (S, 3) along a path, x, y and segment, at most a cell apart; how many there are, of
    which those are written that there is room for.
    """
    a, b = paths.starts[p], paths.starts[p + 1]
    number = 0
    segments = b - a if paths.closed[p] else b - a - 1
    for k in range(segments):
        one, two = a + k, a + k + 1
        if two == b:
            two = a
        ax, ay = paths.points[one, 0], paths.points[one, 1]
        bx, by = paths.points[two, 0], paths.points[two, 1]
        steps = max(int(np.ceil(np.hypot(bx - ax, by - ay))), 1)
        for s in range(steps + 1):
            if number < len(spots):
                spots[number, 0] = ax + s / steps * (bx - ax)
                spots[number, 1] = ay + s / steps * (by - ay)
                spots[number, 2] = k
            number += 1
    return number


@numba.njit(cache=True, nogil=True)
def _flagged(spots, number, near, mark, layer, flags):  # type: ignore[no-untyped-def]
    """Say of every spot whether something in a layer below is as ``near`` (cells); and whether that
    is so of all.
    """
    every = True
    for s in range(number):
        x, y = spots[s, 0], spots[s, 1]
        held = mark[int(x), int(y)] >= layer
        if not held:
            for cx in range(int(x - near), int(x + near) + 1):
                for cy in range(int(y - near), int(y + near) + 1):
                    if mark[cx, cy] >= layer:
                        dx, dy = cx + 0.5 - x, cy + 0.5 - y
                        held |= dx * dx + dy * dy <= near * near
        flags[s] = held
        every &= held
    return every


@numba.njit(cache=True, nogil=True)
def _pieces(paths, p, spots, number, flags, most, points, used, rows, count):  # type: ignore[no-untyped-def]
    """Add what is left of a path that is not held everywhere."""
    half = paths.half[p]
    begin, keep = _kept(spots, number, flags, half, paths.closed[p], most)
    if begin < 0:
        return points, used, rows, count
    if keep.all():
        a, b = paths.starts[p], paths.starts[p + 1]
        points = grown(points, used + b - a)
        rows = grown(rows, count + 1)
        rows[count, 0], rows[count, 1], rows[count, 2] = used, p, 1
        points[used : used + b - a] = paths.points[a:b]
        return points, used + b - a, rows, count + 1
    s = 0
    while s < number:
        if not keep[s]:
            s += 1
            continue
        end, held = s, False
        while end < number and keep[end]:
            held |= flags[(begin + end) % number]
            end += 1
        if held and end - s > 1:
            # what spans to where the loop was begun ends there
            last = end + 1 if end == number and paths.closed[p] and s > 0 else end
            points = grown(points, used + last - s)
            was, used = used, _corners(spots, number, begin + s, begin + last, points, used)
            one, two = points[was], points[used - 1]
            if used - was > 2 or np.hypot(two[0] - one[0], two[1] - one[1]) > half:
                rows = grown(rows, count + 1)
                rows[count, 0], rows[count, 1], rows[count, 2] = was, p, 0
                count += 1
            else:
                used = was
        s = end
    return points, used, rows, count


@numba.njit(cache=True, nogil=True)
def _kept(spots, number, flags, half, loop, most):  # type: ignore[no-untyped-def]
    """The spot a path is looked at from, −1 where it is held nowhere, and which spots are kept,
    counted from there.
    """
    begin, keep = 0, np.zeros(number, np.bool_)
    if loop:
        # a loop is looked at from where a hold begins
        begin = -1
        for s in range(number):
            if flags[s] and not flags[s - 1 if s else number - 1]:
                begin = s
                break
        if begin < 0:
            return begin, keep
    s = 0
    while s < number:
        if flags[(begin + s) % number]:
            keep[s] = True
            s += 1
            continue
        end = s
        while end < number and not flags[(begin + end) % number]:
            end += 1
        closes = end < number or loop
        if s > 0 and closes:
            far = 0.0
            for n in range(s, end + 1):
                one, two = (begin + n - 1) % number, (begin + n) % number
                far += np.hypot(spots[two, 0] - spots[one, 0], spots[two, 1] - spots[one, 1])
            one, two = (begin + s - 1) % number, (begin + end) % number
            direct = np.hypot(spots[two, 0] - spots[one, 0], spots[two, 1] - spots[one, 1])
            straight = direct >= (BENT if loop else STRAIGHT) * far
            if far <= most and (straight or far <= 8 * half):
                keep[s:end] = True
                s = end
                continue
        # free ends reach no further than half a bead beyond their hold
        if s > 0:
            _reach(spots, keep, begin, s, end, number, half, True)
        if closes and end < number:
            _reach(spots, keep, begin, s, end, number, half, False)
        s = end
    return begin, keep


@numba.njit(cache=True, nogil=True)
def _corners(spots, number, first, end, points, used):  # type: ignore[no-untyped-def]
    """Write the ends and the corners of a stretch of spots; how many points there are now."""
    was = used
    for n in range(first, end):
        at = n % number
        if first < n < end - 1:
            before, after = (n - 1) % number, (n + 1) % number
            if spots[at, 2] == spots[before, 2] and spots[at, 2] == spots[after, 2]:
                continue
            same = used > was and spots[at, 0] == points[used - 1, 0]
            if same and spots[at, 1] == points[used - 1, 1]:
                continue
        points[used, 0], points[used, 1] = spots[at, 0], spots[at, 1]
        used += 1
    return used


@numba.njit(cache=True, nogil=True)
def _reach(spots, keep, begin, s, end, number, half, onward):  # type: ignore[no-untyped-def]
    """Keep of a stretch in the air what lies within half a bead of the hold before or after it."""
    far, n = 0.0, s if onward else end - 1
    while s <= n < end:
        one = (begin + (n - 1 if onward else n + 1)) % number
        two = (begin + n) % number
        far += np.hypot(spots[two, 0] - spots[one, 0], spots[two, 1] - spots[one, 1])
        if far > half:
            return
        keep[n] = True
        n += 1 if onward else -1


@numba.njit(cache=True, nogil=True)
def _paint(paths, p, mark, value):  # type: ignore[no-untyped-def]
    _paint_points(
        paths.points,
        paths.starts[p],
        paths.starts[p + 1],
        paths.closed[p],
        paths.half[p],
        mark,
        value,
    )


@numba.njit(cache=True, nogil=True)
def _paint_points(points, a, b, closed, half, mark, value):  # type: ignore[no-untyped-def]
    """Mark the cells that a bead covers."""
    width, depth = mark.shape
    for k in range(b - a if closed else b - a - 1):
        one, two = a + k, a + k + 1
        if two == b:
            two = a
        ax, ay, bx, by = points[one, 0], points[one, 1], points[two, 0], points[two, 1]
        steps = max(int(np.ceil(np.hypot(bx - ax, by - ay))), 1)
        for s in range(steps + 1):
            x, y = ax + s / steps * (bx - ax), ay + s / steps * (by - ay)
            for cx in range(max(int(x - half), 0), min(int(x + half) + 1, width)):
                for cy in range(max(int(y - half), 0), min(int(y + half) + 1, depth)):
                    dx, dy = cx + 0.5 - x, cy + 0.5 - y
                    if dx * dx + dy * dy <= half * half and mark[cx, cy] < value:
                        mark[cx, cy] = value
