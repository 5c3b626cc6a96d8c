"""What growing an area by some way makes of it, told without growing it."""

from __future__ import annotations

import numba
import numpy as np
import shapely

#: Mitre limit up to which a corner is kept when narrow parts are told apart: right angles and wider
#: ones.
CORNER = 1.5


def short_of(outer: np.ndarray, inner: np.ndarray, reach: np.ndarray | float) -> np.ndarray:
    """(A,) mm² by which areas ``inner`` (A,), grown by ``reach`` mm with mitred corners, cover less
    than ``outer`` (A,) around them, of which one was made from the other by moving its outline that
    far. Infinite where one of them has other parts or holes: then it fell apart, or met itself.

    With as many parts and holes a grown area meets itself nowhere, and covers its own area, its
    length times the way, and way² · tan(θ/2) more at every corner that turns by θ: Steiner's
    formula for mitred corners (Schneider, Convex Bodies, 2nd ed., 2014, §4.1, has that for round
    ones).
    """
    count = len(outer)
    before, of_before = shapely.get_parts(outer, return_index=True)
    parts, of_part = shapely.get_parts(inner, return_index=True)
    rings, of_ring = shapely.get_rings(parts, return_index=True)
    points, of_point = shapely.get_coordinates(rings, return_index=True)
    starts = np.searchsorted(of_point, np.arange(len(rings) + 1))
    holes, holes_before = (
        np.bincount(of, shapely.get_num_interior_rings(some), count)
        for of, some in ((of_part, parts), (of_before, before))
    )
    whole = np.bincount(of_part, minlength=count) == np.bincount(of_before, minlength=count)
    whole &= holes == holes_before
    gain = np.bincount(of_part[of_ring], _corners(points, starts, of_ring), count)
    grown = shapely.area(inner) + reach * shapely.length(inner) + reach**2 * gain
    short = np.where(whole, shapely.area(outer) - grown, np.inf)
    return np.where(shapely.is_empty(outer), 0.0, short)


@numba.njit(cache=True, nogil=True)
def _corners(points: np.ndarray, starts: np.ndarray, part: np.ndarray) -> np.ndarray:
    """(R,) what corners add to the area around closed rings grown by one: tan(θ/2) for each that
    turns by θ, less where it is cut off. Rings belong to a ``part`` (R,), whose outline is first.
    """
    out = np.zeros(len(part))
    # the cosine of the turn from which on a corner is longer than `CORNER` and cut off
    sharp = 2.0 / CORNER**2 - 1.0
    for ring in range(len(part)):
        first, last = starts[ring], starts[ring + 1] - 1
        twice = 0.0
        turns = np.zeros((2, 2))  # to the left and right, as outer corners and as inner ones
        ux, uy = points[first, 0] - points[last - 1, 0], points[first, 1] - points[last - 1, 1]
        for k in range(first, last):
            x, y = points[k, 0] - points[first, 0], points[k, 1] - points[first, 1]
            vx, vy = points[k + 1, 0] - points[k, 0], points[k + 1, 1] - points[k, 1]
            twice += x * vy - y * vx
            long = np.hypot(ux, uy) * np.hypot(vx, vy)
            if long > 0.0:
                sine, cosine = (ux * vy - uy * vx) / long, (ux * vx + uy * vy) / long
                side, whole = int(sine < 0.0), abs(sine) / max(1.0 + cosine, 1e-6)
                turns[side, 0] += whole if cosine > sharp else abs(sine) / 2
                turns[side, 1] += whole
                ux, uy = vx, vy
        # the direction of a ring is its kernel's own affair
        outline = ring == 0 or part[ring] != part[ring - 1]
        left = (twice > 0.0) == outline
        out[ring] = turns[0, 0] - turns[1, 1] if left else turns[1, 0] - turns[0, 1]
    return out
