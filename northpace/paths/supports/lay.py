"""The beads of support columns and of the roofs they end in."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely

from northpace.geometry.polygons import (
    Pieces,
    collect,
    difference,
    explode,
    intersection,
    offset,
    rings_of,
    rounded,
    union,
)
from northpace.geometry.scanline import Chains, fill_lines
from northpace.moves import ROOF, SUPPORT
from northpace.outlines.sections import Outlines
from northpace.paths.bead import spacing, width_for
from northpace.paths.fill.skins import span_direction
from northpace.paths.supports.columns import opened
from northpace.paths.supports.held import from_hold_to_hold
from northpace.paths.table import PathTable, path_table
from northpace.spec import Supports

#: Layers after which ordinary supports turn by 90°.
TURN = 8
#: Neighbouring lines are joined where their ends are no more than so many line spacings apart.
LINK = 1.6
#: A column becomes a post if its lines come to less than this share of the density asked for.
LEAST_DENSITY = 0.6
#: Walls count towards the density, so lines inside them lie further apart, but no more than this
#: many times.
WIDEST = 1.4
#: Beads may always span this far (mm) from one hold to the next.
SPAN = 6.0
#: A strip of column beside a roof belongs to the roof if it is narrower than so many beads: it has
#: room for walls only, and they would lie on the edge of other beads.
LEAST_BODY = 3.0
#: A piece smaller than this (mm²) gets no bead.
SLIVER = 0.1
#: Rank of supports among paths that belong to no island: after the skirt.
RANK = 1000


def spared(want: np.ndarray, outlines: Outlines, rules: Supports) -> np.ndarray:
    """The areas (N,) that have to be held, without level ones that a bridge spans."""
    if rules.spare_bridges <= 0:
        return want
    pieces = explode(want, 0.0)
    # a strip narrower than this is a slope, not a span
    wide = ~shapely.is_empty(offset(pieces.polygons, -0.6)) if len(pieces) else np.empty(0, bool)
    keep = np.ones(len(pieces), bool)
    for k in np.flatnonzero(wide):
        below = outlines.areas[pieces.owner[k] - 1]
        # up to what it would hold on to, which the angle left out
        whole = difference(rounded(pieces.polygons[k], 1.0), below)
        span_of = intersection(whole, outlines.areas[pieces.owner[k]])
        _, span, held = span_direction(span_of, below)
        keep[k] = not (held > 0.8 and span <= rules.spare_bridges)
    return collect(Pieces(pieces.polygons[keep], pieces.owner[keep]), len(want))


class Lot(NamedTuple):
    """Polygons that are laid in the same way: those of the body of columns, or of their roofs."""

    #: (P,) simple polygons, their layer, the number of their column, and the layer's height in mm
    polygons: np.ndarray
    layer: np.ndarray
    column: np.ndarray
    height: np.ndarray

    def some(self, polygons: np.ndarray, of: np.ndarray) -> Lot:
        """Other polygons (Q,), with the columns of the polygon each was made of (``of``, (Q,))."""
        return Lot(polygons, *(column[of] for column in self[1:]))


def lay_columns(
    pieces: Pieces,
    label: np.ndarray,
    roofs: np.ndarray,
    ground: np.ndarray,
    outlines: Outlines,
    rules: Supports,
) -> PathTable:
    """Lay the beads of support columns. Every bead is held by what lies below it.

    Parameters
    ----------
    pieces, label
        The polygons of the columns, with their layer as owner, and the number (P,) of the column
        each belongs to, which becomes ``cause``.
    roofs, ground
        (N,) the solid part of every layer, and the part on which columns stand in it.
    """
    if len(pieces) == 0:
        return PathTable.joined([])
    # lines of all layers have one spacing, whatever the layers' heights, so that they stand on each
    # other; the width of the beads makes up for the height
    room = spacing(rules.width, float(np.median(outlines.heights)))
    # slivers between body and roof belong to the roof
    roof = opened(intersection(pieces.polygons, roofs[pieces.owner]), rules.width)
    body, has = pieces.polygons.copy(), ~shapely.is_empty(roof)
    body[has] = opened(difference(body[has], roof[has]), LEAST_BODY * rules.width)
    roof[has] = difference(pieces.polygons[has], body[has])
    lots = []
    for areas in (body, roof):
        found = explode(areas, SLIVER)
        layer, column = pieces.owner[found.owner], label[found.owner]
        lots.append(Lot(found.polygons, layer, column, outlines.heights[layer]))
    tables, pitch = _body(lots[0], rules, room, _walled(pieces, label, ground, rules))
    tables += _roof(lots[1], roofs, rules, room)
    floor = intersection(collect(pieces, len(ground)), ground)
    carried = 1.4 * rules.branch_apart if rules.kind == "branching" else np.sqrt(2) * pitch
    return from_hold_to_hold(PathTable.joined(tables), floor, max(SPAN, 1.5 * carried))


def _walled(pieces: Pieces, label: np.ndarray, ground: np.ndarray, rules: Supports) -> np.ndarray:
    """(T,) whether a column needs a wall. Light columns need one only where they become wider on
    the way up, because new lines would begin in the air there; all others have one.
    """
    count = int(label.max()) + 1
    if rules.strength != "light":
        return np.ones(count, bool)
    areas = collect(pieces, len(ground))
    above = np.flatnonzero(pieces.owner > 0)
    layer = pieces.owner[above]
    under = rounded(union(areas[layer - 1], ground[layer]), 0.1, 4)
    free = shapely.area(difference(pieces.polygons[above], under))
    return np.bincount(label[above], free > 0.05, count) > 0


def _roof(lot: Lot, roofs: np.ndarray, rules: Supports, room: float) -> list[PathTable]:
    """Lay solid lines, turned by 90° from layer to layer.

    Over columns they run at 45° across the columns' lines. Over branches the lowest layer gets a
    loop along its border, over the tips there, and its lines run along the rows of tips.
    """
    if not len(lot.polygons):
        return []
    tables = []
    branching = rules.kind == "branching"
    rim = np.zeros(len(lot.polygons), bool)
    if branching:
        below = roofs[np.maximum(lot.layer - 1, 0)]
        over = shapely.area(intersection(lot.polygons, below))
        rim = over < 0.5 * shapely.area(lot.polygons)
        tables += _loops(lot.some(lot.polygons[rim], np.flatnonzero(rim)), rules, room, ROOF)
    # half a bead inside, so that the gap to the part holds
    inner = explode(offset(lot.polygons, -room * np.where(rim, 1.5, 0.5)), 0.01)
    some = lot.some(inner.polygons, inner.owner)
    angle = (0.0 if branching else 45.0) + 90.0 * (some.layer % 2)
    lines = np.full(len(some.polygons), room)
    chains = fill_lines(some.polygons, angle, lines, 0.05 * lines, False, 4.0)
    return [*tables, _table(chains, some, room, ROOF)]


def _body(
    lot: Lot, rules: Supports, room: float, walled: np.ndarray
) -> tuple[list[PathTable], float]:
    """Lay lines at the density asked for, inside a wall where a column is ``walled`` (T,); and say
    how far apart in mm the lines are. Branches are walls without lines.

    Where lines lie so far apart that a column without a wall would hardly get one, it becomes a
    post: a wall without lines.
    """
    if not len(lot.polygons):
        return [], 0.0
    if rules.kind == "branching":
        return _loops(lot, rules, room, SUPPORT), 0.0
    share = rules.density / 100
    wall = walled[lot.column]
    tables = _loops(lot.some(lot.polygons[wall], np.flatnonzero(wall)), rules, room, SUPPORT)
    # what joins two lines stays as far inside as their ends
    inner = explode(offset(lot.polygons, -room * np.where(wall, 1.5, 0.5)), 0.01)
    within = lot.some(inner.polygons, inner.owner)
    angles = _angles(within, rules)
    plain = room * len(angles) / share
    # joins and walls are material too: lines lie so far apart that all together has the density
    wanted = share * float((shapely.area(lot.polygons) * lot.height).sum()) / room
    walls = sum(float((table.lengths() * table.height).sum()) for table in tables)
    if rules.strength == "strong":
        walls = 0.0  # the wall of a strong column comes on top
    trial = _lines(within, angles, plain)
    laid = sum(float((chains.length * within.height).sum()) for chains in trial)
    pitch = plain * float(np.clip(laid / max(wanted - walls, 1e-9), 0.5, WIDEST))
    found = _lines(within, angles, pitch)
    if not wall.all():
        length = np.zeros(len(wall))
        for chains in found:
            length += np.bincount(inner.owner, chains.length, len(wall))
        asked = share * shapely.area(lot.polygons) / room
        slim = (length < LEAST_DENSITY * asked) & ~wall
        tables += _loops(lot.some(lot.polygons[slim], np.flatnonzero(slim)), rules, room, SUPPORT)
        left = np.flatnonzero(~slim[inner.owner])
        within = within.some(inner.polygons[left], left)
        found = _lines(within, [angle[left] for angle in angles], pitch)
    return [*tables, *(_table(chains, within, room, SUPPORT) for chains in found)], pitch


def _lines(lot: Lot, angles: list[np.ndarray], pitch: float) -> list[Chains]:
    count = len(lot.polygons)
    # a little off the border, so that a join that crosses the border is noticed
    inset = np.full(count, 0.02)
    return [
        fill_lines(lot.polygons, angle, np.full(count, pitch), inset, False, LINK)
        for angle in angles
    ]


def _angles(lot: Lot, rules: Supports) -> list[np.ndarray]:
    """The directions in degrees, each (P,), in which the lines of a layer run."""
    plain = np.zeros(len(lot.polygons))
    if rules.strength == "strong":
        return [plain + 45.0, plain + 135.0]
    return [plain if rules.strength == "light" else 90.0 * (lot.layer // TURN % 2)]


def _loops(lot: Lot, rules: Supports, room: float, feature: int) -> list[PathTable]:
    """Lay a wall around each polygon; one that is narrower than a bead gets none."""
    rings = rings_of(offset(lot.polygons, -room / 2))
    of = rings.owner
    if not len(of):
        return []
    return [
        path_table(
            rings.points,
            rings.starts,
            layer=lot.layer[of],
            rank=RANK + lot.column[of] * 3,
            feature=feature,
            closed=True,
            width=width_for(room, lot.height[of]),
            height=lot.height[of],
            cause=lot.column[of],
        )
    ]


def _table(chains: Chains, lot: Lot, room: float, feature: int) -> PathTable:
    of = chains.polygon
    return path_table(
        chains.points,
        chains.starts,
        layer=lot.layer[of],
        rank=RANK + lot.column[of] * 3 + (1 if feature == SUPPORT else 2),
        feature=feature,
        width=width_for(room, lot.height[of]),
        height=lot.height[of],
        cause=lot.column[of],
    )
