"""Threads across open air."""

from __future__ import annotations

import numpy as np

from northpace.geometry.scanline import fill_lines
from northpace.moves import BRIDGE
from northpace.outlines.sections import Outlines
from northpace.paths import ranks
from northpace.paths.fill.lanes import SOLID_JOIN
from northpace.paths.fill.skins import Bridges
from northpace.paths.table import PathTable, path_table


def bridge_paths(bridges: Bridges, outlines: Outlines, bead: float, cause: np.ndarray) -> PathTable:
    """Round threads of diameter ``bead`` mm side by side in each bridge's own direction."""
    pieces = bridges.pieces
    if len(pieces) == 0:
        return PathTable.joined([])
    layer = outlines.islands.owner[pieces.owner]
    count = len(pieces)
    chains = fill_lines(
        pieces.polygons,
        bridges.angle,
        np.full(count, bead),
        np.full(count, bead / 4),
        fit=True,
        join=SOLID_JOIN,
    )
    of = chains.polygon
    return path_table(
        chains.points,
        chains.starts,
        layer=layer[of],
        island=pieces.owner[of],
        rank=ranks.BRIDGE,
        feature=BRIDGE,
        width=bead,
        height=bead,
        cause=cause[of],
    )
