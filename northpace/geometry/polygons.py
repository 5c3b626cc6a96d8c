"""Arrays of polygons: helpers over shapely that keep track of where each piece came from.

An array of geometries is (N,) of shapely objects; ``None`` never occurs, an empty polygon stands
for nothing. Every boolean, every offset and every union of the core goes through here: what the
kernel refuses is mended and tried again, so that no outline takes a plan with it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
import shapely

from northpace.errors import InputError
from northpace.geometry.threads import THREADS, in_threads

#: So few corners are done before other threads would have begun.
ALONE = 2000
EMPTY = shapely.Polygon()
MITRE_LIMIT = 2.0
#: mm to which outlines are rounded where an operation fails without it, one after the other: the
#: last is still finer than a bead's edge is true
GRIDS = (1e-6, 1e-4, 1e-2)


def threaded(function: Callable[..., np.ndarray], *arrays: np.ndarray) -> np.ndarray:
    """Apply a shapely function to arrays of equal length in threads (GEOS frees the interpreter
    lock). Each array and the result have one row per polygon, (N,) or more.
    """
    count = len(arrays[0])
    if count < 16 or _corners(arrays) < ALONE:
        return np.asarray(function(*arrays))
    # small interleaved chunks even out layers that are much harder than others
    pieces = np.array_split(np.arange(count), min(8 * THREADS, count // 8))
    results = in_threads(lambda piece: function(*(array[piece] for array in arrays)), pieces)
    return np.concatenate(results)


def _corners(arrays: tuple[np.ndarray, ...]) -> int:
    """Corners of all shapes among arrays; rows, where there are none."""
    shapes = [array for array in arrays if array.dtype == object]
    if not shapes:
        return len(arrays[0])
    return sum(int(shapely.get_num_coordinates(some).sum()) for some in shapes)


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
    first, place = distinct(areas, by)
    grown = threaded(
        partial(_grown, partial(shapely.buffer, join_style="mitre", mitre_limit=mitre)),
        areas[first],
        by[first],
    )
    return np.asarray(grown[place])


def rounded(shapes: Any, distance: Any, segments: int = 16) -> Any:
    """What lies within so many mm of areas or lines, (N,) or one, with round corners of so many
    ``segments`` a quarter turn; a negative distance shrinks areas.
    """
    shapes, by = np.broadcast_arrays(np.asarray(shapes, object), np.asarray(distance, np.float64))
    grown = threaded(
        partial(_grown, partial(shapely.buffer, quad_segs=segments)), shapes.ravel(), by.ravel()
    )
    return grown.reshape(shapes.shape)[()]


def _grown(buffer: Callable[..., Any], areas: np.ndarray, by: np.ndarray) -> np.ndarray:
    return safely(lambda some, far, grid: buffer(_on(grid, some), far), areas, by)


def distinct(areas: np.ndarray, *by: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Index of the first of all entries that are equal in their area (N,) and in what goes with it
    (N,), and for every entry (N,) its place among those.
    """
    count = len(areas)
    if count < 2:
        return np.arange(count), np.arange(count)
    # what differs in size or place differs; the rest is compared corner by corner
    signs = np.column_stack([*by, shapely.area(areas), shapely.bounds(areas)])
    signs[np.isnan(signs)] = 0.0
    order = np.lexsort(signs.T)
    new = np.r_[True, (signs[order[1:]] != signs[order[:-1]]).any(axis=1)]
    leader = np.empty(count, np.int64)
    leader[order] = order[np.maximum.accumulate(np.where(new, np.arange(count), 0))]
    same = shapely.equals_exact(areas, areas[leader], 0.0)
    leader[~same] = np.flatnonzero(~same)
    first, place = np.unique(leader, return_inverse=True)
    return first, place


def safely(operation: Callable[..., Any], *arrays: np.ndarray) -> np.ndarray:
    """(N,) what ``operation(*arrays, grid)`` makes of arrays (N,), with no grid first. Where the
    kernel refuses an entry, because an outline touches or crosses itself, it is done again on ever
    coarser grids (`GRIDS`, mm), far finer than a bead.

    Raises `InputError` for what no grid helps, such as coordinates that are no numbers.
    """
    try:
        # what the kernel divides by on its way is its own affair: what comes out is what counts
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.asarray(operation(*arrays, None))
    except shapely.GEOSException:
        out = np.full(len(arrays[0]), EMPTY, object)
        for k in range(len(out)):  # one of few entries that one of them spoils
            out[k] = _one(operation, *(array[k] for array in arrays))
        return out


def _one(operation: Callable[..., Any], *values: Any) -> Any:
    for grid in (None, *GRIDS):
        try:
            return operation(*values, grid)
        except shapely.GEOSException:
            continue
    shapes = [value for value in values if isinstance(value, shapely.Geometry)]
    corners = shapely.get_coordinates(shapes)
    if np.isfinite(corners).all():
        # an overlay can leave a polygon whose hole lies outside its shell
        drawn = [_redrawn(one) if isinstance(one, shapely.Geometry) else one for one in values]
        for grid in (None, *GRIDS):
            try:
                return operation(*drawn, grid)
            except shapely.GEOSException:
                continue
    x, y = corners[:1].ravel().tolist() or (0.0, 0.0)
    raise InputError(
        f"an outline near x {x:.1f}, y {y:.1f} mm of the middle of the bed crosses itself so that "
        "it cannot be mended; mend or thin the mesh there, or choose another layer height"
    )


def _redrawn(shape: shapely.Geometry) -> shapely.Geometry:
    """A shape built anew from its border, if it is an area; lines are returned as they are."""
    parts = shapely.get_parts(shape)
    if (shapely.get_dimensions(parts) < 2).any():
        return shape
    whole = shapely.get_parts(shapely.buffer(parts, 0.0))
    return shapely.multipolygons(whole[~shapely.is_empty(whole)])


def _on(grid: float | None, area: Any) -> Any:
    """An area as it is, or valid and on a grid."""
    if grid is None:
        return area
    return shapely.set_precision(
        shapely.make_valid(area, method="structure", keep_collapsed=False), grid
    )


def valid(areas: np.ndarray) -> np.ndarray:
    """Areas (N,) whose outlines neither touch nor cross themselves."""
    bad = np.flatnonzero(~shapely.is_valid(areas))
    out = areas.copy()
    if len(bad):
        out[bad] = only_areas(
            shapely.make_valid(areas[bad], method="structure", keep_collapsed=False)
        )
    return out


def _pairwise(function: Callable[..., Any], a: Any, b: Any) -> Any:
    """A boolean of areas or lines with areas, (N,) or one of each."""

    def on(grid: float | None, one: Any, two: Any) -> Any:
        return function(_on(grid, one), _on(grid, two), **({"grid_size": grid} if grid else {}))

    a, b = np.broadcast_arrays(np.asarray(a, object), np.asarray(b, object))
    run = partial(safely, lambda one, two, grid: on(grid, one, two))
    return threaded(run, a.ravel(), b.ravel()).reshape(a.shape)


def intersection(a: Any, b: Any) -> Any:
    """Common areas, pairwise; only areas are kept. Equal pairs, as in every upright stretch of a
    part, cost nothing. Both are (N,), or one of them a single area.
    """
    a, b = np.broadcast_arrays(np.asarray(a, object), np.asarray(b, object))
    out, other = a.flatten(), b.ravel()
    index = np.flatnonzero(~shapely.equals_exact(out, other, 0.0))
    if len(index):
        out[index] = only_areas(_pairwise(shapely.intersection, out[index], other[index]))
    return out.reshape(a.shape)[()]


def difference(a: Any, b: Any) -> Any:
    """What is in a and not in b, pairwise; only areas are kept. Both are (N,), or one of them a
    single area.
    """
    return only_areas(_pairwise(shapely.difference, a, b))[()]


def union(a: Any, b: Any) -> Any:
    """Areas in either, pairwise. Both are (N,), or one of them a single area."""
    return only_areas(_pairwise(shapely.union, a, b))[()]


def within(lines: Any, areas: Any) -> Any:
    """What of lines (N,) lies in areas (N,), pairwise, or in a single one."""
    return _pairwise(shapely.intersection, lines, areas)[()]


def together(areas: np.ndarray) -> shapely.Geometry:
    """All areas (N,) as one."""
    return united(Pieces(areas, np.zeros(len(areas), np.int64)), 1)[0]


def united(pieces: Pieces, count: int) -> np.ndarray:
    """(count,) what pieces that may overlap cover, by their owner."""
    out = np.full(count, EMPTY, object)
    if len(pieces):
        parts, of = shapely.get_parts(pieces.polygons, return_index=True)
        heaped = collect(Pieces(parts, pieces.owner[of]), count)
        some = np.unique(pieces.owner)
        out[some] = only_areas(threaded(partial(safely, _melted), heaped[some]))
    return out


def _melted(heaps: Any, grid: float | None) -> Any:
    """Overlapping areas that lie in each of the collections as one area."""
    if np.ndim(heaps):
        return shapely.union_all(np.asarray(heaps)[:, None], grid_size=grid, axis=1)
    return shapely.union_all([_on(grid, part) for part in shapely.get_parts(heaps)], grid_size=grid)


def only_areas(found: np.ndarray) -> np.ndarray:
    """Drop the points and lines a boolean leaves behind where areas merely touch. (N,) of any
    geometry in, (N,) areas out.
    """
    flat = np.array(found, object).reshape(-1)
    for k in np.flatnonzero(shapely.get_type_id(flat) == 7):
        parts = shapely.get_parts(flat[k])
        flat[k] = together(parts[shapely.get_dimensions(parts) == 2])
    flat[shapely.get_dimensions(flat) < 2] = EMPTY
    return flat.reshape(np.shape(found))


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

    def some(self, chosen: np.ndarray) -> Pieces:
        """Those that are chosen (P,)."""
        return Pieces(self.polygons[chosen], self.owner[chosen])

    def counted_from(self, first: int) -> Pieces:
        """The same pieces, their owners counted from another number."""
        return Pieces(self.polygons, self.owner + first)


NO_PIECES = Pieces(np.empty(0, object), np.empty(0, np.int64))


def by_owner(pieces: Pieces) -> Pieces:
    """The pieces in the order of their owners."""
    return pieces.some(np.argsort(pieces.owner, kind="stable"))


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

    def some(self, mine: np.ndarray) -> Rings:
        """Those (R,) that are chosen."""
        size = np.diff(self.starts)
        return Rings(
            self.points[np.repeat(mine, size)],
            np.r_[0, np.cumsum(size[mine])],
            self.owner[mine],
        )


NO_RINGS = Rings(np.empty((0, 2)), np.zeros(1, np.int64), np.empty(0, np.int64))


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
