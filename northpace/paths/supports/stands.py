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
from northpace.paths.supports.branches import branches, grown_on
from northpace.paths.supports.by_hand import asked_and_forbidden, painted
from northpace.paths.supports.columns import (
    LEAST,
    Met,
    columns,
    ground,
    kept_clear,
    met,
    opened,
    standing,
)
from northpace.paths.supports.lay import lay_columns, spared
from northpace.paths.supports.overhangs import Leaning
from northpace.paths.supports.starts import not_held, starts
from northpace.paths.table import PathTable
from northpace.spec import Supports

#: Distance (mm) from walls of columns that hold what would begin in mid-air without them, where
#: there is no room for more.
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
    #: (T,) whether it stands nearer to walls than asked, to hold what would begin in mid-air
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
    # what begins in mid-air fails without a column: one may stand nearer to walls than others, and
    # straight where no branch finds a way
    left = not_held(intersection(begins, want), grown.ends.within(grown.areas))
    near = np.full(count, EMPTY, object)
    if not shapely.is_empty(left).all():
        squeezed = _grown(left, outlines, rules, min(rules.clearance, SQUEEZED), False)
        near = difference(squeezed.areas, grown.areas)
        grown = grown.joined(squeezed)
    touched = grown.ends.touched(grown.areas, outlines, rules.width)
    first = grown.ends._replace(areas=intersection(grown.ends.areas, begins[grown.ends.above]))
    needed = first.touched(grown.areas, outlines, rules.width)
    areas = _worth_it(grown.areas, touched, needed, rules.least_area)
    grown = grown._replace(areas=areas)
    return _described(grown, near, begins, asked, outlines, rules, seen)


class _Grown(NamedTuple):
    """Columns (N,) as areas, the ground (N,) they stand on, their roofs (N,) and what they hold."""

    areas: np.ndarray
    floor: np.ndarray
    roofs: np.ndarray
    ends: Met

    def joined(self, other: _Grown) -> _Grown:
        """Both."""
        return _Grown(
            union(self.areas, other.areas),
            union(self.floor, other.floor),
            union(self.roofs, other.roofs),
            self.ends.joined(other.ends),
        )


def _grown(
    want: np.ndarray, outlines: Outlines, rules: Supports, beside: float, branching: bool
) -> _Grown:
    """Columns or branches under demands (N,), so many mm beside walls."""
    count = len(want)
    clear = kept_clear(outlines, rules, beside)
    ends = met(want, clear, outlines, rules)
    demand = offset(ends.by_column_layer(count), rules.width)
    if branching:
        areas = branches(demand, clear, outlines, rules)
    else:
        areas = columns(demand, clear, outlines)
    areas = _off_the_part_below(areas, outlines, rules.gap_bottom)
    areas = opened(only_areas(areas), rules.width)
    under = ground(outlines, rules)
    areas, floor = (grown_on if branching else standing)(areas, under, rules.width)
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
    """(T,) area in mm² of what lies in ``touched`` (N,) of every column."""
    shared = shapely.area(intersection(pieces.polygons, touched[pieces.owner]))
    return np.bincount(label, shared, number)


def _worth_it(
    areas: np.ndarray, touched: np.ndarray, needed: np.ndarray, least: float
) -> np.ndarray:
    """Areas (N,) without the columns that touch less than half of the least area (mm²), splinters
    of larger ones; those that touch what would begin in mid-air without them are ``needed``.
    """
    pieces = explode(areas, 0.05)
    number, label = stacked(pieces.polygons, pieces.owner)
    worth = _contact(pieces, label, number, touched) >= least / 2
    worth |= _contact(pieces, label, number, needed) > 1e-3
    keep = worth[label]
    return collect(Pieces(pieces.polygons[keep], pieces.owner[keep]), len(areas))


def _described(
    grown: _Grown,
    near: np.ndarray,
    begins: np.ndarray,
    asked: np.ndarray,
    outlines: Outlines,
    rules: Supports,
    seen: tuple[np.ndarray, np.ndarray] | None,
) -> Stands:
    """Columns with what is known of each; ``near`` (N,) is where they stand nearer to walls than
    asked, ``begins`` (N,) is what begins in mid-air, ``asked`` (N,)
    what of the demands is asked for by hand.
    """
    areas, ends = grown.areas, grown.ends.within(grown.areas)
    roofs = intersection(grown.roofs, areas)
    tops, heights = outlines.tops, outlines.heights
    pieces = explode(areas, 0.05)
    layer = pieces.owner
    number, label = stacked(pieces.polygons, layer)
    low, high = np.full(number, np.inf), np.zeros(number)
    contact = _contact(pieces, label, number, ends.touched(areas, outlines, rules.width))
    hand = ends._replace(areas=intersection(ends.areas, asked[ends.above]))
    by_hand = _contact(pieces, label, number, hand.touched(areas, outlines, rules.width))
    np.minimum.at(low, label, (tops - heights)[layer])
    np.maximum.at(high, label, tops[layer])
    island, on_part, scars = np.zeros(number, bool), np.zeros(number, bool), np.zeros(number)
    spots = np.zeros((number, 3))
    if number:
        top_pieces = np.lexsort((layer, label))
        last = top_pieces[np.searchsorted(label[top_pieces], np.arange(number), "right") - 1]
        spots[:, :2] = shapely.get_coordinates(shapely.point_on_surface(pieces.polygons[last]))
        spots[:, 2] = tops[layer[last]]
        for k, m, area in zip(ends.above, ends.below, ends.areas, strict=True):
            mine = slice(*np.searchsorted(layer, (m, m + 1)).tolist())
            if not shapely.is_empty(begins[k]) and shapely.intersects(begins[k], area):
                touched = shapely.intersects(pieces.polygons[mine], intersection(begins[k], area))
                island[label[mine][touched]] = True
            if seen is not None:
                z = seen[0][:, 2]
                here = np.flatnonzero((z >= tops[k] - heights[k] - 1e-6) & (z < tops[k]))
                inside = shapely.contains_xy(area, seen[0][here, 0], seen[0][here, 1])
                for n in range(mine.start, mine.stop):
                    over = shapely.contains_xy(
                        pieces.polygons[n], seen[0][here[inside], 0], seen[0][here[inside], 1]
                    )
                    scars[label[n]] += seen[1][here[inside]][over].sum()
        foot = low[label] > 1e-6
        on_part[label[foot & ((tops - heights)[layer] <= low[label] + 1e-6)]] = True
    paths = lay_columns(pieces, label, roofs, grown.floor, outlines, rules)
    mostly = by_hand > 0.5 * np.maximum(contact, 1e-9)
    held = ends.by_part_layer(len(tops))
    squeezed = _contact(pieces, label, number, near) > LEAST
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
