"""The beads of stands and of the roofs they end in."""

from __future__ import annotations

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
)
from northpace.geometry.scanline import fill_lines
from northpace.moves import ROOF, SUPPORT
from northpace.outlines.sections import Outlines
from northpace.paths.bead import spacing, width_for
from northpace.paths.fill.skins import span_direction
from northpace.paths.table import PathTable, path_table
from northpace.spec import Supports

#: Layers after which ordinary supports turn by 90°.
TURN = 8
#: Rank of supports among what has no island: after the footing.
RANK = 1000


def spared(want: np.ndarray, outlines: Outlines, rules: Supports) -> np.ndarray:
    """Demands without the level spans that a bridge holds."""
    if rules.spare_bridges <= 0:
        return want
    pieces = explode(want, 0.0)
    # a strip narrower than this is a slope, not a span
    wide = ~shapely.is_empty(offset(pieces.polygons, -0.6)) if len(pieces) else np.empty(0, bool)
    keep = np.ones(len(pieces), bool)
    for k in np.flatnonzero(wide):
        below = outlines.areas[pieces.owner[k] - 1]
        # up to what it would hold on to, which the angle left out
        whole = shapely.difference(shapely.buffer(pieces.polygons[k], 1.0), below)
        span_of = shapely.intersection(whole, outlines.areas[pieces.owner[k]])
        _, span, held = span_direction(span_of, below)
        keep[k] = not (held > 0.8 and span <= rules.spare_bridges)
    return collect(Pieces(pieces.polygons[keep], pieces.owner[keep]), len(want))


def lay_stands(
    pieces: Pieces, label: np.ndarray, roofs: np.ndarray, outlines: Outlines, rules: Supports
) -> PathTable:
    """Support lines at their density, solid roofs; ``cause`` is the number of the stand."""
    if len(pieces) == 0:
        return PathTable.joined([])
    roof = intersection(pieces.polygons, roofs[pieces.owner])
    has = ~shapely.is_empty(roof)
    body = pieces.polygons.copy()
    body[has] = difference(body[has], roof[has])
    tables = []
    for areas, feature, density in ((body, SUPPORT, rules.density / 100), (roof, ROOF, 1.0)):
        found = explode(areas, 0.05)
        if len(found) == 0:
            continue
        layer, stand = pieces.owner[found.owner], label[found.owner]
        height = outlines.heights[layer]
        lane = spacing(rules.width, height)
        polygons, wall = found.polygons, 0.0
        if feature == SUPPORT and rules.strength == "strong":
            rings = rings_of(offset(polygons, -lane / 2))
            of = rings.owner
            tables.append(
                path_table(
                    rings.points,
                    rings.starts,
                    layer[of],
                    -1,
                    RANK + stand[of] * 3,
                    SUPPORT,
                    True,
                    rules.width,
                    height[of],
                    cause=stand[of],
                )
            )
            wall = 1.0
        inset, room = lane * (0.5 + wall), density * float((shapely.area(polygons) * height).sum())
        if feature == SUPPORT:
            # what joins two lines stays as far inside as their ends
            inner = explode(offset(polygons, -inset), 0.01)
            polygons, layer, stand, height, lane = (
                column[inner.owner] for column in (polygons, layer, stand, height, lane)
            )
            polygons, inset = (
                inner.polygons,
                np.full(len(inner), 0.02),
            )  # off the border, so that a join over it is seen
            if len(polygons) == 0:
                continue
        if feature == ROOF:
            turn = [90.0 * (layer % 2)]
        elif rules.strength == "strong":
            turn = [np.full(len(polygons), 45.0), np.full(len(polygons), 135.0)]
        else:
            turn = [
                np.full(len(polygons), 0.0)
                if rules.strength == "light"
                else 90.0 * (layer // TURN % 2)
            ]
        pitch = lane * len(turn) / density
        link = 4.0 if feature == ROOF else 1.6
        if feature == SUPPORT:
            # joins lay material too: wide enough apart that the whole has the density asked for
            trial = sum(
                float((chains.length * lane * height).sum())
                for chains in (
                    fill_lines(polygons, angle, pitch, inset, False, link) for angle in turn
                )
            )
            pitch = pitch * max(trial / max(room, 1e-9), 0.5)
        for angle in turn:
            chains = fill_lines(polygons, angle, pitch, inset, feature == ROOF, link)
            of = chains.polygon
            bead = width_for(chains.spacing if feature == ROOF else lane, height)
            tables.append(
                path_table(
                    chains.points,
                    chains.starts,
                    layer[of],
                    -1,
                    RANK + stand[of] * 3 + (1 if feature == SUPPORT else 2),
                    feature,
                    False,
                    bead[of],
                    height[of],
                    cause=stand[of],
                )
            )
    return PathTable.joined(tables)
