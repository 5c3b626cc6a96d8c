"""Whether a straight way crosses an edge: asked by travels of outlines and by joins of the border
of their patch.
"""

from __future__ import annotations

import numba
import numpy as np

from northpace.geometry.polygons import Rings


def edges_of(rings: Rings, count: int) -> tuple[np.ndarray, np.ndarray]:
    """Edges (K, 4) from each ring point to the next of its ring, and where those of each of
    ``count`` owners begin (count + 1,).
    """
    following = np.arange(1, len(rings.points) + 1)
    following[rings.starts[1:] - 1] = rings.starts[:-1]
    edges = (
        np.ascontiguousarray(np.concatenate([rings.points, rings.points[following]], axis=1))
        if len(rings.points)
        else np.empty((0, 4))
    )
    return edges, rings.starts[np.searchsorted(rings.owner, np.arange(count + 1))]


@numba.njit(cache=True)
def crosses(
    edges: np.ndarray, first: int, last: int, ax: float, ay: float, bx: float, by: float
) -> bool:
    """Whether the segment a-b crosses one of the edges ``first`` to ``last`` − 1 of (E, 4): x, y,
    x, y in mm. Through a corner, where two of them meet, it crosses as well.
    """
    low, high, left, right = min(ay, by), max(ay, by), min(ax, bx), max(ax, bx)
    for k in range(first, last):
        px, py, qx, qy = edges[k, 0], edges[k, 1], edges[k, 2], edges[k, 3]
        if (
            (py < low and qy < low)
            or (py > high and qy > high)
            or (px < left and qx < left)
            or (px > right and qx > right)
        ):
            continue
        s1 = (bx - ax) * (py - ay) - (by - ay) * (px - ax)
        s2 = (bx - ax) * (qy - ay) - (by - ay) * (qx - ax)
        s3 = (qx - px) * (ay - py) - (qy - py) * (ax - px)
        s4 = (qx - px) * (by - py) - (qy - py) * (bx - px)
        # a corner on the line belongs to one side, so that one of its two edges is crossed
        if (s1 > 0) != (s2 > 0) and (s3 > 0) != (s4 > 0):
            return True
    return False
