"""Ways around what is finished, at the height the head is at."""

from __future__ import annotations

import numpy as np
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import dijkstra

from northpace.beds.head import HeadOutline
from northpace.beds.reach import Turned, moved, swept
from northpace.geometry.polygons import rounded, together

#: Detail of what is gone around (mm), and most corners of it: with more, the way over is taken.
DETAIL, MOST_CORNERS = 0.5, 160
#: A way that touches is none that hits (mm).
TOUCH = 0.02


def closed_to_tip(
    finished: list[tuple[Turned, np.ndarray]], parts: list[HeadOutline], z: float, away: float
) -> shapely.Geometry:
    """Where the tip may not be at a height in mm, so that no outline of the head comes nearer than
    ``away`` mm to what is finished: pairs of how it stands and where (2,).
    """
    found = []
    for stand, at in finished:
        for part in parts:
            tall = stand.standing.taller_than(z + part.height - away)
            if tall is not None and not shapely.is_empty(tall):
                # the tip at m hits t where t = m + o for an o of the outline, so m = t - o
                found.append(swept(moved(tall, at), -part.corners))
    if not found:
        return shapely.Polygon()
    wide = rounded(together(np.array(found, object)), away + DETAIL, 2)
    return shapely.simplify(wide, DETAIL)


def way_around(
    closed: shapely.Geometry, start: np.ndarray, goal: np.ndarray, within: shapely.Geometry
) -> np.ndarray | None:
    """(n, 2) the corners of the shortest way from ``start`` to ``goal`` (2,) that stays out of a
    closed area and ``within`` the plate; None where there is none, or it has too many corners.
    """
    inner = rounded(closed, -TOUCH, 2)
    if shapely.intersects(inner, shapely.multipoints([start, goal])):
        return None
    corners = shapely.get_coordinates(closed)
    corners = corners[shapely.covers(within, shapely.points(corners))]
    if len(corners) > MOST_CORNERS:
        return None
    nodes = np.concatenate([[start, goal], corners])
    a, b = np.triu_indices(len(nodes), 1)
    lines = shapely.linestrings(np.stack([nodes[a], nodes[b]], axis=1))
    shapely.prepare(inner)
    free = ~shapely.intersects(inner, lines)
    a, b, length = a[free], b[free], shapely.length(lines[free])
    graph = coo_array((np.maximum(length, 1e-9), (a, b)), (len(nodes),) * 2)
    far, before = dijkstra(graph, directed=False, indices=0, return_predecessors=True)
    if not np.isfinite(far[1]):
        return None
    out: list[int] = []
    node = int(before[1])
    while node > 0:
        out.append(node)
        node = int(before[node])
    return nodes[out[::-1]].reshape(-1, 2)
