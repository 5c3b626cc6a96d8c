"""Areas as the kernel of the solids has them, for many booleans one after the other: it clips them
several times as fast as the kernel of the areas does, once it has them, and refuses none.
"""

from __future__ import annotations

import manifold3d as m3
import numpy as np
import shapely

from northpace.geometry.polygons import EMPTY, valid

#: mm that no plate has.
_FAR = 2e6


def nothing() -> m3.CrossSection:
    """The sheet that covers nothing."""
    return m3.CrossSection()


def everything() -> m3.CrossSection:
    """A sheet larger than any plate."""
    return m3.CrossSection.square((_FAR, _FAR), True)


def common(one: np.ndarray, two: np.ndarray) -> np.ndarray:
    """(N,) what two sheets have in common, pairwise."""
    out = np.empty(len(one), object)
    out[:] = [a ^ b for a, b in zip(one, two, strict=True)]
    return out


def area_left(one: np.ndarray, two: np.ndarray) -> np.ndarray:
    """(N,) area in mm² of what is in one sheet and not in the other, pairwise."""
    return np.array([(a - b).area() for a, b in zip(one, two, strict=True)], np.float64)


def sheets_of(areas: np.ndarray) -> np.ndarray:
    """(N,) sheets of areas (N,)."""
    parts, of_part = shapely.get_parts(areas, return_index=True)
    rings, of_ring = shapely.get_rings(shapely.orient_polygons(parts), return_index=True)
    points, of = shapely.get_coordinates(rings, return_index=True)
    begin, end = (np.searchsorted(of, np.arange(len(rings)), side) for side in ("left", "right"))
    rings_by_area: list[list[np.ndarray]] = [[] for _ in range(len(areas))]
    for area, first, last in zip(of_part[of_ring].tolist(), begin, end, strict=True):
        if last > first:
            rings_by_area[area].append(points[first : last - 1])
    out = np.full(len(areas), nothing(), object)
    for k, own in enumerate(rings_by_area):  # one kernel call an area
        if own:
            out[k] = m3.CrossSection(own, m3.FillRule.Positive)
    return out


def areas_of(sheets: np.ndarray) -> np.ndarray:
    """(N,) areas of sheets (N,)."""
    polygons = [sheet.to_polygons() for sheet in sheets]
    out = np.full(len(polygons), EMPTY, object)
    counts = np.array([len(rings) for rings in polygons], np.int64)
    if counts.sum() == 0:
        return out
    flat = [ring for rings in polygons for ring in rings]
    lengths = np.array([len(ring) for ring in flat])
    closed = np.concatenate([np.concatenate([ring, ring[:1]]) for ring in flat])
    rings = shapely.linearrings(closed, indices=np.repeat(np.arange(len(flat)), lengths + 1))
    owner = np.repeat(np.arange(len(polygons)), counts)
    single = counts == 1
    out[single] = shapely.polygons(rings[single[owner]])
    for k in np.flatnonzero(counts > 1):
        out[k] = _nest(rings[owner == k])
    return valid(out)


def _nest(rings: np.ndarray) -> shapely.Geometry:
    """Rings whose direction tells solid from hole, as polygons with holes, islands in holes
    included.
    """
    solid = shapely.is_ccw(rings)
    if solid.all():
        return shapely.multipolygons(shapely.polygons(rings))
    if solid.sum() == 1:
        return shapely.polygons(rings[solid][0], holes=list(rings[~solid]))
    outers, holes = shapely.polygons(rings[solid]), shapely.polygons(rings[~solid])
    # a corner of the hole, not its middle: that may lie on an island inside the hole
    inner, outer = shapely.STRtree(outers).query(
        shapely.get_point(shapely.get_exterior_ring(holes), 0), predicate="intersects"
    )
    # of several outlines around a hole the smallest is its own
    size = shapely.area(outers)
    order = np.lexsort((size[outer], inner))
    inner, outer = inner[order], outer[order]
    nearest = np.r_[True, np.diff(inner) != 0]
    filled = []
    for k, ring in enumerate(rings[solid]):
        own = rings[~solid][inner[nearest & (outer == k)]]
        filled.append(shapely.polygons(ring, holes=list(own)) if len(own) else outers[k])
    return shapely.multipolygons(np.array(filled))
