"""Beads of fitting width where no wall reaches."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely

from northpace.geometry.polygons import Pieces, joined, offset
from northpace.moves import GAP
from northpace.outlines.sections import Outlines
from northpace.paths.apart import Apart, merged_paths
from northpace.paths.fill.lanes import Kind, side_by_side
from northpace.paths.ranks import BETWEEN
from northpace.paths.table import PathTable
from northpace.paths.walls.rings import ring_paths
from northpace.paths.walls.thin import thin_paths

GAP_RANGE = (0.3, 2.0)


class Gaps(NamedTuple):
    """What lies between walls."""

    #: walls, widened beside slivers
    around: PathTable
    #: beads between walls
    between: PathTable
    #: gaps that no bead reaches, and parts of the outline too thin for any bead; islands as owners
    left: Pieces
    missing: Pieces

    @property
    def nbytes(self) -> int:
        return sum(part.nbytes for part in self)

    def differs(self, other: Gaps, apart: Apart) -> np.ndarray:
        """(N,) whether they differ in a layer."""
        out = apart.paths(self.around, other.around) | apart.paths(self.between, other.between)
        out |= apart.pieces(self.left, other.left)
        return np.asarray(out | apart.pieces(self.missing, other.missing))

    def merged(self, new: Gaps, layers: np.ndarray, apart: Apart) -> Gaps:
        """New ones in the layers (N,), these elsewhere."""
        return Gaps(
            merged_paths(self.around, new.around, layers),
            merged_paths(self.between, new.between, layers),
            apart.merged(self.left, new.left, layers),
            apart.merged(self.missing, new.missing, layers),
        )

    @staticmethod
    def joined(parts: list[Gaps]) -> Gaps:
        """Those of layers that follow each other."""
        if len(parts) == 1:
            return parts[0]
        around, between, left, missing = (list(column) for column in zip(*parts, strict=True))
        return Gaps(
            PathTable.joined(around), PathTable.joined(between), joined(left), joined(missing)
        )


def gap_paths(
    areas: Pieces, outlines: Outlines, width: np.ndarray, fill: bool
) -> tuple[PathTable, Pieces]:
    """What walls left between them: closed beads in even rings, one bead of fitting width along the
    middle everywhere else; and the gaps that are too narrow for it (all of them, unless
    ``fill``). ``width`` (N,) is that of a bead in each layer, in mm.
    """
    if not fill or len(areas) == 0:
        return PathTable.joined([]), areas
    nominal = float(np.median(width))
    split = ring_paths(areas, outlines, nominal, BETWEEN)
    thin = thin_paths(split.rest, outlines, nominal, BETWEEN, GAP)
    spots, left = compact(thin.left, nominal)
    return PathTable.joined(
        [split.paths, thin.paths, dabs(spots, outlines, width, 45.0, BETWEEN, GAP)]
    ), left


def compact(pieces: Pieces, nominal: float) -> tuple[Pieces, Pieces]:
    """Pieces that a dab of the nozzle fills, about as wide as they are long, and the others."""
    if len(pieces) == 0:
        return pieces, pieces
    wide = ~shapely.is_empty(offset(pieces.polygons, -0.25 * nominal))
    return Pieces(pieces.polygons[wide], pieces.owner[wide]), Pieces(
        pieces.polygons[~wide], pieces.owner[~wide]
    )


def dabs(
    areas: Pieces,
    outlines: Outlines,
    width: np.ndarray,
    angle: float,
    rank: int,
    feature: int,
    cause: np.ndarray | None = None,
) -> PathTable:
    """Short lines across compact places that have no middle line. ``width`` (N,) is that of a bead
    in each layer, in mm; ``angle`` in degrees.
    """
    if len(areas) == 0:
        return PathTable.joined([])
    return side_by_side(
        areas,
        outlines,
        width,
        np.full(len(areas), angle),
        Kind(rank, feature, GAP_RANGE),
        np.full(len(areas), -1) if cause is None else cause,
    )
