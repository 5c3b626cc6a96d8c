"""Cut support beads where nothing holds them.

The beads of each layer are painted onto a grid whose cells remember the last layer that was
painted there. A bead is held at a spot if the cell there was painted in the layer below, or if the
spot lies on the part. What is not held is cut away, except for straight spans from one hold to the
next. A branch leans, so the wall around it may lie further beside the wall below it than a line
may.
"""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numba
import numpy as np
import shapely

from northpace.geometry.scanline import fill_lines, grown
from northpace.paths.apart import points_of
from northpace.paths.table import PathTable

#: Size of a cell in mm, and the largest number of cells. Where more would be needed the cells are
#: larger.
CELL, MOST_CELLS = 0.1, 6_000_000
#: A loop is held by what lies this far beside its middle, as a share of half its width.
LOOP = 0.7
#: A span is straight if its ends are at least this share of its length apart; spans of lines, and
#: spans of loops, which bend around the corners they cross.
STRAIGHT, BENT = 0.85, 0.6


class _Paths(NamedTuple):
    """Paths as the kernel takes them, measured in cells."""

    #: (K, 2) points, (P + 1,) the first point of every path
    points: np.ndarray
    starts: np.ndarray
    #: (P,) layer, whether it is a loop, and half the width of its bead
    layer: np.ndarray
    closed: np.ndarray
    half: np.ndarray


def from_hold_to_hold(paths: PathTable, ground: np.ndarray, most: float) -> PathTable:
    """Cut away what nothing holds of support paths, from the bed up.

    Parameters
    ----------
    paths
        The beads of all supports.
    ground
        (N,) the areas of every layer in which supports stand on the part.
    most
        The longest span in mm from one hold to the next.
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
    """The ground (N,) of every layer as lines one cell apart, so that painting them paints every
    cell of it. ``low`` (2,) is the corner of the grid in mm.
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
    """A table of cut paths in some ``order`` (Q,), with ``points`` (K, 2) in mm. Every other column
    is that of the path (``source``, (Q,)) a piece was cut from; ``whole`` (Q,) is whether nothing
    was cut.
    """
    size, of = np.diff(starts)[order], source[order]
    index = points_of(starts, order)
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
    """Cut the paths, taken in ``order`` (P,), which is from the bed up.

    Returns the points (K, 2) of what remains, the first point (Q + 1,) of every piece, the path
    (Q,) it was cut from, and whether it is the whole path (Q,).
    """
    mark = np.full(cells, -1, np.int32)
    points, used = np.empty((len(paths.points) + 1024, 2)), 0
    rows, count = np.empty((len(order) + 1024, 3), np.int64), 0  # first point, path, whole
    spots = np.empty((1024, 3))
    i, on_floor = 0, 0
    while i < len(order):
        layer = paths.layer[order[i]]
        j = i
        while j < len(order) and paths.layer[order[j]] == layer:
            j += 1
        while on_floor < len(floor.layer) and floor.layer[on_floor] <= layer:
            if floor.layer[on_floor] == layer:
                a, b = floor.starts[on_floor], floor.starts[on_floor + 1]
                _paint_bead(floor.points, a, b, False, floor.half[on_floor], mark, layer)
            on_floor += 1
        first = count
        for n in range(i, j):
            p = order[n]
            number = _spots(paths, p, spots)
            if number > len(spots):
                spots = np.empty((2 * number, 3))
                _spots(paths, p, spots)
            flags = _held(spots, number, paths, p, mark, layer)
            begin, keep = _kept(spots, number, flags, paths.half[p], paths.closed[p], most)
            if begin >= 0 and keep.all():
                a, b = paths.starts[p], paths.starts[p + 1]
                points, rows = grown(points, used + b - a), grown(rows, count + 1)
                rows[count, 0], rows[count, 1], rows[count, 2] = used, p, 1
                points[used : used + b - a] = paths.points[a:b]
                used, count = used + b - a, count + 1
            elif begin >= 0:
                path = (p, paths.closed[p], paths.half[p])
                looked = (spots, flags, keep, begin, number)
                points, used, rows, count = _pieces(path, looked, points, used, rows, count)
        # what was laid holds the layer above
        for n in range(first, count):
            end = rows[n + 1, 0] if n + 1 < count else used
            p, whole = rows[n, 1], rows[n, 2] == 1
            loop = whole and paths.closed[p]
            _paint_bead(points, rows[n, 0], end, loop, paths.half[p], mark, layer + 1)
        i = j
    starts = np.empty(count + 1, np.int64)
    starts[:count] = rows[:count, 0]
    starts[count] = used
    return points[:used].copy(), starts, rows[:count, 1].copy(), rows[:count, 2] == 1


@numba.njit(cache=True, nogil=True)
def _spots(paths, p, spots):  # type: ignore[no-untyped-def]
    """Write spots along a path, at most a cell apart, into ``spots`` (S, 3): x, y and the number of
    the segment. Returns how many spots the path has, which may be more than there is room for.
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
def _held(spots, number, paths, p, mark, layer):  # type: ignore[no-untyped-def]
    """(S,) whether each spot of a path is held by the layer below it."""
    near = LOOP * paths.half[p] if paths.closed[p] else 0.0
    flags = np.empty(number, np.bool_)
    for s in range(number):
        x, y = spots[s, 0], spots[s, 1]
        held = layer == 0 or mark[int(x), int(y)] >= layer
        if not held:
            for cx in range(int(x - near), int(x + near) + 1):
                for cy in range(int(y - near), int(y + near) + 1):
                    if mark[cx, cy] >= layer:
                        dx, dy = cx + 0.5 - x, cy + 0.5 - y
                        held |= dx * dx + dy * dy <= near * near
        flags[s] = held
    return flags


@numba.njit(cache=True, nogil=True)
def _pieces(path, looked, points, used, rows, count):  # type: ignore[no-untyped-def]
    """Add the pieces of a path that are kept and held somewhere.

    ``path`` is its number, whether it is a loop, and half its width. ``looked`` is what is known
    of its spots: the spots, which are held, which are kept, the one they are counted from, and how
    many there are.
    """
    p, loop, half = path
    spots, flags, keep, begin, number = looked
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
            # a span at the end of a loop goes on to the hold that the loop was begun at
            last = end + 1 if end == number and loop and s > 0 else end
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
    """Decide which spots of a path are kept. Returns the spot from which the path is looked at, −1
    if it is held nowhere, and whether each spot is kept (S,), counted from that one.
    """
    begin, keep = 0, np.zeros(number, np.bool_)
    if flags[:number].all():
        keep[:] = True
        return begin, keep
    if loop:
        # a loop is looked at from the first spot of a hold
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
        # an end that hangs free may reach half a bead beyond its hold
        if s > 0:
            _reach(spots, keep, begin, s, end, number, half, True)
        if closes and end < number:
            _reach(spots, keep, begin, s, end, number, half, False)
        s = end
    return begin, keep


@numba.njit(cache=True, nogil=True)
def _corners(spots, number, first, end, points, used):  # type: ignore[no-untyped-def]
    """Append the two ends and the corners of a run of spots to ``points`` (K, 2), of which ``used``
    are taken. Returns how many are taken then.
    """
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
    """Keep the spots of an unheld run that lie within half a bead of the hold before it, or of the
    one after it if not ``onward``.
    """
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
def _paint_bead(points, a, b, closed, half, mark, value):  # type: ignore[no-untyped-def]
    """Write ``value`` into the cells that the bead along points a to b covers."""
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
