"""Solid fill and infill as paths: lines whose beads hold exactly the volume of the area they fill."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.moves import GAP, INFILL, SOLID
from northpace.outlines.polygons import Pieces
from northpace.outlines.sections import Outlines
from northpace.paths.bead import spacing, width_for
from northpace.paths.infill import PATTERNS
from northpace.paths.rings import ring_paths
from northpace.paths.scanline import Chains, fill_lines
from northpace.paths.table import PathTable, path_table

#: Joined neighbours may be shifted by this many spacings along the lines.
SOLID_JOIN = 4.0
#: How far a bead may leave its nominal lane to hold the volume of its patch.
SOLID_RANGE = (0.75, 1.3)
GAP_RANGE = (0.3, 2.0)
INFILL_RANGE = (0.8, 1.25)
#: Polygons looked at to calibrate the density, and how often.
SAMPLE = 96
ROUNDS = 4


def solid_paths(areas: Pieces, outlines: Outlines, width: float, angle: float, rank: int) -> PathTable:
    """Straight solid lines, turned by 90° from layer to layer; each patch's beads hold its area times the layer height."""
    return _lanes(areas, outlines, width, angle, rank, SOLID, SOLID_RANGE)


def gap_paths(areas: Pieces, outlines: Outlines, width: float, angle: float, rank: int) -> PathTable:
    """What walls left between them: closed beads in even rings, short lines across everywhere else."""
    split = ring_paths(areas, outlines, width, rank)
    return PathTable.joined([split.paths, _lanes(split.rest, outlines, width, angle, rank, GAP, GAP_RANGE)])


def _lanes(areas: Pieces, outlines: Outlines, width: float, angle: float, rank: int, feature: int,
           allowed: tuple[float, float]) -> PathTable:
    layer = outlines.islands.owner[areas.owner]
    height = outlines.heights[layer]
    lane = spacing(width, height)
    turned = angle + 90.0 * (layer % 2)
    chains = fill_lines(areas.polygons, turned, lane, lane / 2, fit=True, join=SOLID_JOIN)
    wanted = shapely.area(areas.polygons)
    with np.errstate(divide="ignore", invalid="ignore"):
        balance = np.nan_to_num(wanted / (chains.length * chains.spacing), nan=1.0, posinf=1.0)
    used = chains.spacing * np.clip(balance, *allowed)
    return _as_paths(chains, areas, outlines, layer, width_for(used, height), rank, feature)


def _as_paths(chains: Chains, areas: Pieces, outlines: Outlines, layer: np.ndarray, width: np.ndarray, rank: int,
              feature: int) -> PathTable:
    of = chains.polygon
    return path_table(chains.points, chains.starts, layer[of], areas.owner[of], rank, feature, False,
                      np.broadcast_to(width, (len(areas),))[of], outlines.heights[layer[of]])


def infill_paths(areas: Pieces, outlines: Outlines, width: float, density: float, angle: float, pattern: str, nominal: float,
                 rank: int) -> PathTable:
    """Infill at a density (share, 0 to 1) of the enclosed volume, joins along the walls counted in.

    ``nominal`` (mm) is the usual layer height; other heights keep its lanes, so that lines stand on each other.
    """
    if density <= 0 or len(areas) == 0:
        return PathTable.joined([])
    layer = outlines.islands.owner[areas.owner]
    lane = spacing(width, nominal)
    lay = PATTERNS[pattern]
    wanted = shapely.area(areas.polygons)
    sample = np.unique(np.linspace(0, len(areas) - 1, SAMPLE).astype(np.int64))
    # The joins lay material too: widen the spacing until the whole has the density asked for.
    stretch = 1.0
    for _ in range(ROUNDS):
        length = sum(float(chains.length.sum()) for chains in
                     lay(areas.polygons[sample], layer[sample], angle, stretch * lane / density, lane / 2))
        ratio = length * lane / max(density * float(wanted[sample].sum()), 1e-9)
        stretch *= float(np.clip(ratio, 0.5, 2.0))
        if abs(ratio - 1) < 0.003:
            break
    laid = lay(areas.polygons, layer, angle, stretch * lane / density, lane / 2)
    # Lines come in whole numbers: what that leaves over or short goes into the bead.
    ratio = sum(float(chains.length.sum()) for chains in laid) * lane / max(density * float(wanted.sum()), 1e-9)
    beads = width_for(lane * float(np.clip(1 / max(ratio, 1e-9), *INFILL_RANGE)), outlines.heights[layer])
    return PathTable.joined([_as_paths(chains, areas, outlines, layer, beads, rank, INFILL) for chains in laid])
