"""Where a part begins in mid-air."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.geometry.polygons import Pieces, collect, explode, intersection, offset
from northpace.outlines.sections import Outlines
from northpace.paths.supports.columns import LAID, Met

#: Starts smaller than this, in squares of a bead's width, are specks.
LEAST = 0.25
#: A start of which more than this share lies on supports is held.
ENOUGH = 0.25


def starts(outlines: Outlines, width: float) -> np.ndarray:
    """(N,) what of every layer begins in mid-air and is wide enough to be laid, for beads of a
    ``width`` (mm), however small it is otherwise.

    What hangs on others by less than can be laid begins in mid-air all the same, and so does what
    grows from a tip that is too thin for any bead.
    """
    half = LAID * width / 2
    cores = offset(outlines.coarse, -half)
    pieces = explode(cores)
    above = np.flatnonzero(pieces.owner > 0)
    below = cores[pieces.owner[above] - 1]
    shapely.prepare(below)
    loose = pieces.some(above[~shapely.dwithin(pieces.polygons[above], below, 2 * half)])
    wide = offset(loose.polygons, half)
    large = shapely.area(wide) > LEAST * width**2
    return collect(Pieces(wide[large], loose.owner[large]), len(outlines.tops))


def not_held(begins: np.ndarray, ends: Met) -> np.ndarray:
    """(N,) those of the starts (N,) of which too little lies on what columns hold."""
    pieces = explode(begins)
    held = ends.by_part_layer(len(begins))
    on = shapely.area(intersection(pieces.polygons, held[pieces.owner]))
    loose = on < ENOUGH * shapely.area(pieces.polygons)
    return collect(Pieces(pieces.polygons[loose], pieces.owner[loose]), len(begins))
