"""Where a straight way crosses edges: asked by travels of outlines, and by joins of the border of
their patch.
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


@numba.njit(cache=True, nogil=True)
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


#: Edges that share a box: neighbours along a ring lie near each other.
BLOCK = 16


@numba.njit(cache=True, nogil=True)
def boxes_of(edges: np.ndarray) -> np.ndarray:
    """(B, 4) lowest x, y, highest x, y of every `BLOCK` edges (E, 4) that follow each other."""
    out = np.empty((-(-len(edges) // BLOCK), 4))
    for b in range(len(out)):
        out[b, 0] = out[b, 1] = np.inf
        out[b, 2] = out[b, 3] = -np.inf
        for k in range(b * BLOCK, min((b + 1) * BLOCK, len(edges))):
            for axis in range(2):
                one, two = edges[k, axis], edges[k, 2 + axis]
                out[b, axis] = min(out[b, axis], one, two)
                out[b, 2 + axis] = max(out[b, 2 + axis], one, two)
    return out


@numba.njit(cache=True, nogil=True)
def crosses_boxed(
    edges: np.ndarray,
    boxes: np.ndarray,
    first: int,
    last: int,
    way: tuple[float, float, float, float],
) -> bool:
    """`crosses` for a ``way`` from x, y to x, y over edges with their `boxes_of` (B, 4)."""
    ax, ay, bx, by = way
    low, high, left, right = min(ay, by), max(ay, by), min(ax, bx), max(ax, bx)
    for b in range(first // BLOCK, -(-last // BLOCK)):
        if (
            boxes[b, 0] <= right
            and boxes[b, 2] >= left
            and boxes[b, 1] <= high
            and boxes[b, 3] >= low
        ):
            begin, end = max(first, b * BLOCK), min(last, (b + 1) * BLOCK)
            if crosses(edges, begin, end, ax, ay, bx, by):
                return True
    return False


@numba.njit(cache=True, nogil=True)
def within_edges(
    edges: np.ndarray, edge_at: np.ndarray, owner: np.ndarray, ways: np.ndarray
) -> np.ndarray:
    """(S,) length in mm of segments (S, 2, 2) that lies inside the areas whose edges (E, 4) are
    those from ``edge_at[owner]`` on; ``owner`` (S,) is the number of the area.

    Along the line of a segment one is inside between the first crossing and the second, the third
    and the fourth, and so on; a corner on the line belongs to one side.
    """
    out = np.zeros(len(ways))
    for n in range(len(ways)):
        ax, ay, bx, by = ways[n, 0, 0], ways[n, 0, 1], ways[n, 1, 0], ways[n, 1, 1]
        first, last = edge_at[owner[n]], edge_at[owner[n] + 1]
        ux, uy = bx - ax, by - ay
        far = ux * ux + uy * uy
        if far == 0.0:
            continue
        at, count = np.empty(last - first), 0
        for k in range(first, last):
            px, py, qx, qy = edges[k, 0], edges[k, 1], edges[k, 2], edges[k, 3]
            one, two = ux * (py - ay) - uy * (px - ax), ux * (qy - ay) - uy * (qx - ax)
            if (one > 0) != (two > 0):
                share = one / (one - two)
                x, y = px + share * (qx - px) - ax, py + share * (qy - py) - ay
                at[count] = (x * ux + y * uy) / far
                count += 1
        crossings = np.sort(at[:count])
        inside = 0.0
        for k in range(0, count - 1, 2):
            inside += max(min(crossings[k + 1], 1.0) - max(crossings[k], 0.0), 0.0)
        out[n] = inside * np.sqrt(far)
    return out
