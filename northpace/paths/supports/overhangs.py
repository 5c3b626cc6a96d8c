"""Where the part leans out further than it carries itself."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from northpace.geometry.polygons import (
    EMPTY,
    NO_PIECES,
    Pieces,
    collect,
    difference,
    explode,
    offset,
)
from northpace.geometry.stacks import stacked
from northpace.outlines.sections import Outlines
from northpace.part.place import Placed
from northpace.part.stl import mesh_arrays

#: Strips under a slope smaller than this (mm²) are the grain of corners.
SLOPE = 0.3
#: Overhangs are measured over at least this height (mm), and against this much grain (mm) of the
#: outlines.
BASIS, GRAIN = 0.3, 0.02


@dataclass(frozen=True)
class Leaning:
    """What leans out, piece by piece."""

    #: (P,) simple polygons with their layer as owner
    pieces: Pieces
    #: (P,) area of a piece and of all the pieces it adds up with over the layers, in mm²
    area: np.ndarray
    body: np.ndarray
    #: number of layers
    count: int

    @property
    def nbytes(self) -> int:
        return 16 * int(shapely.get_num_coordinates(self.pieces.polygons).sum())

    def worth(self, least: float) -> np.ndarray:
        """(N,) what leans out by layer, bodies below ``least`` mm² left out."""
        keep = (self.area >= max(least, 1e-3)) | (self.body >= least)
        out = np.full(self.count, EMPTY, object)
        layers, place = np.unique(self.pieces.owner, return_inverse=True)
        out[layers] = collect(Pieces(self.pieces.polygons[keep], place[keep]), len(layers))
        return out


def overhangs(outlines: Outlines, placed: Placed, angle: float) -> Leaning:
    """What of every layer leans out over the ones below it by more than ``angle`` degrees from
    upright; islands whole.

    Facets say in which layers to look. There a layer is compared with one at least `BASIS` below
    it, so that thin layers, whose steps are hardly more than the grain of the outlines, show the
    same angle as tall ones.
    """
    areas, tops, heights = outlines.areas, outlines.tops, outlines.heights
    middle = tops - heights / 2
    low, high = _leaning(placed, angle)
    # between the middles of which layers a leaning facet lies
    first, last = np.searchsorted(middle, low - 1e-6), np.searchsorted(middle, high + 1e-6)
    marked = np.zeros(len(areas) + 2, np.int64)
    np.add.at(marked, np.minimum(first, len(areas)), 1)
    np.add.at(marked, np.minimum(last, len(areas)) + 1, -1)
    index = np.flatnonzero(np.cumsum(marked)[: len(areas)] > 0)
    index = index[index > 0]
    index = index[~shapely.is_empty(areas[index])]
    if len(index) == 0:
        return Leaning(NO_PIECES, np.empty(0), np.empty(0), len(areas))
    base = np.minimum(
        np.maximum(np.searchsorted(middle, middle[index] - BASIS + 1e-6, "right") - 1, 0), index - 1
    )
    reach = (middle[index] - middle[base]) * np.tan(np.radians(angle)) + GRAIN
    beyond = difference(difference(areas[index], offset(areas[base], reach)), areas[index - 1])
    pieces = explode(beyond, 0.0)
    area, layer = shapely.area(pieces.polygons), index[pieces.owner]
    # narrow strips of neighbouring layers add up: what is dropped is judged as a body over all
    # layers
    count, label = stacked(offset(pieces.polygons, 0.3), layer)
    body = np.bincount(label, area, count)[label]
    return Leaning(Pieces(pieces.polygons, layer), area, body, len(areas))


def _leaning(placed: Placed, angle: float) -> tuple[np.ndarray, np.ndarray]:
    """Lowest and highest z (mm) of the facets that lean out further than an angle from upright,
    those on the bed left out.
    """
    vertices, faces, _ = mesh_arrays((placed.solid,))
    corners = np.asarray(vertices[faces], np.float64)
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    chosen = -normal[:, 2] > np.sin(np.radians(angle)) * np.linalg.norm(normal, axis=1)
    z = corners[chosen][:, :, 2]
    off = z.max(axis=1, initial=-1.0) > 1e-3
    return z[off].min(axis=1, initial=np.inf), z[off].max(axis=1, initial=-1.0)
