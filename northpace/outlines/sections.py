"""Sections of the solid at the layers' mid heights, as polygons with holes."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import manifold3d as m3
import numpy as np
import shapely

from northpace.geometry.crossing import edges_of
from northpace.geometry.nesting import areas_of_rings
from northpace.geometry.polygons import Pieces, explode, offset, rings_of
from northpace.geometry.sheets import areas_of
from northpace.geometry.thinning import thinned
from northpace.outlines.slicing import rings_at
from northpace.part.place import Placed

#: Detail finer than this (mm) is tessellation; it would only cost time.
SIMPLIFY = 0.01
#: Outlines are thinned to this (mm) for asking what is open or leans out: ties and beads cover far
#: more.
COARSE = 0.03
#: An outline smaller than this (mm²) is less than the spot under a resting nozzle.
LEAST_AREA = 0.01


#: Corners of the outlines that are laid at once: some tenths of a second of work.
WINDOW = 20_000


@dataclass(frozen=True)
class Outlines:
    """Tops (N,) and heights (N,) of the layers in mm; areas (N,) of each layer; islands: its
    separate polygons.
    """

    tops: np.ndarray
    heights: np.ndarray
    areas: np.ndarray
    islands: Pieces

    @cached_property
    def coarse(self) -> np.ndarray:
        """(N,) areas thinned to `COARSE`."""
        return thinned(self.areas, COARSE)

    @cached_property
    def edges(self) -> tuple[np.ndarray, np.ndarray]:
        """Edges (E, 4) of the outlines in mm, and (N + 1,) where those of each layer begin."""
        return edges_of(rings_of(self.areas), len(self.tops))

    def windows(self, corners: int = WINDOW) -> list[tuple[int, int]]:
        """First layer and end of windows with about so many corners each, from the bed up."""
        ends = np.cumsum(shapely.get_num_coordinates(self.areas))
        total = int(ends[-1]) if len(ends) else 0
        marks = corners * np.arange(1, -(-total // corners) if total else 1)
        cuts = np.unique(np.r_[0, np.searchsorted(ends, marks) + 1, len(ends)])
        return list(zip(cuts[:-1].tolist(), cuts[1:].tolist(), strict=True))

    def within(self, first: int, end: int) -> tuple[Outlines, int]:
        """The same outlines with the islands of some layers alone, and the number of the first."""
        low, high = np.searchsorted(self.islands.owner, (first, end))
        islands = Pieces(self.islands.polygons[low:high], self.islands.owner[low:high])
        return Outlines(self.tops, self.heights, self.areas, islands), int(low)

    def covering(self, coarse: np.ndarray) -> Outlines:
        """The same outlines, covering only areas (N,) of what lies above and below them."""
        out = Outlines(self.tops, self.heights, self.areas, self.islands)
        out.__dict__["coarse"] = coarse  # where a cached property keeps its value
        return out

    @property
    def nbytes(self) -> int:
        return 60 * int(shapely.get_num_coordinates(self.areas).sum())


def cut(
    placed: Placed,
    heights: np.ndarray,
    outline_offset: float = 0.0,
    first_layer_offset: float = 0.0,
) -> Outlines:
    """Outlines of layers of the given heights (N,) mm.

    A section at a level step belongs to the side above (the kernel's rule is half-open from below).
    Offsets grow the outlines; ``first_layer_offset`` is added on the first layer.
    """
    tops = np.cumsum(heights)
    areas = sections(placed.solid, tops - heights / 2)
    by = np.full(len(heights), outline_offset)
    by[0] += first_layer_offset
    if by.any():
        areas = offset(areas, by)
    islands = explode(areas, LEAST_AREA)
    return Outlines(tops, heights, areas, islands)


def sections(solid: m3.Manifold, levels: np.ndarray) -> np.ndarray:
    """(N,) areas of a solid at the given heights above the plate."""
    rising, place = np.unique(levels, return_inverse=True)
    areas, stray = areas_of_rings(rings_at(solid, rising, SIMPLIFY), len(rising))
    # where the solid passes through itself, or thinning made outlines touch, the kernel unites
    bad = np.flatnonzero(stray | ~shapely.is_valid(areas))
    sheets = np.array([solid.slice(z).simplify(SIMPLIFY) for z in rising[bad].tolist()], object)
    areas[bad] = areas_of(sheets)
    return np.asarray(areas[place])
