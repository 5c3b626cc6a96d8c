"""Vault: bears only the roofs above it, and opens into a hollow below them."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.geometry.polygons import (
    EMPTY,
    Pieces,
    collect,
    difference,
    explode,
    intersection,
    rounded,
    together,
)
from northpace.geometry.scanline import Chains
from northpace.infill.grid import grid
from northpace.infill.patches import Patches
from northpace.infill.pattern import Pattern

#: Widest hole (share of the layer height) that a hollow starts with: as much as a bead bridges.
START = 1.0
#: A hollow grows downwards by its layer's height times this: 45°.
GROWTH = 1.0


def vault(patches: Patches, angle: float, pitch: float, inset: float) -> list[Chains]:
    """A grid in what `borne` leaves."""
    return grid(patches, angle, pitch, inset)


def borne(sparse: Pieces, layer: np.ndarray, heights: np.ndarray) -> Pieces:
    """The part of every sparse piece that has to be there to bear what lies above.

    From the top down: below a roof all of a piece is there but for a small hole where it is
    furthest from the walls; every layer further down the hole is larger by the layer's height all
    around, which is as far as a bead may lean over the one below it. ``layer`` (P,) of each piece,
    ``heights`` (N,) of the layers in mm.
    """
    count = len(heights)
    areas = collect(Pieces(sparse.polygons, layer), count)
    hollow = np.full(count, EMPTY, object)
    shapely.prepare(areas)
    for k in range(count - 2, -1, -1):
        if shapely.is_empty(areas[k]):
            continue
        grown = intersection(rounded(hollow[k + 1], GROWTH * heights[k], 4), areas[k])
        parts = shapely.get_parts(intersection(areas[k], areas[k + 1]))
        parts = parts[(shapely.area(parts) > 4.0) & ~shapely.intersects(parts, grown)]
        if len(parts):
            widest = shapely.get_point(shapely.maximum_inscribed_circle(parts, 0.2), 0)
            begun = rounded(widest, START * heights[k])
            grown = together(np.array([grown, *begun], object))
        hollow[k] = shapely.simplify(grown, 0.02)
    left = difference(sparse.polygons, hollow[layer])
    pieces = explode(left, 0.02)
    return Pieces(pieces.polygons, sparse.owner[pieces.owner])


VAULT = Pattern(
    "vault",
    "bears only what has to be held up",
    vault,
    straight_from=0.55,
    directions=2.0,
    bears=borne,
)
