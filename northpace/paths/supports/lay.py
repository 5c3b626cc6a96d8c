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
#: Over how many line distances lines of a column are joined along its border.
LINK = 1.6
#: A column on which lines lay less than this share of what its density asks for becomes a post.
LEAST_SHARE = 0.6
#: How much wider apart lines lie at most, to make up for the walls around them.
WIDEST = 1.4
#: Beads of columns span at least this far (mm) from hold to hold.
SPAN = 6.0
#: What is left beside a roof belongs to it where it is narrower than so many beads: walls alone, on
#: nothing but the edge of others.
LEAST_BODY = 3.0
#: What is smaller than this (mm²) gets no bead.
SLIVER = 0.1
#: Rank of supports among what has no island: after the footing.
RANK = 1000


def spared(want: np.ndarray, outlines: Outlines, rules: Supports) -> np.ndarray:
    """Demands without the level spans that a bridge holds. ``want`` is (N,), an area for each
    layer.
    """
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
    """Areas that are laid alike, those of body or of roofs."""

    #: (P,) simple polygons, with their layer, number of the column and height in mm
    polygons: np.ndarray
    layer: np.ndarray
    column: np.ndarray
    height: np.ndarray

    def some(self, polygons: np.ndarray, of: np.ndarray) -> Lot:
        """Other polygons (Q,), each with what belongs to the one it is ``of`` (Q,)."""
        return Lot(polygons, *(column[of] for column in self[1:]))


def lay_columns(
    pieces: Pieces,
    label: np.ndarray,
    roofs: np.ndarray,
    ground: np.ndarray,
    outlines: Outlines,
    rules: Supports,
) -> PathTable:
    """Beads of support columns, every one of them held.

    Parameters
    ----------
    pieces, label
        Pieces (P,) with their layer as owner, and the number (P,) of their column, which becomes
        ``cause``.
    roofs, ground
        (N,) the solid part of every layer, and where columns may stand on the part in it.
    """
    if len(pieces) == 0:
        return PathTable.joined([])
    # one line spacing for layers of all heights, so that lines stand on each other
    room = spacing(rules.width, float(np.median(outlines.heights)))
    # a sliver beside a roof belongs to it, and one of a roof to what it ends in
    roof = opened(intersection(pieces.polygons, roofs[pieces.owner]), rules.width)
    body, has = pieces.polygons.copy(), ~shapely.is_empty(roof)
    body[has] = opened(difference(body[has], roof[has]), LEAST_BODY * rules.width)
    roof[has] = difference(pieces.polygons[has], body[has])
    lots = []
    for areas in (body, roof):
        found = explode(areas, SLIVER)
        layer, column = pieces.owner[found.owner], label[found.owner]
        lots.append(Lot(found.polygons, layer, column, outlines.heights[layer]))
    tables, pitch = _body(lots[0], rules, room, _widening(pieces, label, ground, rules))
    tables += _roof(lots[1], roofs, rules, room)
    # what a column begins on
    floor = intersection(collect(pieces, len(ground)), ground)
    carried = 1.4 * rules.branch_apart if rules.kind == "branching" else np.sqrt(2) * pitch
    return from_hold_to_hold(PathTable.joined(tables), floor, max(SPAN, 1.5 * carried))


def _widening(pieces: Pieces, label: np.ndarray, ground: np.ndarray, rules: Supports) -> np.ndarray:
    """(T,) whether a column grows wider on its way up, beyond what it stands on: lines alone would
    begin in the air there.
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
    """Solid lines, turned by 90° from layer to layer, across the lines of every kind of column.
    They stay inside by half a bead, so that the gap to the part holds. Over branches the lowest
    layer has a loop around it, from tip to tip, and lines run along the rows of tips.
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
    inner = explode(offset(lot.polygons, -room * np.where(rim, 1.5, 0.5)), 0.01)
    slim = np.setdiff1d(np.flatnonzero(~rim), inner.owner)
    tables += _loops(lot.some(lot.polygons[slim], slim), rules, room, ROOF)
    some = lot.some(inner.polygons, inner.owner)
    angle = (0.0 if branching else 45.0) + 90.0 * (some.layer % 2)
    lines = np.full(len(some.polygons), room)
    chains = fill_lines(some.polygons, angle, lines, 0.05 * lines, False, 4.0)
    return [*tables, _table(chains, some, chains.spacing, ROOF)]


def _body(
    lot: Lot, rules: Supports, room: float, walled: np.ndarray
) -> tuple[list[PathTable], float]:
    """Lines at a density inside a wall, and the distance of the lines in mm; branches are a wall
    alone, and light columns that stand straight are lines alone.

    Where lines lie so far apart that hardly one meets a column it becomes a post, a wall all
    around: so every layer of it has something to stand on.
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
    # joins and walls lay material too: wide enough apart that the whole has the density asked for
    wanted = share * float((shapely.area(lot.polygons) * lot.height).sum()) / room
    walls = sum(float((table.lengths() * table.height).sum()) for table in tables)
    if rules.strength == "strong":
        walls = 0.0  # its lines are as dense as asked for, whatever is around them
    trial = _lines(within, angles, plain, room)
    laid = sum(float((chains.length * within.height).sum()) for chains in trial)
    pitch = plain * float(np.clip(laid / max(wanted - walls, 1e-9), 0.5, WIDEST))
    found = _lines(within, angles, pitch, room)
    if not wall.all():
        length = np.zeros(len(wall))
        for chains in found:
            length += np.bincount(inner.owner, chains.length, len(wall))
        asked = share * shapely.area(lot.polygons) / room
        slim = (length < LEAST_SHARE * asked) & ~wall
        tables += _loops(lot.some(lot.polygons[slim], np.flatnonzero(slim)), rules, room, SUPPORT)
        left = np.flatnonzero(~slim[inner.owner])
        within = within.some(inner.polygons[left], left)
        found = _lines(within, [angle[left] for angle in angles], pitch, room)
    lanes = np.full(len(within.polygons), room)
    return [*tables, *(_table(chains, within, lanes, SUPPORT) for chains in found)], pitch


def _lines(lot: Lot, angles: list[np.ndarray], pitch: float, room: float) -> list[Chains]:
    count = len(lot.polygons)
    # off the border, so that a join over it is seen
    inset = np.full(count, 0.02)
    return [
        fill_lines(lot.polygons, angle, np.full(count, pitch), inset, False, LINK)
        for angle in angles
    ]


def _angles(lot: Lot, rules: Supports) -> list[np.ndarray]:
    """Directions (P,) in degrees in which a layer is laid."""
    plain = np.zeros(len(lot.polygons))
    if rules.strength == "strong":
        return [plain + 45.0, plain + 135.0]
    return [plain if rules.strength == "light" else 90.0 * (lot.layer // TURN % 2)]


def _loops(lot: Lot, rules: Supports, room: float, feature: int) -> list[PathTable]:
    """A wall around each, or a line across where not even that has room."""
    if not len(lot.polygons):
        return []
    middle = offset(lot.polygons, -room / 2)
    rings = rings_of(middle)
    of = rings.owner
    wall = path_table(
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
    # what has no room for it gets one bead along its middle
    bare = np.flatnonzero(shapely.is_empty(middle))
    if len(bare) == 0:
        return [wall]
    slim = lot.some(lot.polygons[bare], bare)
    box = shapely.get_coordinates(shapely.minimum_rotated_rectangle(slim.polygons))
    corners = box.reshape(len(bare), 5, 2)[:, :4]
    side = np.linalg.norm(np.roll(corners, -1, axis=1) - corners, axis=2)
    turned = np.where((side[:, 0] < side[:, 1])[:, None, None], corners, np.roll(corners, -1, 1))
    ends = np.stack([turned[:, :2].mean(axis=1), turned[:, 2:].mean(axis=1)], axis=1)
    far = np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1)
    inside = np.clip(room / 2 / np.maximum(far, 1e-9), 0.0, 0.45)[:, None]
    way = ends[:, 1] - ends[:, 0]
    ends = np.stack([ends[:, 0] + inside * way, ends[:, 1] - inside * way], axis=1)
    line = path_table(
        ends.reshape(-1, 2),
        2 * np.arange(len(bare) + 1),
        layer=slim.layer,
        rank=RANK + slim.column * 3,
        feature=feature,
        width=np.asarray(width_for(np.full(len(bare), room), slim.height)),
        height=slim.height,
        cause=slim.column,
    )
    return [wall, line]


def _table(chains: Chains, lot: Lot, lanes: np.ndarray, feature: int) -> PathTable:
    of = chains.polygon
    return path_table(
        chains.points,
        chains.starts,
        layer=lot.layer[of],
        rank=RANK + lot.column[of] * 3 + (1 if feature == SUPPORT else 2),
        feature=feature,
        width=width_for(lanes[of], lot.height[of]),
        height=lot.height[of],
        cause=lot.column[of],
    )
