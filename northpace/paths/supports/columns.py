"""Support columns before beads are laid in them, as one area for each layer: in which layer a
column ends below the part, how it continues downwards, and on what it can stand.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely

from northpace.geometry.polygons import (
    EMPTY,
    Pieces,
    collect,
    difference,
    intersection,
    offset,
    union,
    united,
)
from northpace.outlines.sections import Outlines
from northpace.paths.bead import spacing
from northpace.spec import Supports

#: Outlines of supports are simplified to this (mm): far finer than a bead.
GRAIN = 0.05
#: A piece stands on what is below it if the two share at least this much area (mm²).
LEAST_SHARED = 0.05
#: A part narrower than this share of a bead's width gets no bead.
LAID = 0.6
#: A bead may overhang the one below it by this share of its width.
OVERHANG = 0.45


class ColumnEnds(NamedTuple):
    """The areas of the part that columns hold, each with the topmost layer of its column."""

    #: (R,) layer of the part that the area belongs to, and topmost layer of the column below it
    part_layer: np.ndarray
    column_layer: np.ndarray
    #: (R,) the areas of the part that are held
    areas: np.ndarray

    def joined(self, other: ColumnEnds) -> ColumnEnds:
        """The areas of both."""
        return ColumnEnds(*(np.concatenate(both) for both in zip(self, other, strict=True)))

    def within(self, columns: np.ndarray) -> ColumnEnds:
        """The areas cut to the columns (N,) that were really made below them."""
        areas = intersection(self.areas, columns[self.column_layer])
        kept = shapely.area(areas) > 1e-4
        return ColumnEnds(self.part_layer[kept], self.column_layer[kept], areas[kept])

    def by_column_layer(self, count: int) -> np.ndarray:
        """(N,) for every layer, the union of the areas whose column ends in it."""
        return united(Pieces(self.areas, self.column_layer), count)

    def by_part_layer(self, count: int) -> np.ndarray:
        """(N,) for every layer of the part, the union of the areas that are held in it."""
        return united(Pieces(self.areas, self.part_layer), count)

    def around(self, outlines: Outlines, width: float) -> np.ndarray:
        """(R,) where the column touches the part: the held area, and the part within a bead's
        ``width`` (mm) of it, because a column is that much wider than the area it has to hold.
        """
        return intersection(offset(self.areas, width), outlines.areas[self.part_layer])

    def touched(self, columns: np.ndarray, outlines: Outlines, width: float) -> np.ndarray:
        """(N,) for every layer, where the columns (N,) that end in it touch the part above."""
        below_the_part = united(
            Pieces(self.around(outlines, width), self.column_layer), len(columns)
        )
        tops = columns.copy()
        tops[:-1] = difference(columns[:-1], columns[1:])
        return intersection(below_the_part, tops)


def kept_clear(outlines: Outlines, rules: Supports, beside: float) -> np.ndarray:
    """(N,) where no support may be laid: the part itself, everything within ``beside`` mm of its
    walls, and everything closer to its underside than the clearance below the part.
    """
    areas, tops = outlines.coarse, outlines.tops
    # the rounded side of a bead reaches a little beyond the area it fills
    beyond = (rules.width - spacing(rules.width, float(np.median(outlines.heights)))) / 2
    near = offset(areas, beside + beyond + 1e-3)
    above = np.searchsorted(tops - outlines.heights, tops + rules.gap_top - 1e-6)
    blocked = areas.copy()
    for step in range(1, int((above - np.arange(len(areas))).max(initial=1))):
        some = np.flatnonzero(np.arange(len(areas)) + step < above)
        blocked[some] = union(blocked[some], areas[some + step])
    return union(near, blocked)


def column_ends(
    want: np.ndarray, clear: np.ndarray, outlines: Outlines, rules: Supports
) -> ColumnEnds:
    """Find the layer in which a column can end below every area that has to be held.

    ``want`` (N,) are the areas of the part that have to be held, ``clear`` (N,) is where no support
    may be laid. Below a slope a column that keeps the clearance beside the part cannot come as
    close as the clearance below the part allows. It then ends further down, in the first layer
    where both clearances are kept. An area is left out if that layer is too far down to help.
    """
    tops, bottoms = outlines.tops, outlines.tops - outlines.heights
    ends_at = np.searchsorted(tops, bottoms - rules.gap_top + 1e-6, "right") - 1
    deepest = rules.gap_top + max(rules.clearance, rules.width) + 2 * outlines.heights
    left, found = want.copy(), []
    index = np.flatnonzero(~shapely.is_empty(want))
    for step in range(len(tops)):
        index = index[ends_at[index] - step >= 0]
        below = ends_at[index] - step
        near = (step == 0) | (bottoms[index] - tops[below] <= deepest[index])
        index, below = index[near], below[near]
        if not len(index):
            break
        areas = difference(left[index], clear[below])
        found.append((index, below, areas))
        left[index] = difference(intersection(left[index], clear[below]), outlines.coarse[below])
        index = index[shapely.area(left[index]) > 1e-3]
    if not found:
        none = np.empty(0, np.int64)
        return ColumnEnds(none, none, np.empty(0, object))
    above, below, areas = (np.concatenate(column) for column in zip(*found, strict=True))
    kept = shapely.area(areas) > 1e-3
    return ColumnEnds(above[kept], below[kept], areas[kept])


def columns_below(demand: np.ndarray, clear: np.ndarray, outlines: Outlines) -> np.ndarray:
    """(N,) the columns that go straight down from every demand (N,) until they meet the part or the
    bed.

    Where a column would pass too close to a wall (``clear``, (N,)) it is left out in that layer and
    goes on below it.
    """
    part = outlines.coarse
    areas, running = np.full(len(demand), EMPTY, object), EMPTY
    for k in range(len(demand) - 1, -1, -1):  # each layer needs the one above it
        if not shapely.is_empty(demand[k]):
            running = union(running, demand[k])
        if shapely.is_empty(running):
            continue
        running = shapely.simplify(difference(running, part[k]), GRAIN)
        areas[k] = difference(running, clear[k])
    return areas


def ground(outlines: Outlines, rules: Supports) -> np.ndarray:
    """(N,) for every layer, the part on which a column may begin in it. It lies below the layer by
    the clearance above the part. It is empty if columns may stand on the bed only.
    """
    out = np.full(len(outlines.tops), EMPTY, object)
    if rules.origin == "bed":
        return out
    bottoms = outlines.tops - outlines.heights
    base = np.searchsorted(outlines.tops, bottoms - rules.gap_bottom + 1e-6, "right") - 1
    some = np.flatnonzero(base >= 0)
    out[some] = outlines.coarse[base[some]]
    return out


def standing(
    columns: np.ndarray, ground: np.ndarray, width: float
) -> tuple[np.ndarray, np.ndarray]:
    """Remove every part of the columns (N,) that would hang in the air. What remains stands on the
    bed, on the part, or on the layer below.

    Each layer may be wider than the one below it by the share `OVERHANG` of a bead's ``width``
    (mm). ``ground`` (N,) is the part on which a column may begin. Returns the columns (N,), and
    the ground (N,) they stand on.
    """
    out, floor = columns.copy(), np.full(len(columns), EMPTY, object)
    reach = OVERHANG * width
    for k in range(1, len(out)):  # each layer needs the one below it
        if shapely.is_empty(out[k]):
            continue
        under = out[k - 1]
        free = difference(out[k], under)
        if shapely.area(free) < 1e-3:
            continue
        floor[k] = floor_under(out[k], ground[k], width)
        under = union(under, floor[k]) if not shapely.is_empty(floor[k]) else under
        if shapely.is_empty(under):
            out[k] = EMPTY
            continue
        if shapely.area(difference(free, under)) > 1e-3:
            near = offset(np.array([under], object), reach)[0]
            out[k] = opened(np.array([intersection(out[k], near)], object), width)[0]
        out[k] = resting_on(out[k], under)
    return out, floor


def floor_under(area: shapely.Geometry, ground: shapely.Geometry, width: float) -> shapely.Geometry:
    """The ground below an area on which something can stand. Where the part is too narrow for a
    bead of a ``width`` (mm) no bead will be laid, so nothing can stand there.
    """
    if shapely.is_empty(ground):
        return EMPTY
    near = intersection(ground, offset(np.array([area], object), 2 * width)[0])
    return intersection(opened(np.array([near], object), LAID * width)[0], area)


def opened(areas: np.ndarray, width: float) -> np.ndarray:
    """The areas (N,), without everything that is narrower than ``width`` mm."""
    # growing back can put a sharp corner where a short edge was, outside of the area
    return intersection(areas, offset(offset(areas, -width / 2), width / 2))


def resting_on(area: shapely.Geometry, under: shapely.Geometry) -> shapely.Geometry:
    """The pieces of an area that overlap what lies ``under`` them by at least `LEAST_SHARED`."""
    if shapely.is_empty(area):
        return area
    pieces = shapely.get_parts(area)
    shared = shapely.area(intersection(pieces, np.full(len(pieces), under, object)))
    stands = shared > LEAST_SHARED
    if stands.all():
        return area
    return collect(Pieces(pieces[stands], np.zeros(int(stands.sum()), np.int64)), 1)[0]
