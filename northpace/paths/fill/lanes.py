"""Lines side by side whose beads fill what they are laid in."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely

from northpace.geometry.polygons import Pieces
from northpace.geometry.scanline import fill_lines
from northpace.outlines.sections import Outlines
from northpace.paths.bead import spacing, width_for
from northpace.paths.table import PathTable, path_table
from northpace.paths.walls.thin import NARROWEST

#: Joined neighbours may be shifted by this many spacings along the lines.
SOLID_JOIN = 4.0
#: How far solid lines end off the border, in spacings: a little into the wall, whose round side
#: leaves room there.
SOLID_INSET = 0.35


class Kind(NamedTuple):
    """What lines are laid as."""

    #: place in the order of an island
    rank: int
    feature: int
    #: how far a bead may leave its lane to hold the volume of its area
    allowed: tuple[float, float]
    #: whether all lines run the same way
    one_way: bool = False


def side_by_side(
    areas: Pieces,
    outlines: Outlines,
    width: np.ndarray,
    angle: np.ndarray,
    kind: Kind,
    cause: np.ndarray,
) -> PathTable:
    """Lines in areas (P,) with islands as owners, in directions (P,) in degrees; ``width`` (N,) of
    the beads by layer in mm, ``cause`` (P,) why they are there.
    """
    rank, feature, allowed, one_way = kind
    layer = outlines.islands.owner[areas.owner]
    height = outlines.heights[layer]
    lane = spacing(width[layer], height)
    chains = fill_lines(
        areas.polygons,
        angle,
        lane,
        SOLID_INSET * lane,
        fit=True,
        join=0.0 if one_way else SOLID_JOIN,
    )
    wanted = shapely.area(areas.polygons)
    with np.errstate(divide="ignore", invalid="ignore"):
        balance = np.nan_to_num(wanted / (chains.length * chains.spacing), nan=1.0, posinf=1.0)
    used = chains.spacing * np.clip(balance, *allowed)
    # whatever a small place would need: a nozzle lays no bead beyond these
    bead = np.clip(width_for(used, height), NARROWEST * width[layer], 1.8 * width[layer])
    of = chains.polygon
    return path_table(
        chains.points,
        chains.starts,
        layer=layer[of],
        island=areas.owner[of],
        rank=rank,
        feature=feature,
        width=bead[of],
        height=height[of],
        fixed=one_way,
        cause=cause[of],
    )
