"""The beads of stands and of the roofs they end in."""

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
)
from northpace.geometry.scanline import Chains, fill_lines
from northpace.moves import ROOF, SUPPORT
from northpace.outlines.sections import Outlines
from northpace.paths.bead import spacing, width_for
from northpace.paths.fill.skins import span_direction
from northpace.paths.table import PathTable, path_table
from northpace.spec import Supports

#: Layers after which ordinary supports turn by 90°.
TURN = 8
#: Over how many lanes lines of a stand are joined along its border.
LINK = 1.6
#: A stand on which lines lay less than this share of what its density asks for becomes a post.
LEAST_SHARE = 0.6
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

    #: (P,) simple polygons, with their layer, number of the stand, height and lane in mm
    polygons: np.ndarray
    layer: np.ndarray
    stand: np.ndarray
    height: np.ndarray
    lane: np.ndarray

    def some(self, polygons: np.ndarray, of: np.ndarray) -> Lot:
        """Other polygons (Q,), each with what belongs to the one it is ``of`` (Q,)."""
        return Lot(polygons, *(column[of] for column in self[1:]))


def lay_stands(
    pieces: Pieces, label: np.ndarray, roofs: np.ndarray, outlines: Outlines, rules: Supports
) -> PathTable:
    """Support lines at their density, solid roofs, in pieces (P,) with their layer as owner and the
    number (P,) of their stand; ``roofs`` (N,). ``cause`` is the number of the stand.
    """
    if len(pieces) == 0:
        return PathTable.joined([])
    roof = intersection(pieces.polygons, roofs[pieces.owner])
    has = ~shapely.is_empty(roof)
    body = pieces.polygons.copy()
    body[has] = difference(body[has], roof[has])
    tables = []
    for areas, lay in ((body, _body), (roof, _roof)):
        found = explode(areas, 0.05)
        if len(found):
            layer, stand = pieces.owner[found.owner], label[found.owner]
            height = outlines.heights[layer]
            lane = spacing(rules.width, height)
            tables += lay(Lot(found.polygons, layer, stand, height, lane), rules)
    return PathTable.joined(tables)


def _roof(lot: Lot, rules: Supports) -> list[PathTable]:
    """Solid lines, turned by 90° from layer to layer, across the lines of every kind of stand. They
    stay inside by half a bead, so that the gap to the part holds; what is too narrow for that gets
    lines along its middle.
    """
    inner = explode(offset(lot.polygons, -lot.lane / 2), 0.01)
    slim = np.setdiff1d(np.arange(len(lot.polygons)), inner.owner)
    tables = []
    for some, fit in (
        (lot.some(inner.polygons, inner.owner), False),
        (lot.some(lot.polygons[slim], slim), True),
    ):
        angle = 45.0 + 90.0 * (some.layer % 2)
        inset = some.lane * (0.5 if fit else 0.05)
        chains = fill_lines(some.polygons, angle, some.lane, inset, fit, 4.0)
        bead = width_for(chains.spacing, some.height)
        tables.append(_table(chains, some, bead, ROOF))
    return tables


def _body(lot: Lot, rules: Supports) -> list[PathTable]:
    """Lines at a density, inside a wall where stands are strong; branches are a wall alone.

    Where lines lie so far apart that hardly one meets a stand it becomes a post, a wall all around:
    so every layer of it has something to stand on.
    """
    if rules.kind == "branching":
        return _posts(lot, rules)
    tables, wall = [], 0.0
    room = rules.density / 100 * shapely.area(lot.polygons) / lot.lane
    if rules.strength == "strong":
        tables += _posts(lot, rules)
        wall = 1.0
    # what joins two lines stays as far inside as their ends
    inner = explode(offset(lot.polygons, -lot.lane * (0.5 + wall)), 0.01)
    within = lot.some(inner.polygons, inner.owner)
    angles = _angles(within, rules)
    # off the border, so that a join over it is seen
    inset = np.full(len(inner), 0.02)
    pitch = within.lane * len(angles) / (rules.density / 100)
    # joins lay material too: wide enough apart that the whole has the density asked for
    trial = _lines(within, angles, pitch, inset)
    volume = lot.lane * lot.height
    laid = sum(float((chains.length * volume[inner.owner]).sum()) for chains in trial)
    pitch = pitch * max(laid / max(float((room * volume).sum()), 1e-9), 0.5)
    found = _lines(within, angles, pitch, inset)
    length = sum(
        (np.bincount(inner.owner, chains.length, len(room)) for chains in found),
        np.zeros(len(room)),
    )
    slim = (length < LEAST_SHARE * room) & (rules.strength != "strong")
    if slim.any():
        tables += _posts(lot.some(lot.polygons[slim], np.flatnonzero(slim)), rules)
        left = ~slim[inner.owner]
        within, angles = (
            within.some(inner.polygons[left], np.flatnonzero(left)),
            [angle[left] for angle in angles],
        )
        found = _lines(within, angles, pitch[left], inset[left])
    bead = width_for(within.lane, within.height)
    return [*tables, *(_table(chains, within, bead, SUPPORT) for chains in found)]


def _lines(
    lot: Lot, angles: list[np.ndarray], pitch: np.ndarray, inset: np.ndarray
) -> list[Chains]:
    return [fill_lines(lot.polygons, angle, pitch, inset, False, LINK) for angle in angles]


def _angles(lot: Lot, rules: Supports) -> list[np.ndarray]:
    """Directions (P,) in degrees in which a layer is laid."""
    plain = np.zeros(len(lot.polygons))
    if rules.strength == "strong":
        return [plain + 45.0, plain + 135.0]
    return [plain if rules.strength == "light" else 90.0 * (lot.layer // TURN % 2)]


def _posts(lot: Lot, rules: Supports) -> list[PathTable]:
    """A wall around each, or a line across where not even that has room."""
    middle = offset(lot.polygons, -lot.lane / 2)
    rings = rings_of(middle)
    of = rings.owner
    wall = path_table(
        rings.points,
        rings.starts,
        layer=lot.layer[of],
        rank=RANK + lot.stand[of] * 3,
        feature=SUPPORT,
        closed=True,
        width=rules.width,
        height=lot.height[of],
        cause=lot.stand[of],
    )
    bare = np.flatnonzero(shapely.is_empty(middle))
    if len(bare) == 0:
        return [wall]
    slim = lot.some(lot.polygons[bare], bare)
    chains = fill_lines(slim.polygons, np.zeros(len(bare)), slim.lane, slim.lane * 0.1, True, 4.0)
    return [wall, _table(chains, slim, width_for(slim.lane, slim.height), SUPPORT)]


def _table(chains: Chains, lot: Lot, bead: np.ndarray, feature: int) -> PathTable:
    of = chains.polygon
    return path_table(
        chains.points,
        chains.starts,
        layer=lot.layer[of],
        rank=RANK + lot.stand[of] * 3 + (1 if feature == SUPPORT else 2),
        feature=feature,
        width=bead[of],
        height=lot.height[of],
        cause=lot.stand[of],
    )
