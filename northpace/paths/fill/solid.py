"""Lines of solid layers, which hold the volume of their patch."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely

from northpace.geometry.polygons import Pieces, explode
from northpace.infill.concentric import loops
from northpace.outlines.sections import Outlines
from northpace.paths.apart import Apart, merged_paths
from northpace.paths.bead import spacing
from northpace.paths.fill.gaps import dabs
from northpace.paths.fill.lanes import Kind, side_by_side
from northpace.paths.fill.skins import pieces_of
from northpace.paths.table import PathTable, path_table
from northpace.paths.walls.lanes import one_lane, where_it_fits
from northpace.paths.walls.thin import thin_paths

#: How far a bead may leave its nominal lane to hold the volume of its patch.
SOLID_RANGE = (0.93, 1.3)


@dataclass(frozen=True)
class SolidLines:
    """Paths of solid layers; their ``cause`` is the number of the solid piece each is part of,
    counted in its layer.
    """

    paths: PathTable

    @property
    def nbytes(self) -> int:
        return self.paths.nbytes

    def caused(self, layer: np.ndarray, why: np.ndarray) -> PathTable:
        """The paths, with the causes (S,) of their pieces; ``layer`` (S,) is that of each piece."""
        piece = pieces_of(layer, self.paths.layer, self.paths.cause)
        return replace(self.paths, cause=why[piece].astype(np.int32))

    def merged(self, new: SolidLines, layers: np.ndarray, apart: Apart) -> SolidLines:
        """New ones in the layers (N,), these elsewhere."""
        return SolidLines(merged_paths(self.paths, new.paths, layers))


def solid_paths(
    areas: Pieces,
    outlines: Outlines,
    width: np.ndarray,
    angles: tuple[float, ...],
    pattern: str,
    rank: int,
    feature: int,
    cause: np.ndarray,
) -> PathTable:
    """Solid fill of pieces (S,) with beads of ``width`` (N,) mm; lines run in the directions
    ``angles`` (degrees), one layer after the other. Each patch's beads hold its area times the
    layer height. ``cause`` (S,) goes with the paths.
    """
    if len(areas) == 0:
        return PathTable.joined([])
    layer = outlines.islands.owner[areas.owner]
    nominal = float(np.median(width))
    if pattern == "concentric":
        return _inwards(areas, outlines, width, rank, feature, cause)
    core, narrow = where_it_fits(areas.polygons, spacing(width[layer], outlines.heights[layer]))
    turned = np.asarray(angles)[layer % len(angles)]
    pieces = explode(core, 0.01)
    wide = Pieces(pieces.polygons, areas.owner[pieces.owner])
    why = cause[narrow.owner]
    thin = thin_paths(
        Pieces(narrow.polygons, areas.owner[narrow.owner]),
        outlines,
        nominal,
        rank,
        feature,
        cause=why,
    )
    tables = [thin.paths, dabs(thin.left, outlines, width, 45.0, rank, feature, why[thin.left_of])]
    tables.append(
        side_by_side(
            wide,
            outlines,
            width,
            turned[pieces.owner],
            Kind(rank, feature, SOLID_RANGE, pattern == "one-way"),
            cause[pieces.owner],
        )
    )
    return PathTable.joined(tables)


def _inwards(
    areas: Pieces, outlines: Outlines, width: np.ndarray, rank: int, feature: int, cause: np.ndarray
) -> PathTable:
    """Loops from the border inwards until nothing is left; one bead where two do not fit."""
    layer = outlines.islands.owner[areas.owner]
    height = outlines.heights[layer]
    lane = spacing(width[layer], height)
    free, of, tables = areas.polygons, np.arange(len(areas)), []
    while len(free):
        room = one_lane(free, lane[of])
        narrow = Pieces(room.left.polygons, areas.owner[of[room.left.owner]])
        why = cause[of[room.left.owner]]
        thin = thin_paths(narrow, outlines, float(np.median(width)), rank, feature, cause=why)
        tables += [
            thin.paths,
            dabs(thin.left, outlines, width, 45.0, rank, feature, why[thin.left_of]),
        ]
        rings = loops(room.middle)
        mine = of[rings.polygon]
        tables.append(
            path_table(
                rings.points,
                rings.starts,
                layer=layer[mine],
                island=areas.owner[mine],
                rank=rank,
                feature=feature,
                width=width[layer[mine]],
                height=height[mine],
                cause=cause[mine],
            )
        )
        some = ~shapely.is_empty(room.inside)
        free, of = room.inside[some], of[some]
    return PathTable.joined(tables)
