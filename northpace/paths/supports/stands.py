"""The stands that hold what leans out: where they stand, what they touch and why they are there."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import shapely

from northpace.geometry.polygons import (
    EMPTY,
    Pieces,
    collect,
    difference,
    explode,
    intersection,
    offset,
    only_areas,
    union,
)
from northpace.geometry.stacks import stacked
from northpace.outlines.sections import Outlines
from northpace.part.place import Placed
from northpace.paths.apart import Apart, equal
from northpace.paths.supports.branches import branches, branches_standing
from northpace.paths.supports.by_hand import asked_and_forbidden, painted
from northpace.paths.supports.columns import (
    LEAST_SHARED,
    ColumnEnds,
    column_ends,
    columns_below,
    ground,
    kept_clear,
    opened,
    standing,
)
from northpace.paths.supports.lay import lay_columns, spared
from northpace.paths.supports.overhangs import Leaning
from northpace.paths.supports.starts import not_held, starts
from northpace.paths.table import PathTable
from northpace.spec import Supports

#: Clearance (mm) beside walls of a column that holds a start in mid-air where the clearance asked
#: for leaves no room for one.
SQUEEZED = 0.1


@dataclass(frozen=True)
class Stands:
    """Columns of support."""

    #: (N,) what is laid in every layer, and the solid part of it
    areas: np.ndarray
    roofs: np.ndarray
    #: (N,) what each layer of the part is held up by
    held: np.ndarray
    #: the beads; ``cause`` is the number of the stand
    paths: PathTable
    #: (T, 3) where every stand is, in mm
    at: np.ndarray
    #: (T,) lowest and highest z in mm
    low: np.ndarray
    high: np.ndarray
    #: (T,) area in mm² it touches above
    contact: np.ndarray
    #: (T,) whether it holds an outline that starts in mid-air
    island: np.ndarray
    #: (T,) whether it stands on the part
    on_part: np.ndarray
    #: (T,) area in mm² of seen faces it touches
    seen: np.ndarray
    #: (T,) whether it is there because it was asked for by hand
    by_hand: np.ndarray
    #: (T,) whether it stands closer to walls than was asked for, to hold a start in mid-air
    squeezed: np.ndarray

    @property
    def nbytes(self) -> int:
        return self.paths.nbytes + 96 * int(shapely.get_num_coordinates(self.areas).sum())

    def differs(self, other: Stands, apart: Apart) -> np.ndarray:
        """(N,) whether what they hold up differs in a layer."""
        return ~equal(self.held, other.held)


def no_stands(count: int) -> Stands:
    """What a plan without supports has."""
    nothing, none = np.full(count, EMPTY, object), np.empty(0)
    return Stands(
        nothing,
        nothing,
        nothing,
        PathTable.joined([]),
        np.empty((0, 3)),
        none,
        none,
        none,
        np.empty(0, bool),
        np.empty(0, bool),
        none,
        np.empty(0, bool),
        np.empty(0, bool),
    )


def stands(
    outlines: Outlines,
    placed: Placed,
    leaning: Leaning,
    rules: Supports,
    seen: tuple[np.ndarray, np.ndarray] | None = None,
    ask: np.ndarray | None = None,
    forbid: np.ndarray | None = None,
) -> Stands:
    """Supports of a part that leans out as ``leaning`` says.

    ``seen`` are points (K, 3) on its seen faces and the area (K,) each stands for; ``ask`` and
    ``forbid`` (N,) areas in which regions want support or none.
    """
    count = len(outlines.tops)
    want, begins = np.full(count, EMPTY, object), starts(outlines, rules.width)
    if rules.by_angle:
        want = spared(leaning.worth(rules.least_area), outlines, rules)
        want = union(want, begins)
    hand = painted(outlines, placed, rules)
    if hand is not None:
        want = difference(union(want, hand.ask), hand.forbid)
    want = asked_and_forbidden(want, outlines.areas, ask, forbid)
    asked = _asked(want, outlines, hand.ask if hand else None, ask)
    grown = _grown(want, outlines, rules, rules.clearance, rules.kind == "branching")
    # without a column a start in mid-air fails, so it gets a straight one closer to walls where
    # there is room for no other
    left = not_held(intersection(begins, want), grown.ends.within(grown.areas))
    near = np.full(count, EMPTY, object)
    if not shapely.is_empty(left).all():
        squeezed = _grown(left, outlines, rules, min(rules.clearance, SQUEEZED), False)
        near = difference(squeezed.areas, grown.areas)
        grown = grown.joined(squeezed)
    areas = _worth_it(grown, begins, outlines, rules)
    return _described(grown._replace(areas=areas), near, begins, asked, outlines, rules, seen)


class _Grown(NamedTuple):
    """Columns before their beads are laid."""

    #: (N,) the columns, the ground they stand on, and their solid roofs
    areas: np.ndarray
    floor: np.ndarray
    roofs: np.ndarray
    #: what they hold
    ends: ColumnEnds

    def joined(self, other: _Grown) -> _Grown:
        """The columns of both."""
        return _Grown(
            union(self.areas, other.areas),
            union(self.floor, other.floor),
            union(self.roofs, other.roofs),
            self.ends.joined(other.ends),
        )


def _grown(
    want: np.ndarray, outlines: Outlines, rules: Supports, beside: float, branching: bool
) -> _Grown:
    """Columns or branches below the areas (N,) that have to be held, ``beside`` mm off walls."""
    count = len(want)
    clear = kept_clear(outlines, rules, beside)
    ends = column_ends(want, clear, outlines, rules)
    demand = offset(ends.by_column_layer(count), rules.width)
    areas = (
        branches(demand, clear, outlines, rules)
        if branching
        else columns_below(demand, clear, outlines)
    )
    areas = _off_the_part_below(areas, outlines, rules.gap_bottom)
    areas = opened(only_areas(areas), rules.width)
    keep = branches_standing if branching else standing
    areas, floor = keep(areas, ground(outlines, rules), rules.width)
    return _Grown(areas, floor, _roofs(demand, areas, outlines.tops, rules.roof), ends)


def _asked(
    want: np.ndarray, outlines: Outlines, hand: np.ndarray | None, regions: np.ndarray | None
) -> np.ndarray:
    """(N,) what of the demands is asked for by hand: painted, or by a region."""
    out = np.full(len(want), EMPTY, object)
    for more in (hand, regions):
        if more is not None:
            out = union(out, intersection(want, more))
    return out


def _off_the_part_below(areas: np.ndarray, outlines: Outlines, gap: float) -> np.ndarray:
    """Areas (N,) without what lies nearer than ``gap`` mm over the part."""
    tops, bottoms, out = outlines.tops, outlines.tops - outlines.heights, areas.copy()
    for back in range(1, len(tops)):
        index = np.flatnonzero(bottoms[back:] - tops[:-back] < gap - 1e-6) + back
        if not len(index):
            break
        out[index] = difference(out[index], outlines.areas[index - back])
    return out


def _roofs(demand: np.ndarray, areas: np.ndarray, tops: np.ndarray, tall: float) -> np.ndarray:
    """(N,) the solid part of columns: what lies less than ``tall`` mm under a demand."""
    if tall <= 0:
        return np.full(len(tops), EMPTY, object)
    roofs = demand.copy()
    for step in range(1, len(tops)):
        near = tops[step:] - tops[:-step] < tall - 1e-6
        if not near.any():
            break
        index = np.flatnonzero(near)
        roofs[index] = union(roofs[index], demand[index + step])
    return intersection(roofs, areas)


def _contact(pieces: Pieces, label: np.ndarray, number: int, touched: np.ndarray) -> np.ndarray:
    """(T,) area in mm² with which each column touches the part. ``touched`` (N,) is where columns
    touch it in every layer.
    """
    shared = shapely.area(intersection(pieces.polygons, touched[pieces.owner]))
    return np.bincount(label, shared, number)


def _worth_it(grown: _Grown, begins: np.ndarray, outlines: Outlines, rules: Supports) -> np.ndarray:
    """(N,) the columns without those that touch less than half of the least area, because these are
    splinters of larger columns. A column that holds a start in mid-air is never removed.
    ``begins`` (N,) are the areas of the part that start in mid-air.
    """
    ends, width = grown.ends, rules.width
    at_starts = ends._replace(areas=intersection(ends.areas, begins[ends.part_layer]))
    pieces = explode(grown.areas, 0.05)
    number, label = stacked(pieces.polygons, pieces.owner)
    touched, needed = (
        _contact(pieces, label, number, some.touched(grown.areas, outlines, width))
        for some in (ends, at_starts)
    )
    worth = (touched >= rules.least_area / 2) | (needed > 1e-3)
    return collect(pieces.some(worth[label]), len(begins))


def _described(
    grown: _Grown,
    near: np.ndarray,
    begins: np.ndarray,
    asked: np.ndarray,
    outlines: Outlines,
    rules: Supports,
    seen: tuple[np.ndarray, np.ndarray] | None,
) -> Stands:
    """Lay the columns and describe each.

    ``near`` (N,) is where they stand closer to walls than was asked for, ``begins`` (N,) are the
    areas that begin in mid-air, ``asked`` (N,) the areas for which support was asked by hand.
    """
    areas, ends = grown.areas, grown.ends.within(grown.areas)
    roofs = intersection(grown.roofs, areas)
    tops, heights = outlines.tops, outlines.heights
    pieces = explode(areas, 0.05)
    layer = pieces.owner
    number, label = stacked(pieces.polygons, layer)
    low, high = np.full(number, np.inf), np.zeros(number)
    contact = _contact(pieces, label, number, ends.touched(areas, outlines, rules.width))
    hand = ends._replace(areas=intersection(ends.areas, asked[ends.part_layer]))
    by_hand = _contact(pieces, label, number, hand.touched(areas, outlines, rules.width))
    np.minimum.at(low, label, (tops - heights)[layer])
    np.maximum.at(high, label, tops[layer])
    on_part, spots = np.zeros(number, bool), np.zeros((number, 3))
    if number:
        top_pieces = np.lexsort((layer, label))
        last = top_pieces[np.searchsorted(label[top_pieces], np.arange(number), "right") - 1]
        spots[:, :2] = shapely.get_coordinates(shapely.point_on_surface(pieces.polygons[last]))
        spots[:, 2] = tops[layer[last]]
        foot = low[label] > 1e-6
        on_part[label[foot & ((tops - heights)[layer] <= low[label] + 1e-6)]] = True
    island = _hold_starts(pieces, label, number, ends, begins)
    scars = np.zeros(number)
    if seen is not None:
        scars = _scars(
            pieces, label, number, ends, ends.around(outlines, rules.width), seen, outlines
        )
    paths = lay_columns(pieces, label, roofs, grown.floor, outlines, rules)
    mostly = by_hand > 0.5 * np.maximum(contact, 1e-9)
    held = ends.by_part_layer(len(tops))
    squeezed = _contact(pieces, label, number, near) > LEAST_SHARED
    return Stands(
        areas,
        roofs,
        held,
        paths,
        spots,
        low,
        high,
        contact,
        island,
        on_part,
        scars,
        mostly,
        squeezed,
    )


def _hold_starts(
    pieces: Pieces, label: np.ndarray, number: int, ends: ColumnEnds, begins: np.ndarray
) -> np.ndarray:
    """(T,) whether each column holds one of the areas (N,) that begin in mid-air."""
    at_starts = intersection(ends.areas, begins[ends.part_layer])
    out = np.zeros(number, bool)
    for m, area in zip(ends.column_layer, at_starts, strict=True):
        if shapely.is_empty(area):
            continue
        mine = slice(*np.searchsorted(pieces.owner, (m, m + 1)).tolist())
        out[label[mine][shapely.intersects(pieces.polygons[mine], area)]] = True
    return out


def _scars(
    pieces: Pieces,
    label: np.ndarray,
    number: int,
    ends: ColumnEnds,
    around: np.ndarray,
    seen: tuple[np.ndarray, np.ndarray],
    outlines: Outlines,
) -> np.ndarray:
    """(T,) area in mm² of visible faces that each column touches. ``seen`` are points on those
    faces and the area that each stands for. ``around`` (R,) is where the ends of columns touch the
    part.
    """
    points, worth = seen
    out = np.zeros(number)
    for k, m, near in zip(ends.part_layer, ends.column_layer, around, strict=True):
        top, height = outlines.tops[k], outlines.heights[k]
        here = np.flatnonzero((points[:, 2] >= top - height - 1e-6) & (points[:, 2] < top))
        here = here[shapely.contains_xy(near, points[here, 0], points[here, 1])]
        for n in range(*np.searchsorted(pieces.owner, (m, m + 1)).tolist()):
            over = shapely.contains_xy(pieces.polygons[n], points[here, 0], points[here, 1])
            out[label[n]] += worth[here][over].sum()
    return out
