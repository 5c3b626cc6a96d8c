"""Where support columns stand: from what they have to hold down to what they stand on."""

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

#: Grain (mm) to which columns are simplified on their way down.
GRAIN = 0.05
#: A piece that shares less than this (mm²) with what lies below does not stand on it.
LEAST = 0.05
#: Share of a bead's width from which on a part that is narrower than a bead is laid at all.
LAID = 0.6
#: By which share of its width a bead may lie beside the one it stands on.
CORBEL = 0.45


class Met(NamedTuple):
    """Demands, and the layers in which columns end under them."""

    #: (R,) layer of the part that is held, and layer of the column that ends below it
    above: np.ndarray
    below: np.ndarray
    #: (R,) area that is held there
    areas: np.ndarray

    def joined(self, other: Met) -> Met:
        """Those of both."""
        return Met(*(np.concatenate(both) for both in zip(self, other, strict=True)))

    def within(self, columns: np.ndarray) -> Met:
        """What of the demands columns (N,) really hold."""
        areas = intersection(self.areas, columns[self.below])
        kept = shapely.area(areas) > 1e-4
        return Met(self.above[kept], self.below[kept], areas[kept])

    def by_column_layer(self, count: int) -> np.ndarray:
        """(N,) the areas by the layer of the column."""
        return united(Pieces(self.areas, self.below), count)

    def by_part_layer(self, count: int) -> np.ndarray:
        """(N,) the areas by the layer of the part."""
        return united(Pieces(self.areas, self.above), count)

    def touched(self, areas: np.ndarray, outlines: Outlines, width: float) -> np.ndarray:
        """(N,) where the tops of columns ``areas`` (N,) lie under the part, no further than a bead
        of a ``width`` (mm) around what they hold; by the layer of the column.
        """
        around = intersection(offset(self.areas, width), outlines.areas[self.above])
        under = united(Pieces(around, self.below), len(areas))
        tops = areas.copy()
        tops[:-1] = difference(areas[:-1], areas[1:])
        return intersection(under, tops)


def kept_clear(outlines: Outlines, rules: Supports, beside: float) -> np.ndarray:
    """(N,) where no support may lie: the part, so many mm beside its walls, and what lies less than
    the clearance of its underside below it.
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


def met(want: np.ndarray, clear: np.ndarray, outlines: Outlines, rules: Supports) -> Met:
    """Where columns can end under demands (N,), keeping out of ``clear`` (N,).

    Under a slope the clearance beside the part keeps a column from coming as near as the clearance
    below allows. There it ends further down, at the first height where both are kept, as long as
    that is no further below than it is beside.
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
        return Met(none, none, np.empty(0, object))
    above, below, areas = (np.concatenate(column) for column in zip(*found, strict=True))
    kept = shapely.area(areas) > 1e-3
    return Met(above[kept], below[kept], areas[kept])


def columns(demand: np.ndarray, clear: np.ndarray, outlines: Outlines) -> np.ndarray:
    """(N,) what has to stand in every layer under demands (N,), kept out of ``clear`` (N,).

    What passes a wall too closely is left out there, and goes on below it; what meets the part ends
    on it.
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
    """(N,) where a column may begin in every layer: on what lies under it at its clearance."""
    out = np.full(len(outlines.tops), EMPTY, object)
    if rules.origin == "bed":
        return out
    bottoms = outlines.tops - outlines.heights
    base = np.searchsorted(outlines.tops, bottoms - rules.gap_bottom + 1e-6, "right") - 1
    some = np.flatnonzero(base >= 0)
    out[some] = outlines.coarse[base[some]]
    return out


def standing(areas: np.ndarray, ground: np.ndarray, width: float) -> tuple[np.ndarray, np.ndarray]:
    """What of columns (N,) has something to stand on: ``ground`` (N,) of their layer, or the layer
    below, beyond which a bead reaches by no more than `CORBEL` of its ``width`` (mm). And what
    of the ground it stands on, (N,).
    """
    out, floor = areas.copy(), np.full(len(areas), EMPTY, object)
    reach = CORBEL * width
    for k in range(1, len(out)):  # each layer needs the one below it
        if shapely.is_empty(out[k]) or out[k] is out[k - 1]:
            continue
        under = out[k - 1]
        free = difference(out[k], under)
        if shapely.is_empty(free) or shapely.area(free) < 1e-3:
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
    """What of the ground under an area is wide enough (mm) to be laid, so that something stands on
    it.
    """
    if shapely.is_empty(ground):
        return EMPTY
    near = intersection(ground, offset(np.array([area], object), 2 * width)[0])
    return intersection(opened(np.array([near], object), LAID * width)[0], area)


def opened(areas: np.ndarray, width: float) -> np.ndarray:
    """Areas (N,) without what is narrower than a bead of a ``width`` (mm)."""
    # where short edges went, corners that come back would stand out
    return intersection(areas, offset(offset(areas, -width / 2), width / 2))


def resting_on(area: shapely.Geometry, under: shapely.Geometry) -> shapely.Geometry:
    """The pieces of an area that share more than a speck with what lies ``under`` them."""
    if shapely.is_empty(area):
        return area
    pieces = shapely.get_parts(area)
    shared = shapely.area(intersection(pieces, np.full(len(pieces), under, object)))
    stands = shared > LEAST
    if stands.all():
        return area
    return collect(Pieces(pieces[stands], np.zeros(int(stands.sum()), np.int64)), 1)[0]
