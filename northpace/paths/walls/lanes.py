"""Lanes along the inside of areas: where two of them fit side by side, and what is too narrow."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely

from northpace.geometry.growing import CORNER, short_of
from northpace.geometry.polygons import (
    EMPTY,
    NO_PIECES,
    Pieces,
    difference,
    explode,
    offset,
    only_areas,
)

#: Walls are laid where two of them fit side by side with at most this share of overlap taken away;
#: narrower parts get one bead.
LEAST_FIT = 0.92
#: What is left between walls counts from this share of a spacing on; thinner slivers are the
#: rounding of corners.
SLIVER = 0.15
#: Pieces that are left of an area count from this size on (mm²).
LEAST_LEFT = 0.01
#: Area (mm²) that may be lost where nothing is called narrow.
GRAIN = 0.02


class Lane(NamedTuple):
    """One lane along the inside of areas (A,)."""

    #: (A,) what the middle of the lane goes around, and what lies inside the lane
    middle: np.ndarray
    inside: np.ndarray
    #: what is too narrow for it, with its area as owner
    left: Pieces


def one_lane(free: np.ndarray, lane: np.ndarray, behind: np.ndarray | float = 0.0) -> Lane:
    """A lane (A,) mm wide along the inside of areas (A,), ``behind`` (A,) mm inside of their
    outlines, where two of them fit side by side.

    The way inward goes in small steps, each from the one before it, which costs a kernel far less
    than one large step.
    """
    behind = np.broadcast_to(behind, lane.shape)
    middle = offset(free, -behind - lane / 2)
    inside = offset(middle, -lane / 2)
    some = np.flatnonzero(short_of(free, inside, behind + lane) > GRAIN)
    left = NO_PIECES
    if len(some):
        room = offset(free[some], -behind[some]) if behind.any() else free[some]
        inner = offset(middle[some], (0.5 - LEAST_FIT) * lane[some])
        fitting, found, lost = _fitting(room, inner, lane[some], LEAST_FIT, SLIVER)
        left = Pieces(found.polygons, some[found.owner])
        again = some[lost]
        middle[again] = offset(fitting[lost], -lane[again] / 2)
        inside[again] = offset(middle[again], -lane[again] / 2)
    return Lane(middle, only_areas(inside), left)


def where_it_fits(
    free: np.ndarray, lane: np.ndarray, fit: float = LEAST_FIT, sliver: float = SLIVER
) -> tuple[np.ndarray, Pieces]:
    """The part of each area (A,) wide enough for two lanes (A,) in mm side by side, shares of
    ``fit`` of them, and what is left of it; strips below ``sliver`` of a lane are left out of that.
    """
    inner = offset(free, -fit * lane)
    some = np.flatnonzero(short_of(free, inner, fit * lane) > GRAIN)
    fitting, left = free.copy(), NO_PIECES
    if len(some):
        fitting[some], found, _ = _fitting(free[some], inner[some], lane[some], fit, sliver)
        left = Pieces(found.polygons, some[found.owner])
    return fitting, left


def _fitting(
    free: np.ndarray, inner: np.ndarray, lane: np.ndarray, fit: float, sliver: float
) -> tuple[np.ndarray, Pieces, np.ndarray]:
    """The same from the areas shrunk by what has to fit; and in which areas (K,) it is not all."""
    reach = fit * lane
    # Grown back, the inner area covers at least itself and its length times the way (more at outer
    # corners): where that is all there was, nothing is narrow and nothing has to be grown.
    narrow = shapely.area(free) - shapely.area(inner) - reach * shapely.length(inner) > 0.02
    fitting = free.copy()
    fitting[narrow & shapely.is_empty(inner)] = EMPTY
    some = narrow & ~shapely.is_empty(inner)
    # a hair more outward than inward, so that rounding leaves no slivers
    # acute corners are cut off, because there the two sides of a wall would run into each other
    fitting[some] = offset(inner[some], reach[some] + 1e-4, CORNER)
    # what is narrow is rare: only where the opening lost area is the exact difference worth its
    # time
    lost = shapely.area(free) - shapely.area(fitting) > 0.02
    index = np.flatnonzero(lost)
    left = NO_PIECES
    if len(index):
        rest = difference(free[index], fitting[index])
        # most of it is the grain of corners, which is not worth opening
        found = explode(rest, LEAST_LEFT)
        if sliver and len(found):
            thin = sliver * lane[index[found.owner]] / 2
            opened = explode(offset(offset(found.polygons, -thin), thin), LEAST_LEFT)
            found = Pieces(opened.polygons, found.owner[opened.owner])
        left = Pieces(found.polygons, index[found.owner])
    fitting[~lost] = free[~lost]
    return fitting, left, index
