"""What travels run over: edges of outlines and stands, and rings to go around along."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from northpace.geometry.crossing import boxes_of, edges_of
from northpace.geometry.polygons import offset, rings_of
from northpace.geometry.thinning import thinned
from northpace.outlines.sections import Outlines

#: Travels go around along a line this far inside the outline (mm).
INSIDE = 0.2


class Land(NamedTuple):
    """What travels run over, for the kernel."""

    #: (N,) tops of the layers in mm
    tops: np.ndarray
    #: (E, 4) edges of the outlines, their boxes, and (N + 1,) where those of a layer begin
    edges: np.ndarray
    boxes: np.ndarray
    edge_at: np.ndarray
    #: (G, 2) points of the rings that travels go around along, where each ring begins, and (N + 1,)
    #: where the rings of a layer begin
    guide: np.ndarray
    guide_starts: np.ndarray
    guide_at: np.ndarray

    @property
    def nbytes(self) -> int:
        return sum(column.nbytes for column in self)


def land_of(outlines: Outlines, around: bool, stands: np.ndarray | None = None) -> Land:
    """What travels run over, with rings to go ``around`` along, where that is wanted.

    ``stands`` (N,) are the areas of supports.
    """
    inside = outlines.areas[:0]
    if around:
        inside = thinned(offset(outlines.areas, -INSIDE), 0.03)
    guide, layers = rings_of(inside), len(outlines.tops)
    edges, edge_at = outlines.edges
    if stands is not None:
        others, other_at = edges_of(rings_of(stands), layers)
        number = np.arange(layers)
        layer = np.r_[np.repeat(number, np.diff(edge_at)), np.repeat(number, np.diff(other_at))]
        edges = np.concatenate([edges, others])[np.argsort(layer, kind="stable")]
        edge_at = edge_at + other_at
    guide_at = np.searchsorted(guide.owner, np.arange(layers + 1))
    return Land(
        outlines.tops, edges, boxes_of(edges), edge_at, guide.points, guide.starts, guide_at
    )
