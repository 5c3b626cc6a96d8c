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
    intersection,
    offset,
    only_areas,
    rounded,
    together,
    union,
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
#: From this angle (°) on, facets say what leans out, too.
STEEP = 65.0


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
    same angle as tall ones. At steep angles that comparison reaches so far that it would leave out
    much of a level face; there the facets themselves say what leans out.
    """
    areas, tops, heights = outlines.areas, outlines.tops, outlines.heights
    middle = tops - heights / 2
    facets = _leaning(placed, angle)
    low, high = facets[:, :, 2].min(axis=1), facets[:, :, 2].max(axis=1)
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
    grown = difference(areas[index], areas[index - 1])
    beyond = difference(grown, offset(areas[base], reach))
    if angle > STEEP:
        shadows = _shadows(facets, first, last, index)
        beyond = union(beyond, only_areas(intersection(grown, shadows)))
    pieces = explode(beyond, 0.0)
    area, layer = shapely.area(pieces.polygons), index[pieces.owner]
    # narrow strips of neighbouring layers add up: what is dropped is judged as a body over all
    # layers
    count, label = stacked(offset(pieces.polygons, 0.3), layer)
    body = np.bincount(label, area, count)[label]
    return Leaning(Pieces(pieces.polygons, layer), area, body, len(areas))


def found_from(angle: float) -> float:
    """The lean in degrees from upright from which on `overhangs` finds what leans out by more than
    ``angle``: a little more, by the grain of the outlines.
    """
    if angle > STEEP:
        return angle
    return float(np.degrees(np.arctan(np.tan(np.radians(angle)) + GRAIN / BASIS)))


def _shadows(
    facets: np.ndarray, first: np.ndarray, last: np.ndarray, index: np.ndarray
) -> np.ndarray:
    """(K,) what facets (F, 3, 3) lie over, in the layers ``index`` (K,); ``first``, ``last`` (F,)
    are the layers a facet lies in.
    """
    flat = rounded(shapely.polygons(facets[:, :, :2]), GRAIN, 1)
    out = np.full(len(index), EMPTY, object)
    for n, k in enumerate(index.tolist()):
        here = (first <= k) & (k <= last)
        if here.any():
            out[n] = together(flat[here])
    return out


def _leaning(placed: Placed, angle: float) -> np.ndarray:
    """(F, 3, 3) corners of the facets that lean out further than an angle from upright, those on
    the bed left out.
    """
    vertices, faces, _ = mesh_arrays((placed.solid,))
    corners = np.asarray(vertices[faces], np.float64)
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    chosen = -normal[:, 2] > np.sin(np.radians(angle)) * np.linalg.norm(normal, axis=1)
    off = corners[:, :, 2].max(axis=1) > 1e-3
    return np.asarray(corners[chosen & off])
