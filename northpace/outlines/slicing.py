"""Cuts through a closed mesh: at each height, rings from facet to facet around what is solid."""

from __future__ import annotations

from typing import NamedTuple

import manifold3d as m3
import numba
import numpy as np

from northpace.geometry.polygons import NO_RINGS, Rings
from northpace.geometry.thinning import thin_ring
from northpace.geometry.threads import in_threads

#: Facets that are cut at once, at least: some hundredths of a second of work.
WINDOW = 200_000
#: Facets by height that are held at once: 64 MB.
MOST = 16_000_000

#: Points (K, 2) of rings, their number and height (R,).
Cut = tuple[np.ndarray, np.ndarray, np.ndarray]


class Mesh(NamedTuple):
    """A closed mesh, for the kernel."""

    #: (V, 3) corners in mm, each once
    vertices: np.ndarray
    #: (F, 3) corners of facets, counter-clockwise from outside
    facets: np.ndarray
    #: (F, 3) the side across each of their sides, as facet times 3 + its place
    across: np.ndarray


def rings_at(solid: m3.Manifold, levels: np.ndarray, detail: float) -> Rings:
    """Rings of a solid at rising heights (N,) in mm, with their height as owner, thinned by
    ``detail`` mm: counter-clockwise around what is solid. A corner at a height belongs to what is
    below it. Where a solid passes through itself its rings cross.
    """
    if not len(levels):
        return NO_RINGS
    mesh = _mesh(solid)
    z = mesh.vertices[:, 2][mesh.facets]
    # each facet is cut from its lowest corner on and below its highest
    first = np.searchsorted(levels, z.min(axis=1, initial=np.inf), "left")
    end = np.searchsorted(levels, z.max(axis=1, initial=-np.inf), "left")
    found: list[Cut] = []
    for low, high in _stretches(first, end, len(levels)):
        span = np.clip(first - low, 0, high - low), np.clip(end - low, 0, high - low)
        by_level = _by_level(*span, high - low)
        cuts = _windows(mesh, by_level, levels[low:high], detail)
        found += [(points, sizes, owners + low) for points, sizes, owners in cuts]
    points, sizes, owners = (np.concatenate(column) for column in zip(*found, strict=True))
    return Rings(points, np.r_[0, np.cumsum(sizes)], owners)


def _windows(
    mesh: Mesh, by_level: tuple[np.ndarray, np.ndarray], levels: np.ndarray, detail: float
) -> list[Cut]:
    """What facets by height come to, so many at once."""
    # each looks at a mark of every facet
    size = max(WINDOW, len(mesh.facets))
    marks = np.arange(size, int(by_level[1][-1]), size)
    cuts = np.unique(np.r_[0, np.searchsorted(by_level[1], marks), len(levels)])
    windows = list(zip(cuts[:-1].tolist(), cuts[1:].tolist(), strict=True))
    return in_threads(lambda some: _cut(mesh, by_level, levels, some, detail), windows)


def _stretches(first: np.ndarray, end: np.ndarray, count: int) -> list[tuple[int, int]]:
    """First and end of stretches of so many heights, in each of which no more than `MOST` facets
    (F,), cut from ``first`` to before ``end``, are cut.
    """
    change = np.bincount(first, minlength=count + 1) - np.bincount(end, minlength=count + 1)
    total = np.cumsum(np.cumsum(change)[:count])
    marks = np.arange(MOST, int(total[-1]), MOST)
    cuts = np.unique(np.r_[0, np.searchsorted(total, marks), count])
    return list(zip(cuts[:-1].tolist(), cuts[1:].tolist(), strict=True))


def _mesh(solid: m3.Manifold) -> Mesh:
    found = solid.to_mesh64()
    vertices = np.ascontiguousarray(np.asarray(found.vert_properties, np.float64)[:, :3])
    number = np.arange(len(vertices))
    number[np.asarray(found.merge_from_vert, np.int64)] = found.merge_to_vert
    facets = number[np.asarray(found.tri_verts, np.int64).reshape(-1, 3)]
    return Mesh(vertices, facets, _across(facets, len(vertices)))


@numba.njit(cache=True, nogil=True)
def _across(facets: np.ndarray, corners: int) -> np.ndarray:
    """(F, 3) the side, as facet times 3 + its place, that lies across each side of facets (F, 3),
    which goes from the corner of that place to the next; -1 where it has none.
    """
    at, sides = _by_corner(facets, corners)
    out = np.full((len(facets), 3), -1, np.int64)
    for f in range(len(facets)):
        for k in range(3):
            if out[f, k] >= 0:
                continue
            a, b = facets[f, k], facets[f, (k + 1) % 3]
            # among those that begin where this one ends, or end where it begins: a corner may have
            # a hundred thousand sides, an edge has hardly two such corners
            end = int(at[1, a + 1] - at[1, a] < at[0, b + 1] - at[0, b])
            shared = a if end else b
            for n in range(at[end, shared], at[end, shared + 1]):
                g, m = sides[end, n] // 3, sides[end, n] % 3
                fits = facets[g, m] == b and facets[g, (m + 1) % 3] == a
                if fits and out[g, m] < 0 and g != f:
                    out[f, k], out[g, m] = sides[end, n], 3 * f + k
                    break
    return out


@numba.njit(cache=True, nogil=True)
def _by_corner(facets: np.ndarray, corners: int) -> tuple[np.ndarray, np.ndarray]:
    """The sides (2, 3 F) of facets by the corner they begin at, and by the one they end at, and
    where those of each corner begin (2, corners + 1).
    """
    at = np.zeros((2, corners + 1), np.int64)
    for f in range(len(facets)):
        for k in range(3):
            at[0, facets[f, k] + 1] += 1
            at[1, facets[f, (k + 1) % 3] + 1] += 1
    for end in range(2):
        at[end] = np.cumsum(at[end])
    filled = at.copy()
    sides = np.empty((2, 3 * len(facets)), np.int64)
    for f in range(len(facets)):
        for k in range(3):
            for end in range(2):
                corner = facets[f, (k + end) % 3]
                sides[end, filled[end, corner]] = 3 * f + k
                filled[end, corner] += 1
    return at, sides


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
    facet = np.empty(starts[-1], np.int32)
    for f in range(len(first)):
        for level in range(first[f], end[f]):
            facet[filled[level]] = f
            filled[level] += 1
    return facet, starts


@numba.njit(cache=True, nogil=True)
def _cut(mesh, by_level, levels, some, detail):  # type: ignore[no-untyped-def]
    """Thinned rings at some heights, first and end: points (K, 2), their number and height (R,)."""
    facet, starts = by_level
    low, high = some
    out = np.empty((starts[high] - starts[low], 2))
    sizes = np.empty(len(out), np.int64)
    owners = np.empty(len(out), np.int64)
    ring = np.empty((max(1, np.max(np.diff(starts[low : high + 1]))), 2))
    done = np.full(len(mesh.facets), -1, np.int32)
    filled, rings = 0, 0
    for level in range(low, high):
        for n in range(starts[level], starts[level + 1]):
            count = _around(mesh, facet[n], levels[level], level, done, ring)
            more = thin_ring(ring[:count], detail, out, filled)
            if more > filled:
                sizes[rings], owners[rings] = more - filled, level
                filled, rings = more, rings + 1
    return out[:filled].copy(), sizes[:rings].copy(), owners[:rings].copy()


@numba.njit(cache=True, nogil=True)
def _around(mesh, facet, z, level, done, ring):  # type: ignore[no-untyped-def]
    """Go from facet to facet until the way is closed; how many points of ``ring`` that fills, none
    where it has been gone before.
    """
    vertices, facets, across = mesh.vertices, mesh.facets, mesh.across
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
