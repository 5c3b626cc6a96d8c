"""Footing: the skirt around the first layer."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.moves import FOOTING
from northpace.outlines.polygons import rings_of
from northpace.outlines.sections import Outlines
from northpace.paths.bead import spacing
from northpace.paths.table import PathTable, path_table


def skirt(outlines: Outlines, loops: int, distance: float, width: float) -> PathTable:
    """Loops around the hull of the first layer, outermost first; their beads end ``distance`` mm from it."""
    if loops == 0 or shapely.is_empty(outlines.areas[0]):
        return PathTable.joined([])
    height = float(outlines.heights[0])
    hull = shapely.convex_hull(outlines.areas[0])
    out = distance + width / 2 + np.arange(loops)[::-1] * spacing(width, height)
    rings = rings_of(shapely.simplify(shapely.buffer(np.full(loops, hull), out, quad_segs=16), 0.01))
    return path_table(rings.points, rings.starts, 0, -1, np.arange(loops), FOOTING, True, width, height)


def reach(loops: int, distance: float, width: float) -> float:
    """How far the skirt reaches beyond the part in mm."""
    return distance + width * loops if loops else 0.0
