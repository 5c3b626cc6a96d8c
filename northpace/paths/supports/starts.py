"""Where a part begins in mid-air."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.geometry.polygons import Pieces, collect, explode, intersection, offset
from northpace.outlines.sections import Outlines
from northpace.paths.supports.columns import LAID, ColumnEnds

#: A start smaller than this share of a bead's width squared gets no support.
LEAST_START = 0.25
#: A start is held if supports lie under at least this share of it.
ENOUGH = 0.25


def starts(outlines: Outlines, width: float) -> np.ndarray:
    """(N,) the areas of every layer that begin in mid-air and are wide enough for a bead.

    ``width`` is that of a bead in mm. Parts of an outline that are too thin for a bead are ignored,
    because they are not laid: an area that hangs on another by such a thin part begins in mid-air,
    and an arm that grows from a thin tip begins where it becomes wide enough.
    """
    half = LAID * width / 2
    cores = offset(outlines.coarse, -half)
    pieces = explode(cores)
    above = np.flatnonzero(pieces.owner > 0)
    below = cores[pieces.owner[above] - 1]
    shapely.prepare(below)
    loose = pieces.some(above[~shapely.dwithin(pieces.polygons[above], below, 2 * half)])
    wide = offset(loose.polygons, half)
    large = shapely.area(wide) > LEAST_START * width**2
    return collect(Pieces(wide[large], loose.owner[large]), len(outlines.tops))


def not_held(begins: np.ndarray, ends: ColumnEnds) -> np.ndarray:
    """(N,) the starts (N,) that columns do not hold, or only a small part of."""
    pieces = explode(begins)
    held = ends.by_part_layer(len(begins))
    on = shapely.area(intersection(pieces.polygons, held[pieces.owner]))
    return collect(pieces.some(on < ENOUGH * shapely.area(pieces.polygons)), len(begins))
