"""Curves cut to polygons: the compiled kernel behind every pattern that is not made of straight
parallel lines.
"""

from __future__ import annotations

import numba
import numpy as np
import shapely

from northpace.geometry.crossing import crosses
from northpace.geometry.polygons import offset
from northpace.geometry.scanline import Chains, grown

#: Edges of a polygon are looked up in this many columns of its box.
COLUMNS = 64


def clip_curves(
    polygons: np.ndarray,
    curves: np.ndarray,
    starts: np.ndarray,
    of: np.ndarray,
    inset: float,
    join: float,
) -> Chains:
    """Pieces of curves inside polygons (P,), ends ``inset`` mm off the border, joined where ends
    lie within ``join`` mm.

    curves (K, 2) points and starts (C + 1,) of polylines, every one beginning outside its polygon
    or running free; of (C,) polygon of each curve, rising.
    """
    inner = offset(polygons, -inset) if inset else polygons
    # a polygon with a narrow neck falls apart
    parts, part_owner = shapely.get_parts(inner, return_index=True)
    rings, ring_part = shapely.get_rings(parts, return_index=True)
    points, of_ring = shapely.get_coordinates(rings, return_index=True)
    same = np.flatnonzero(of_ring[1:] == of_ring[:-1])
    edges = np.ascontiguousarray(np.concatenate([points[same], points[same + 1]], axis=1))
    owner = part_owner[ring_part[of_ring[same]]] if len(same) else np.empty(0, np.int64)
    bounds = np.searchsorted(owner, np.arange(len(polygons) + 1)).astype(np.int64)
    curve_at = np.searchsorted(of, np.arange(len(polygons) + 1)).astype(np.int64)
    found, at, whose, length = _clip(
        edges,
        bounds,
        np.ascontiguousarray(curves, np.float64),
        starts.astype(np.int64),
        curve_at,
        join,
    )
    return Chains(found, at, whose, np.zeros(len(polygons)), length)


@numba.njit(cache=True, nogil=True)
def _inside(edges: np.ndarray, first: int, last: int, x: float, y: float) -> bool:
    inside = False
    for k in range(first, last):
        ay, by = edges[k, 1], edges[k, 3]
        if (ay > y) != (by > y) and x < edges[k, 0] + (y - ay) / (by - ay) * (
            edges[k, 2] - edges[k, 0]
        ):
            inside = not inside
    return inside


@numba.njit(cache=True, nogil=True)
def _clip(edges, bounds, curves, starts, curve_at, join):  # type: ignore[no-untyped-def]
    count = len(bounds) - 1
    out, filled = np.empty((4096, 2)), 0
    marks, pieces = np.empty((1024, 2), np.int64), 0
    for p in range(count):
        first, last = bounds[p], bounds[p + 1]
        if last <= first:
            continue
        low, high, bottom, top = np.inf, -np.inf, np.inf, -np.inf
        for k in range(first, last):
            low, high = min(low, edges[k, 0]), max(high, edges[k, 0])
            bottom, top = min(bottom, edges[k, 1]), max(top, edges[k, 1])
        # edges by the columns of the box they touch
        wide = max((high - low) / COLUMNS, 1e-9)
        held = np.zeros(COLUMNS + 1, np.int64)
        for turn in range(2):
            if turn:
                at = np.zeros(COLUMNS + 1, np.int64)
                at[1:] = np.cumsum(held[:COLUMNS])
                listed = np.empty(at[COLUMNS], np.int64)
                fill = at[:COLUMNS].copy()
            for k in range(first, last):
                c0 = min(max(int((min(edges[k, 0], edges[k, 2]) - low) / wide), 0), COLUMNS - 1)
                c1 = min(max(int((max(edges[k, 0], edges[k, 2]) - low) / wide), 0), COLUMNS - 1)
                for c in range(c0, c1 + 1):
                    if turn:
                        listed[fill[c]] = k
                        fill[c] += 1
                    else:
                        held[c] += 1
        share = np.empty(256)
        for curve in range(curve_at[p], curve_at[p + 1]):
            inside = _inside(edges, first, last, curves[starts[curve], 0], curves[starts[curve], 1])
            if inside:
                marks, out = grown(marks, pieces + 1), grown(out, filled + 1)
                marks[pieces, 0], marks[pieces, 1] = filled, p
                pieces += 1
                out[filled, 0], out[filled, 1] = curves[starts[curve], 0], curves[starts[curve], 1]
                filled += 1
            for k in range(starts[curve], starts[curve + 1] - 1):
                ax, ay, bx, by = curves[k, 0], curves[k, 1], curves[k + 1, 0], curves[k + 1, 1]
                number = 0
                if not (
                    max(ax, bx) < low
                    or min(ax, bx) > high
                    or max(ay, by) < bottom
                    or min(ay, by) > top
                ):
                    c0 = min(max(int((min(ax, bx) - low) / wide), 0), COLUMNS - 1)
                    c1 = min(max(int((max(ax, bx) - low) / wide), 0), COLUMNS - 1)
                    for c in range(c0, c1 + 1):
                        for j in range(at[c], at[c + 1]):
                            e = listed[j]
                            px, py, qx, qy = edges[e, 0], edges[e, 1], edges[e, 2], edges[e, 3]
                            s1 = (bx - ax) * (py - ay) - (by - ay) * (px - ax)
                            s2 = (bx - ax) * (qy - ay) - (by - ay) * (qx - ax)
                            # half open, so that a curve through a corner crosses once
                            if (s1 >= 0) == (s2 >= 0):
                                continue
                            cross = (bx - ax) * (qy - py) - (by - ay) * (qx - px)
                            t = ((px - ax) * (qy - py) - (py - ay) * (qx - px)) / cross
                            if t < 0 or t >= 1 or number >= 256:
                                continue
                            # an edge stands in several columns: taken in the one where it is
                            # crossed
                            if (
                                min(max(int((ax + t * (bx - ax) - low) / wide), 0), COLUMNS - 1)
                                != c
                            ):
                                continue
                            m = number
                            while m > 0 and share[m - 1] > t:
                                share[m] = share[m - 1]
                                m -= 1
                            share[m] = t
                            number += 1
                for m in range(number):
                    x, y = ax + share[m] * (bx - ax), ay + share[m] * (by - ay)
                    out = grown(out, filled + 1)
                    if not inside:
                        marks = grown(marks, pieces + 1)
                        marks[pieces, 0], marks[pieces, 1] = filled, p
                        pieces += 1
                    out[filled, 0], out[filled, 1] = x, y
                    filled += 1
                    inside = not inside
                if inside:
                    out = grown(out, filled + 1)
                    out[filled, 0], out[filled, 1] = bx, by
                    filled += 1
    return _joined(out, filled, marks, pieces, edges, bounds, count, join)


@numba.njit(cache=True, nogil=True)
def _joined(out, filled, marks, pieces, edges, bounds, count, join):  # type: ignore[no-untyped-def]
    """Pieces of a polygon put end to end where the way between is short and crosses nothing."""
    ends = np.empty(pieces + 1, np.int64)
    for k in range(pieces):
        ends[k] = marks[k, 0]
    ends[pieces] = filled
    points = np.empty((filled, 2))
    starts = np.empty(pieces + 1, np.int64)
    owner = np.empty(pieces, np.int64)
    length = np.zeros(count)
    done = np.zeros(pieces, np.bool_)
    used, chains = 0, 0
    begin = 0
    while begin < pieces:
        p = marks[begin, 1]
        end = begin
        while end < pieces and marks[end, 1] == p:
            end += 1
        for k0 in range(begin, end):
            if done[k0]:
                continue
            here = 0.0
            starts[chains], owner[chains] = used, p
            k, forward = k0, True
            while True:
                done[k] = True
                a, b = ends[k], ends[k + 1]
                for i in range(b - a):
                    v = a + i if forward else b - 1 - i
                    points[used, 0], points[used, 1] = out[v, 0], out[v, 1]
                    if used > starts[chains]:
                        here += np.hypot(
                            points[used, 0] - points[used - 1, 0],
                            points[used, 1] - points[used - 1, 1],
                        )
                    used += 1
                x, y = points[used - 1, 0], points[used - 1, 1]
                best, nearest, way = -1, join, True
                for j in range(begin, end):
                    if done[j]:
                        continue
                    far = np.hypot(out[ends[j], 0] - x, out[ends[j], 1] - y)
                    if far < nearest:
                        best, nearest, way = j, far, True
                    far = np.hypot(out[ends[j + 1] - 1, 0] - x, out[ends[j + 1] - 1, 1] - y)
                    if far < nearest:
                        best, nearest, way = j, far, False
                if best < 0:
                    break
                v = ends[best] if way else ends[best + 1] - 1
                # a hair inside both ends, which lie on the border themselves
                tx, ty = out[v, 0] - x, out[v, 1] - y
                if crosses(
                    edges,
                    bounds[p],
                    bounds[p + 1],
                    x + 1e-4 * tx,
                    y + 1e-4 * ty,
                    x + 0.9999 * tx,
                    y + 0.9999 * ty,
                ):
                    break
                k, forward = best, way
            if here < 0.05:
                used = starts[chains]  # nothing to lay
            else:
                length[p] += here
                chains += 1
        begin = end
    starts[chains] = used
    return points[:used].copy(), starts[: chains + 1].copy(), owner[:chains].copy(), length
