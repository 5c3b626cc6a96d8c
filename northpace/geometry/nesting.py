"""Rings whose direction tells solid from hole, as areas."""

from __future__ import annotations

import numba
import numpy as np
import shapely

from northpace.geometry.polygons import Pieces, Rings, collect


def areas_of_rings(rings: Rings, count: int) -> tuple[np.ndarray, np.ndarray]:
    """(count,) areas of rings sorted by owner, counter-clockwise ones around what is solid, islands
    in holes included; and for each (count,) whether one of its holes lies in nothing solid.
    """
    size = _signed(rings.points, rings.starts)
    shell = _shells(rings.points, rings.starts, rings.owner, size)
    stray = np.zeros(count, bool)
    stray[rings.owner[(shell < 0) & (size != 0)]] = True
    kept = np.flatnonzero((shell >= 0) & (size != 0))
    # every shell with its holes behind it
    order = kept[np.lexsort((size[kept] < 0, shell[kept]))]
    solid, of = np.unique(shell[order], return_inverse=True)
    whole = polygons_of(rings.points, rings.starts, order, of)
    return collect(Pieces(whole, rings.owner[solid]), count), stray


def polygons_of(
    points: np.ndarray, starts: np.ndarray, order: np.ndarray, of: np.ndarray
) -> np.ndarray:
    """(P,) polygons of rings in mm, points (K, 2) and starts (R + 1,): those of the ``order`` (M,),
    sorted by their polygon ``of`` (M,), the outline of each before its holes.
    """
    if not len(order):
        return np.empty(0, object)
    size = np.diff(starts)[order]
    at = np.repeat(starts[order] - np.r_[0, np.cumsum(size)[:-1]], size) + np.arange(size.sum())
    closed = shapely.linearrings(points[at], indices=np.repeat(np.arange(len(order)), size))
    return np.asarray(shapely.polygons(closed, indices=of))


@numba.njit(cache=True, nogil=True)
def _signed(points: np.ndarray, starts: np.ndarray) -> np.ndarray:
    """(R,) areas of rings in mm², negative where they run clockwise."""
    out = np.zeros(len(starts) - 1)
    for ring in range(len(out)):
        first, end = starts[ring], starts[ring + 1]
        x, y = points[first, 0], points[first, 1]
        for k in range(first + 1, end - 1):
            out[ring] += (points[k, 0] - x) * (points[k + 1, 1] - y)
            out[ring] -= (points[k + 1, 0] - x) * (points[k, 1] - y)
        out[ring] /= 2
    return out


@numba.njit(cache=True, nogil=True)
def _shells(
    points: np.ndarray, starts: np.ndarray, owner: np.ndarray, size: np.ndarray
) -> np.ndarray:
    """(R,) the smallest solid ring around each hole, a solid ring itself, -1 where there is none.
    ``size`` (R,) is their signed area in mm².
    """
    count = len(owner)
    out = np.empty(count, np.int64)
    box = np.empty((count, 4))
    for ring in range(count):
        some = points[starts[ring] : starts[ring + 1]]
        box[ring, 0], box[ring, 1] = some[:, 0].min(), some[:, 1].min()
        box[ring, 2], box[ring, 3] = some[:, 0].max(), some[:, 1].max()
    first = 0
    while first < count:
        end = first
        while end < count and owner[end] == owner[first]:
            end += 1
        out[first:end] = np.where(size[first:end] > 0, np.arange(first, end), -1)
        # a plate may have ten thousand holes: only what is solid is looked at, the smallest first
        solid = first + np.flatnonzero(size[first:end] > 0)
        solid = solid[np.argsort(size[solid])]
        for ring in range(first, end):
            if size[ring] > 0:
                continue
            x, y = points[starts[ring], 0], points[starts[ring], 1]
            for other in solid:
                if x < box[other, 0] or x > box[other, 2]:
                    continue
                if y < box[other, 1] or y > box[other, 3]:
                    continue
                if _holds(points[starts[other] : starts[other + 1]], x, y):
                    out[ring] = other
                    break
        first = end
    return out


@numba.njit(cache=True, nogil=True)
def _holds(ring: np.ndarray, x: float, y: float) -> bool:
    """Whether a point lies in a ring (N, 2) or on it."""
    inside = False
    last = len(ring) - 1
    for k in range(len(ring)):
        ax, ay, bx, by = ring[last, 0], ring[last, 1], ring[k, 0], ring[k, 1]
        last = k
        turn = (bx - ax) * (y - ay) - (by - ay) * (x - ax)
        if turn == 0 and min(ax, bx) <= x <= max(ax, bx) and min(ay, by) <= y <= max(ay, by):
            return True
        if (ay > y) != (by > y) and (turn > 0) == (by > ay):
            inside = not inside
    return inside
