"""Pieces of neighbouring layers that touch, put together to bodies."""

from __future__ import annotations

import numpy as np
import shapely
from scipy.sparse import coo_matrix
from scipy.sparse.csgraph import connected_components


def touching(
    below: np.ndarray, below_layer: np.ndarray, above: np.ndarray, above_layer: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """Index pairs of polygons of one array (B,) in layer n and of another (A,) in layer n + 1 that
    overlap or touch.
    """
    order = np.argsort(above_layer, kind="stable")
    first = np.searchsorted(above_layer[order], below_layer + 1)
    last = np.searchsorted(above_layer[order], below_layer + 1, "right")
    count = last - first
    one = np.repeat(np.arange(len(below)), count)
    ends = np.cumsum(count)
    two = order[np.repeat(first, count) + np.arange(len(one)) - np.repeat(ends - count, count)]
    p, q = shapely.bounds(below)[one], shapely.bounds(above)[two]
    near = (p[:, 0] <= q[:, 2]) & (q[:, 0] <= p[:, 2]) & (p[:, 1] <= q[:, 3]) & (q[:, 1] <= p[:, 3])
    one, two = one[near], two[near]
    shapely.prepare(below)
    meet = shapely.intersects(below[one], above[two])
    return one[meet], two[meet]


def stacked(polygons: np.ndarray, layer: np.ndarray) -> tuple[int, np.ndarray]:
    """Number of bodies, and the body (P,) of every polygon: those that touch in neighbouring layers
    (P,) belong together.
    """
    count = len(polygons)
    if count == 0:
        return 0, np.empty(0, np.int64)
    one, two = touching(polygons, layer, polygons, layer)
    graph = coo_matrix((np.ones(len(one)), (one, two)), shape=(count, count))
    bodies, label = connected_components(graph, directed=False)
    return int(bodies), label.astype(np.int64)
