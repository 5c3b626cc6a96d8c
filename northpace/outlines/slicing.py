"""Cuts through a closed mesh: at each height, rings from facet to facet around what is solid."""

from __future__ import annotations

import manifold3d as m3
import numba
import numpy as np

from northpace.geometry.polygons import Rings
from northpace.geometry.thinning import thin_ring
from northpace.geometry.threads import in_threads

#: Facets that are cut at once: some hundredths of a second of work.
WINDOW = 200_000


def rings_at(solid: m3.Manifold, levels: np.ndarray, detail: float) -> Rings:
    """Rings of a solid at rising heights (N,) in mm, with their height as owner, thinned by
    ``detail`` mm: counter-clockwise around what is solid. A corner at a height belongs to what is
    below it. Where a solid passes through itself its rings cross.
    """
    vertices, facets = _mesh(solid)
    across = _across(facets, len(vertices))
    z = vertices[:, 2][facets]
    # each facet is cut from its lowest corner on and below its highest
    first = np.searchsorted(levels, z.min(axis=1, initial=np.inf), "left")
    end = np.searchsorted(levels, z.max(axis=1, initial=-np.inf), "left")
    facet, starts = _by_level(first, end, len(levels))
    marks = np.arange(WINDOW, int(starts[-1]), WINDOW)
    cuts = np.unique(np.r_[0, np.searchsorted(starts, marks), len(levels)])

    def some(window: tuple[int, int]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        return _cut(vertices, facets, across, (facet, starts), levels, window, detail)

    windows = list(zip(cuts[:-1].tolist(), cuts[1:].tolist(), strict=True))
    points, sizes, owners = zip(*in_threads(some, windows), strict=True)
    return Rings(
        np.concatenate(points), np.r_[0, np.cumsum(np.concatenate(sizes))], np.concatenate(owners)
    )


def _mesh(solid: m3.Manifold) -> tuple[np.ndarray, np.ndarray]:
    """Corners (V, 3) in mm and facets (F, 3) of a solid, each corner once."""
    mesh = solid.to_mesh64()
    vertices = np.ascontiguousarray(np.asarray(mesh.vert_properties, np.float64)[:, :3])
    number = np.arange(len(vertices))
    number[np.asarray(mesh.merge_from_vert, np.int64)] = mesh.merge_to_vert
    return vertices, number[np.asarray(mesh.tri_verts, np.int64).reshape(-1, 3)]


@numba.njit(cache=True, nogil=True)
def _across(facets: np.ndarray, corners: int) -> np.ndarray:
    """(F, 3) the side, as facet times 3 + its place, that lies across each side of facets (F, 3),
    which goes from the corner of that place to the next; -1 where it has none.
    """
    # sides by the corner they begin at
    begin = np.zeros(corners + 1, np.int64)
    for f in range(len(facets)):
        for k in range(3):
            begin[facets[f, k] + 1] += 1
    begin = np.cumsum(begin)
    filled = begin[:-1].copy()
    sides = np.empty(3 * len(facets), np.int64)
    for f in range(len(facets)):
        for k in range(3):
            a = facets[f, k]
            sides[filled[a]] = 3 * f + k
            filled[a] += 1
    out = np.full((len(facets), 3), -1, np.int64)
    for f in range(len(facets)):
        for k in range(3):
            a, b = facets[f, k], facets[f, (k + 1) % 3]
            if out[f, k] >= 0:
                continue
            for n in range(begin[b], begin[b + 1]):
                g, m = sides[n] // 3, sides[n] % 3
                if facets[g, (m + 1) % 3] == a and out[g, m] < 0 and g != f:
                    out[f, k], out[g, m] = sides[n], 3 * f + k
                    break
    return out


@numba.njit(cache=True, nogil=True)
def _by_level(first: np.ndarray, end: np.ndarray, count: int) -> tuple[np.ndarray, np.ndarray]:
    """Facets that are cut at each of so many heights, one height after the other, and (count + 1,)
    where those of each begin. Facets (F,) are cut at the heights from ``first`` to before ``end``.
    """
    change = np.zeros(count + 1, np.int64)
    for f in range(len(first)):
        if end[f] > first[f]:
            change[first[f]] += 1
            change[end[f]] -= 1
    starts = np.zeros(count + 1, np.int64)
    starts[1:] = np.cumsum(np.cumsum(change)[:-1])
    filled = starts.copy()
    facet = np.empty(starts[-1], np.int64)
    for f in range(len(first)):
        for level in range(first[f], end[f]):
            facet[filled[level]] = f
            filled[level] += 1
    return facet, starts


@numba.njit(cache=True, nogil=True)
def _cut(vertices, facets, across, by_level, levels, some, detail):  # type: ignore[no-untyped-def]
    """Thinned rings at some heights, first and end: points (K, 2), their number and height (R,)."""
    facet, starts = by_level
    low, high = some
    out = np.empty((starts[high] - starts[low], 2))
    sizes = np.empty(len(out), np.int64)
    owners = np.empty(len(out), np.int64)
    ring = np.empty((max(1, np.max(np.diff(starts[low : high + 1]))), 2))
    done = np.full(len(facets), -1, np.int64)
    filled, rings = 0, 0
    for level in range(low, high):
        for n in range(starts[level], starts[level + 1]):
            count = _around(vertices, facets, across, facet[n], levels[level], level, done, ring)
            more = thin_ring(ring[:count], detail, out, filled)
            if more > filled:
                sizes[rings], owners[rings] = more - filled, level
                filled, rings = more, rings + 1
    return out[:filled].copy(), sizes[:rings].copy(), owners[:rings].copy()


@numba.njit(cache=True, nogil=True)
def _around(vertices, facets, across, facet, z, level, done, ring):  # type: ignore[no-untyped-def]
    """Go from facet to facet until the way is closed; how many points of ``ring`` that fills, none
    where it has been gone before.
    """
    count = 0
    while done[facet] != level:
        done[facet] = level
        # left by the side that rises through the height: what is solid is on the left
        for k in range(3):
            a, b = facets[facet, k], facets[facet, (k + 1) % 3]
            if vertices[a, 2] <= z < vertices[b, 2]:
                break
        t = (z - vertices[a, 2]) / (vertices[b, 2] - vertices[a, 2])
        ring[count, 0] = vertices[a, 0] + t * (vertices[b, 0] - vertices[a, 0])
        ring[count, 1] = vertices[a, 1] + t * (vertices[b, 1] - vertices[a, 1])
        count += 1
        if across[facet, k] < 0:
            break
        facet = across[facet, k] // 3
    return count
