"""Outlines without the corners that lie within some detail of the line without them."""

from __future__ import annotations

import numba
import numpy as np
import shapely

from northpace.geometry.nesting import polygons_of
from northpace.geometry.polygons import Pieces, collect, rings_of


def thinned(areas: np.ndarray, detail: float) -> np.ndarray:
    """Areas (N,) whose outlines stray by no more than ``detail`` mm, with fewer corners; what is
    narrower than that is lost.
    """
    parts, of_part = shapely.get_parts(areas, return_index=True)
    rings = rings_of(parts)
    points, starts = thin_rings(rings.points, rings.starts, detail)
    left = np.diff(starts) > 0
    # a hole goes with its outline, which is the first ring of its polygon
    left &= left[np.searchsorted(rings.owner, rings.owner)]
    order = np.flatnonzero(left)
    known, of = np.unique(rings.owner[order], return_inverse=True)
    whole = polygons_of(points, starts, order, of)
    out = collect(Pieces(whole, of_part[known]), len(areas))
    bad = np.flatnonzero(~shapely.is_valid(out))
    if len(bad):
        out[bad] = shapely.simplify(areas[bad], detail)
    return out


@numba.njit(cache=True, nogil=True)
def thin_rings(
    points: np.ndarray, starts: np.ndarray, detail: float
) -> tuple[np.ndarray, np.ndarray]:
    """Rings with fewer corners as points (K, 2) in mm and starts (R + 1,): each is within
    ``detail`` mm of what it was and begins at its leftmost corner; empty where that leaves no area.
    """
    out, ends = np.empty_like(points), np.zeros_like(starts)
    filled = 0
    for ring in range(len(starts) - 1):
        filled = thin_ring(points[starts[ring] : starts[ring + 1]], detail, out, filled)
        ends[ring + 1] = filled
    return out[:filled].copy(), ends


@numba.njit(cache=True, nogil=True)
def thin_ring(ring: np.ndarray, detail: float, out: np.ndarray, filled: int) -> int:
    """Put what is left of a ring (N, 2) behind so many points of ``out`` (M, 2), which has room for
    it; returns how many there are then.

    Source: Douglas and Peucker, Cartographica 10 (2), 1973, from the two corners of the ring that
    lie farthest apart, or nearly so.
    """
    count = len(ring)
    if count < 3:
        return filled
    # the farthest from any point is a corner of the hull, so neither of them lies within a side
    one = _farthest(ring, 0)
    two = _farthest(ring, one)
    kept = np.zeros(count, np.bool_)
    kept[one] = kept[two] = True
    stack = np.empty((count + 2, 2), np.int64)
    stack[0, 0], stack[0, 1] = one, two + count * (two <= one)
    stack[1, 0], stack[1, 1] = two, one + count * (one <= two)
    depth = 2
    while depth:
        depth -= 1
        begin, end = stack[depth, 0], stack[depth, 1]
        if end - begin < 2:
            continue
        ax, ay = ring[begin % count]
        bx, by = ring[end % count]
        ux, uy = bx - ax, by - ay
        long = ux * ux + uy * uy
        most, at = detail * detail, -1
        k = begin + 1 if begin + 1 < count else begin + 1 - count
        for n in range(begin + 1, end):
            px, py = ring[k, 0] - ax, ring[k, 1] - ay
            t = px * ux + py * uy
            if t >= long > 0:
                px, py = px - ux, py - uy
            elif t > 0:
                px, py = px - ux * t / long, py - uy * t / long
            away = px * px + py * py
            if away > most:
                most, at = away, n
            k += 1
            if k == count:
                k = 0
        if at >= 0:
            kept[at % count] = True
            stack[depth, 0], stack[depth, 1] = begin, at
            stack[depth + 1, 0], stack[depth + 1, 1] = at, end
            depth += 2
    return _copied(ring, kept, out, filled)


@numba.njit(cache=True, nogil=True)
def _farthest(ring: np.ndarray, here: int) -> int:
    away = (ring[:, 0] - ring[here, 0]) ** 2 + (ring[:, 1] - ring[here, 1]) ** 2
    return int(np.argmax(away))


@numba.njit(cache=True, nogil=True)
def _copied(ring: np.ndarray, kept: np.ndarray, out: np.ndarray, filled: int) -> int:
    """Put the kept corners of a ring (N, 2) behind those of ``out``, from the leftmost on; of two
    as far left, from the lower.
    """
    count, first = len(ring), -1
    for k in range(count):
        if kept[k] and (first < 0 or (ring[k, 0], ring[k, 1]) < (ring[first, 0], ring[first, 1])):
            first = k
    begun, twice = filled, 0.0
    for n in range(count):
        k = (first + n) % count
        if not kept[k]:
            continue
        out[filled] = ring[k]
        if filled > begun + 1:
            ax, ay = out[filled - 1, 0] - out[begun, 0], out[filled - 1, 1] - out[begun, 1]
            bx, by = out[filled, 0] - out[begun, 0], out[filled, 1] - out[begun, 1]
            twice += ax * by - ay * bx
        filled += 1
    return filled if filled > begun + 2 and twice != 0.0 else begun
