"""A solid from a surface that cannot be closed: cut it, close each section, and stack the sections
again.
"""

from __future__ import annotations

import manifold3d as m3
import numpy as np
import shapely
import shapely.ops

#: Slabs the height is cut into; coarse, because what comes out is marked as doubtful anyway.
SLABS = 400


def solid_from_sections(vertices: np.ndarray, faces: np.ndarray) -> m3.Manifold | None:
    """Directed section segments, loose ends bridged, polygonised; what has a winding number above ½
    is kept. ``vertices`` is (V, 3), in mm, ``faces`` (F, 3). None where no layer has an area.
    """
    corners = vertices[faces]
    bottom, top = corners[:, :, 2].min(), corners[:, :, 2].max()
    edges = np.linspace(bottom, top, SLABS + 1)
    slabs = []
    for low, high in zip(edges[:-1], edges[1:], strict=True):
        area = _section(corners, 0.5 * (low + high))
        if area is None or area.is_empty:
            continue
        rings = [
            np.asarray(ring.coords)[:-1]
            for polygon in shapely.get_parts(area)
            for ring in (polygon.exterior, *polygon.interiors)
        ]
        section = m3.CrossSection(rings, m3.FillRule.EvenOdd)
        slabs.append(section.extrude(high - low).translate((0.0, 0.0, low)))
    if not slabs:
        return None
    solid = m3.Manifold.batch_boolean(slabs, m3.OpType.Add)
    return None if solid.is_empty() else solid


def _section(corners: np.ndarray, z: float) -> shapely.Geometry | None:
    above = corners[:, :, 2] > z
    crossing = corners[above.any(axis=1) & ~above.all(axis=1)]
    if len(crossing) < 3:
        return None
    starts, ends = _cut(crossing, z)
    lines = shapely.linestrings(np.stack([starts, ends], axis=1))
    loose = _bridges(starts, ends)
    cells = shapely.get_parts(
        shapely.polygonize([shapely.union_all(np.concatenate([lines, loose]))])
    )
    if len(cells) == 0:
        return None
    inside = np.array(
        [_winding(starts, ends, *shapely.point_on_surface(cell).coords[0]) > 0.5 for cell in cells]
    )
    return shapely.union_all(cells[inside]) if inside.any() else None


def _cut(crossing: np.ndarray, z: float) -> tuple[np.ndarray, np.ndarray]:
    """Start and end (S, 2) of each triangle's segment, the solid on its left."""
    heights = crossing[:, :, 2] - z
    rows = np.arange(len(crossing))
    points, falling = [], []
    for a in range(3):
        b = (a + 1) % 3
        # always from the lower corner to the upper, so that both triangles of an edge give the very
        # same point
        lower = np.where(heights[:, a] <= heights[:, b], a, b)
        upper = np.where(lower == a, b, a)
        low, high = crossing[rows, lower], crossing[rows, upper]
        rise = high[:, 2] - low[:, 2]
        t = np.where(rise == 0, 0.0, (z - low[:, 2]) / np.where(rise == 0, 1.0, rise))
        points.append(low[:, :2] + t[:, None] * (high[:, :2] - low[:, :2]))
        falling.append((heights[:, a] > 0) & (heights[:, b] <= 0))
    crosses = np.stack(
        [(heights[:, a] > 0) != (heights[:, (a + 1) % 3] > 0) for a in range(3)], axis=1
    )
    down = np.stack(falling, axis=1).argmax(axis=1)
    up = (crosses & ~np.stack(falling, axis=1)).argmax(axis=1)
    every = np.stack(points, axis=1)
    return every[rows, down], every[rows, up]


def _bridges(starts: np.ndarray, ends: np.ndarray) -> np.ndarray:
    """Straight lines from every end that no segment continues to the nearest start that nothing
    leads to.
    """
    key = np.round(np.concatenate([starts, ends]) / 1e-6).astype(np.int64)
    _, name = np.unique(key, axis=0, return_inverse=True)
    name = name.reshape(-1)
    out, into = name[: len(starts)], name[len(starts) :]
    free_ends, free_starts = ends[~np.isin(into, out)], starts[~np.isin(out, into)]
    if len(free_ends) == 0 or len(free_starts) == 0:
        return np.empty(0, object)
    from scipy.optimize import linear_sum_assignment
    from scipy.spatial.distance import cdist

    a, b = linear_sum_assignment(cdist(free_ends, free_starts))
    return shapely.linestrings(np.stack([free_ends[a], free_starts[b]], axis=1))


def _winding(starts: np.ndarray, ends: np.ndarray, x: float, y: float) -> float:
    """Generalised winding number of the directed segments around a point.

    References
    ----------
    Jacobson, Kavan & Sorkine-Hornung, "Robust inside-outside segmentation using generalized winding
    numbers", ACM TOG 32(4), 2013.
    """
    a, b = starts - (x, y), ends - (x, y)
    return float(
        np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(axis=1)).sum() / (2 * np.pi)
    )
