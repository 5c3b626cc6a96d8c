"""What walls left between them, where it is a ring of even width: one or two closed beads of
fitting width.

Thin-walled parts (cups, funnels, cases) leave such rings in nearly every layer, and a closed bead
is both stronger and several times faster than short lines across.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from northpace.geometry.polygons import Pieces, offset, rings_of
from northpace.moves import GAP
from northpace.outlines.sections import Outlines
from northpace.paths.bead import spacing, width_for
from northpace.paths.table import PathTable, path_table

#: A ring counts as even when no place is wider or narrower than its mean by this share.
EVEN = 0.12
#: Widths in lanes: below the first nothing fits, up to the second one bead, up to the third two.
NARROWEST, ONE, TWO = 0.45, 1.25, 2.2


@dataclass(frozen=True)
class Split:
    """Rings laid as closed beads, and the pieces that need another way."""

    paths: PathTable
    rest: Pieces


def ring_paths(leftover: Pieces, outlines: Outlines, width: float, rank: int) -> Split:
    """Lay even rings as closed beads whose volume is the ring's area times the layer height."""
    if len(leftover) == 0:
        return Split(PathTable.joined([]), leftover)
    layer = outlines.islands.owner[leftover.owner]
    height = outlines.heights[layer]
    lane = spacing(width, height)
    area, around = shapely.area(leftover.polygons), shapely.length(leftover.polygons)
    mean = 2 * area / around
    ring = (
        (shapely.get_num_interior_rings(leftover.polygons) == 1)
        & (mean > NARROWEST * lane)
        & (mean <= TWO * lane)
    )
    index = np.flatnonzero(ring)
    if len(index):
        inner = offset(leftover.polygons[index], -mean[index] / 2 * (1 - EVEN))
        outer = offset(leftover.polygons[index], -mean[index] / 2 * (1 + EVEN))
        # a band that breaks before its mean half width is uneven, and so is one that lasts beyond
        # it
        even = (
            shapely.is_empty(outer)
            & (shapely.get_num_geometries(inner) == 1)
            & ~shapely.is_empty(inner)
        )
        index = index[even]
    if len(index) == 0:
        return Split(PathTable.joined([]), leftover)
    one = mean[index] <= ONE * lane[index]
    centres = np.empty(len(index), object)
    outlines_only = shapely.polygons(shapely.get_exterior_ring(leftover.polygons[index]))
    centres[one] = offset(outlines_only[one], -mean[index][one] / 2)
    centres[~one] = offset(leftover.polygons[index][~one], -mean[index][~one] / 4)
    rings = rings_of(centres)
    of = index[rings.owner]
    length = shapely.length(centres)
    bead = width_for(area[index] / np.maximum(length, 1e-9), height[index])
    paths = path_table(
        rings.points,
        rings.starts,
        layer=layer[of],
        island=leftover.owner[of],
        rank=rank,
        feature=GAP,
        closed=True,
        width=bead[rings.owner],
        height=height[of],
    )
    rest = np.ones(len(leftover), bool)
    rest[index] = False
    return Split(paths, Pieces(leftover.polygons[rest], leftover.owner[rest]))
