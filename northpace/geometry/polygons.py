"""Arrays of polygons: helpers over shapely that keep track of where each piece came from.

An array of geometries is (N,) of shapely objects; ``None`` never occurs, an empty polygon stands
for nothing.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial

import numpy as np
import shapely

_THREADS = min(2, os.cpu_count() or 1)
_pool = ThreadPoolExecutor(_THREADS, thread_name_prefix="polygons")
EMPTY = shapely.Polygon()
MITRE_LIMIT = 2.0
#: mm to which outlines are rounded where a boolean fails without it
GRID = 1e-6


def threaded(function: Callable[..., np.ndarray], *arrays: np.ndarray) -> np.ndarray:
    """Apply a shapely function to arrays of equal length in two threads (GEOS frees the interpreter
    lock). Each array and the result have one row per polygon, (N,) or more.
    """
    count = len(arrays[0])
    if count < 16:
        return np.asarray(function(*arrays))
    # small interleaved chunks even out layers that are much harder than others
    pieces = np.array_split(np.arange(count), min(8 * _THREADS, count // 8))
    results = list(_pool.map(lambda piece: function(*(array[piece] for array in arrays)), pieces))
    return np.concatenate(results)


def offset(
    areas: np.ndarray, distance: float | np.ndarray, mitre: float = MITRE_LIMIT
) -> np.ndarray:
    """Grow (positive) or shrink (negative) areas by mm; corners stay corners up to a ``mitre``
    limit.

    Equal areas, as in every upright stretch of a part, are computed once.
    """
    if isinstance(distance, float | int) and distance == 0:
        return areas
    by = np.broadcast_to(np.asarray(distance, np.float64), areas.shape)
    first, place = _distinct(areas, by)
    grown = threaded(
        lambda some, far: shapely.buffer(some, far, join_style="mitre", mitre_limit=mitre),
        areas[first],
        by[first],
    )
    return np.asarray(grown[place])


def _distinct(areas: np.ndarray, by: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Index of the first of all equal pairs, and for every entry its place among those."""
    known: dict[tuple[bytes, float], int] = {}
    place = np.fromiter(
        (
            known.setdefault(pair, len(known))
            for pair in zip(shapely.to_wkb(areas), by.tolist(), strict=True)
        ),
        np.int64,
        len(areas),
    )
    first = np.empty(len(known), np.int64)
    first[place[::-1]] = np.arange(len(areas))[::-1]
    return first, place


def boolean(function: Callable[..., np.ndarray], a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """A boolean of polygons, pairwise. Pairs that the kernel refuses, because an outline touches or
    crosses itself, are made valid and taken on a grid, far finer than a move is written. ``a``,
    ``b`` and the result are (N,) areas.
    """
    try:
        return np.asarray(function(a, b))
    except shapely.GEOSException:
        out = np.full(len(a), EMPTY, object)
        for k in range(len(a)):
            try:
                out[k] = function(a[k], b[k])
            except shapely.GEOSException:
                out[k] = function(_valid(a[k]), _valid(b[k]), grid_size=GRID)
        return out


def _valid(area: shapely.Geometry) -> shapely.Geometry:
    """The area as one whose outlines neither touch nor cross themselves."""
    return shapely.make_valid(area, method="structure", keep_collapsed=False)


def intersection(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Common areas, pairwise; only areas are kept. Equal pairs, as in every upright stretch of a
    part, cost nothing. All are (N,).
    """
    out = a.copy()
    index = np.flatnonzero(~shapely.equals_exact(a, b, 0.0))
    if len(index):
        out[index] = only_areas(
            threaded(partial(boolean, shapely.intersection), a[index], b[index])
        )
    return out


def difference(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """What is in a and not in b, pairwise; only areas are kept. All are (N,)."""
    return only_areas(threaded(partial(boolean, shapely.difference), a, b))


def union(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Areas in either, pairwise. All are (N,)."""
    return only_areas(threaded(partial(boolean, shapely.union), a, b))


def only_areas(found: np.ndarray) -> np.ndarray:
    """Drop the points and lines a boolean leaves behind where areas merely touch. (N,) of any
    geometry in, (N,) areas out.
    """
    mixed = shapely.get_type_id(found) == 7
    if mixed.any():
        found = found.copy()
        for k in np.flatnonzero(mixed):
            parts = shapely.get_parts(found[k])
            found[k] = shapely.union_all(parts[shapely.get_dimensions(parts) == 2])
    found[shapely.get_dimensions(found) < 2] = EMPTY
    return found


def memory(areas: np.ndarray) -> int:
    """Bytes that areas take, about: a corner is two numbers, kept with its ring and geometry.
    ``areas`` is (N,).
    """
    return 48 * int(shapely.get_num_coordinates(areas).sum())


@dataclass(frozen=True)
class Pieces:
    """Simple polygons (P,) and the index (P,) of the entry each came from."""

    polygons: np.ndarray
    owner: np.ndarray

    @property
    def nbytes(self) -> int:
        return memory(self.polygons) + self.owner.nbytes

    def __len__(self) -> int:
        return len(self.polygons)


NO_PIECES = Pieces(np.empty(0, object), np.empty(0, np.int64))


def explode(areas: np.ndarray, least_area: float = 0.0) -> Pieces:
    """The simple polygons of an array of areas, those up to ``least_area`` mm² left out. ``areas``
    is (N,); what comes out knows its row in it.
    """
    polygons, owner = shapely.get_parts(areas, return_index=True)
    kept = shapely.area(polygons) > least_area
    return Pieces(polygons[kept], owner[kept])


def collect(pieces: Pieces, count: int) -> np.ndarray:
    """(count,) areas put together again from disjoint pieces."""
    out = np.full(count, EMPTY, object)
    if len(pieces):
        order = np.argsort(pieces.owner, kind="stable")
        owner = pieces.owner[order]
        joined = shapely.multipolygons(pieces.polygons[order], indices=_ranks(owner))
        out[np.unique(owner)] = joined
    return out


def _ranks(sorted_owner: np.ndarray) -> np.ndarray:
    return np.cumsum(np.r_[0, np.diff(sorted_owner) != 0])


@dataclass(frozen=True)
class Rings:
    """Rings as ragged arrays: points (K, 2) without the repeated last one, starts (R + 1,), owner
    (R,).
    """

    points: np.ndarray
    starts: np.ndarray
    owner: np.ndarray


def rings_of(areas: np.ndarray) -> Rings:
    """All rings of an array of areas, outer ones counter-clockwise, holes clockwise. ``areas`` is
    (N,); points are in mm.
    """
    polygons, owner = shapely.get_parts(areas, return_index=True)
    polygons = shapely.orient_polygons(polygons)
    rings, ring_owner = shapely.get_rings(polygons, return_index=True)
    points, of_ring = shapely.get_coordinates(rings, return_index=True)
    counts = np.bincount(of_ring, minlength=len(rings)).astype(np.int64)
    ends = np.cumsum(counts)
    keep = np.ones(len(points), bool)
    keep[ends[counts > 0] - 1] = False
    starts = np.r_[0, np.cumsum(np.maximum(counts - 1, 0))]
    return Rings(np.ascontiguousarray(points[keep]), starts, owner[ring_owner])


def joined(pieces: list[Pieces]) -> Pieces:
    """All pieces of several lists."""
    if not pieces:
        return NO_PIECES
    return Pieces(
        np.concatenate([p.polygons for p in pieces]), np.concatenate([p.owner for p in pieces])
    )
