"""The stands that hold what leans out: where they stand, what they touch and why they are there."""

from __future__ import annotations

from dataclasses import dataclass

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
    rounded,
    union,
)
from northpace.geometry.stacks import stacked
from northpace.outlines.sections import Outlines
from northpace.part.place import Placed
from northpace.paths.apart import Apart, equal
from northpace.paths.supports.branches import branches, standing
from northpace.paths.supports.by_hand import asked_and_forbidden, painted
from northpace.paths.supports.lay import lay_stands, spared
from northpace.paths.supports.overhangs import SLOPE, Leaning
from northpace.paths.table import PathTable
from northpace.spec import Supports


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
    tops, heights = outlines.tops, outlines.heights
    bottoms, count = tops - heights, len(tops)
    want = np.full(count, EMPTY, object)
    if rules.by_angle:
        want = spared(leaning.worth(rules.least_area), outlines, rules)
    hand = painted(outlines, placed, rules)
    if hand is not None:
        want = difference(union(want, hand.ask), hand.forbid)
    want = asked_and_forbidden(want, outlines.areas, ask, forbid)
    asked = _asked(want, outlines, hand.ask if hand else None, ask)
    # the layer a demand ends at: the last one that leaves the clearance below the part
    ends_at = np.searchsorted(tops, bottoms - rules.gap_top + 1e-6, "right") - 1
    demand = np.full(count, EMPTY, object)
    grown = offset(want, rules.width)
    for k in np.flatnonzero(~shapely.is_empty(want) & (ends_at >= 0)).tolist():
        demand[ends_at[k]] = union(demand[ends_at[k]], grown[k])
    clear = _beside(outlines, rules)
    branching = rules.kind == "branching"
    areas = branches(demand, clear, outlines, rules) if branching else _columns(demand, clear)
    for back in range(1, count):
        under = bottoms[back:] - tops[:-back] < rules.gap_bottom - 1e-6
        if not under.any():
            break
        index = np.flatnonzero(under) + back
        areas[index] = difference(areas[index], outlines.areas[index - back])
    if rules.origin == "bed" and not branching:
        _from_bed(areas)
    areas = only_areas(offset(offset(only_areas(areas), -rules.width / 2), rules.width / 2))
    if branching:
        areas = standing(areas, outlines, rules.gap_bottom)
    areas = _worth_it(areas, outlines, ends_at, rules.least_area)
    roofs = _roofs(demand, areas, tops, rules.roof)
    return _described(areas, roofs, (want, asked), demand, ends_at, outlines, rules, seen)


def _asked(
    want: np.ndarray, outlines: Outlines, hand: np.ndarray | None, regions: np.ndarray | None
) -> np.ndarray:
    """(N,) what of the demands is asked for by hand: painted, or by a region."""
    out = np.full(len(want), EMPTY, object)
    for more in (hand, regions):
        if more is not None:
            out = union(out, intersection(want, more))
    return out


def _columns(demand: np.ndarray, beside: np.ndarray) -> np.ndarray:
    """(N,) what has to stand in every layer under demands (N,), clear of ``beside`` (N,)."""
    areas, running = np.full(len(demand), EMPTY, object), EMPTY
    for k in range(len(demand) - 1, -1, -1):  # each layer needs the one above it
        if not shapely.is_empty(demand[k]):
            running = union(running, demand[k])
        if shapely.is_empty(running):
            continue
        running = shapely.simplify(difference(running, beside[k]), 0.05)
        areas[k] = running
    return areas


def _from_bed(areas: np.ndarray) -> None:
    """Leave of areas (N,) only what stands on the bed."""
    running = areas[0]
    for k in range(1, len(areas)):
        if shapely.is_empty(running):
            running = EMPTY
        else:
            running = intersection(areas[k], rounded(running, 0.05))
        areas[k] = running


def _roofs(demand: np.ndarray, areas: np.ndarray, tops: np.ndarray, tall: float) -> np.ndarray:
    """(N,) the solid part of stands: what lies less than ``tall`` mm under a demand."""
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


def _beside(outlines: Outlines, rules: Supports) -> np.ndarray:
    """(N,) where no support may lie: the part and the clearance beside its walls.

    Under a slope the clearance beside would keep a stand from ever reaching it, since the part
    moves sideways by less than that over the height of the clearance below it. There only the
    height counts.
    """
    areas, tops = outlines.coarse, outlines.tops
    beside = offset(areas, max(rules.clearance, 1e-3))
    above = np.searchsorted(tops - outlines.heights, tops + rules.gap_top - 1e-6)
    blocked = areas.copy()
    for step in range(1, int((above - np.arange(len(areas))).max(initial=1))):
        some = np.flatnonzero(np.arange(len(areas)) + step < above)
        blocked[some] = union(blocked[some], areas[some + step])
    beside = union(beside, blocked)
    index = np.flatnonzero(above < len(areas))
    blocked = blocked[index]
    zone = difference(areas[above[index]], blocked)
    some = np.flatnonzero(shapely.area(zone) > SLOPE)
    index, blocked, zone = index[some], blocked[some], zone[some]
    half = max(rules.clearance, rules.width) / 2
    narrow = explode(difference(zone, offset(offset(zone, -half), half + 0.01)), SLOPE)
    slopes = collect(narrow, len(index))
    some = np.flatnonzero(~shapely.is_empty(slopes))
    near = offset(slopes[some], rules.clearance + rules.width)
    beside[index[some]] = union(difference(beside[index[some]], near), offset(blocked[some], 0.05))
    return beside


def _touched(areas: np.ndarray, outlines: Outlines, ends_at: np.ndarray) -> np.ndarray:
    """(N,) where every layer of the part lies on supports, across the clearance: their tops below
    it.
    """
    tops = areas.copy()
    tops[:-1] = difference(areas[:-1], areas[1:])
    out = np.full(len(areas), EMPTY, object)
    index = np.flatnonzero(ends_at >= 0)
    index = index[~shapely.is_empty(tops[ends_at[index]])]
    out[index] = intersection(tops[ends_at[index]], outlines.areas[index])
    return out


def _contact(
    pieces: Pieces, label: np.ndarray, number: int, touched: np.ndarray, ends_at: np.ndarray
) -> np.ndarray:
    """(T,) area in mm² on which every stand touches the part above."""
    contact = np.zeros(number)
    for k in np.flatnonzero(~shapely.is_empty(touched)):
        mine = np.flatnonzero(pieces.owner == ends_at[k])
        np.add.at(
            contact,
            label[mine],
            shapely.area(intersection(pieces.polygons[mine], touched[k])),
        )
    return contact


def _worth_it(
    areas: np.ndarray, outlines: Outlines, ends_at: np.ndarray, least: float
) -> np.ndarray:
    """Areas (N,) without the columns that touch less than half of the least area (mm²): splinters
    of larger ones.
    """
    pieces = explode(areas, 0.05)
    number, label = stacked(pieces.polygons, pieces.owner)
    keep = (
        _contact(pieces, label, number, _touched(areas, outlines, ends_at), ends_at)[label]
        >= least / 2
    )
    return collect(Pieces(pieces.polygons[keep], pieces.owner[keep]), len(areas))


def _described(
    areas: np.ndarray,
    roofs: np.ndarray,
    wanted: tuple[np.ndarray, np.ndarray],
    demand: np.ndarray,
    ends_at: np.ndarray,
    outlines: Outlines,
    rules: Supports,
    seen: tuple[np.ndarray, np.ndarray] | None,
) -> Stands:
    """``wanted`` are the demands (N,), and what of them is asked for by hand."""
    want, asked = wanted
    tops, heights = outlines.tops, outlines.heights
    pieces = explode(areas, 0.05)
    layer = pieces.owner
    number, label = stacked(pieces.polygons, layer)
    held = np.full(len(tops), EMPTY, object)
    for k in np.flatnonzero(~shapely.is_empty(want) & (ends_at >= 0)):
        held[k] = intersection(want[k], areas[ends_at[k]])
    low, high = np.full(number, np.inf), np.zeros(number)
    contact = _contact(pieces, label, number, _touched(areas, outlines, ends_at), ends_at)
    np.minimum.at(low, label, (tops - heights)[layer])
    np.maximum.at(high, label, tops[layer])
    island, on_part, scars = np.zeros(number, bool), np.zeros(number, bool), np.zeros(number)
    by_hand = np.zeros(number)
    spots = np.zeros((number, 3))
    if number:
        top_pieces = np.lexsort((layer, label))
        last = top_pieces[np.searchsorted(label[top_pieces], np.arange(number), "right") - 1]
        spots[:, :2] = shapely.get_coordinates(shapely.point_on_surface(pieces.polygons[last]))
        spots[:, 2] = tops[layer[last]]
        # what is held: demands that end in a piece's layer
        for k in np.flatnonzero(~shapely.is_empty(held)):
            mine = np.flatnonzero(layer == ends_at[k])
            part = shapely.area(intersection(pieces.polygons[mine], asked[k]))
            np.add.at(by_hand, label[mine], part)
            if k and shapely.is_empty(outlines.areas[k - 1]):
                continue
            loose = [
                part
                for part in shapely.get_parts(outlines.areas[k])
                if k and not shapely.intersects(part, outlines.areas[k - 1])
            ]
            for part in loose:
                island[label[mine[shapely.intersects(pieces.polygons[mine], part)]]] = True
            if seen is not None:
                z = seen[0][:, 2]
                here = np.flatnonzero((z >= tops[k] - heights[k] - 1e-6) & (z < tops[k]))
                for m in mine:
                    inside = shapely.contains_xy(
                        pieces.polygons[m], seen[0][here, 0], seen[0][here, 1]
                    )
                    scars[label[m]] += seen[1][here][inside].sum()
        foot = low[label] > 1e-6
        on_part[label[foot & ((tops - heights)[layer] <= low[label] + 1e-6)]] = True
    paths = lay_stands(pieces, label, roofs, outlines, rules)
    mostly = by_hand > 0.5 * np.maximum(contact, 1e-9)
    return Stands(
        areas, roofs, held, paths, spots, low, high, contact, island, on_part, scars, mostly
    )
