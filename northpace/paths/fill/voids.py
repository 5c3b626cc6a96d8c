"""Where nothing lies inside the walls, and what that asks of the layers above."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

import numpy as np
import shapely

from northpace.geometry.polygons import (
    EMPTY,
    Pieces,
    by_owner,
    collect,
    difference,
    explode,
    intersection,
    memory,
    offset,
    union,
)
from northpace.outlines.sections import Outlines
from northpace.paths.apart import Apart, equal
from northpace.paths.bead import spacing
from northpace.paths.fill.areas import FillAreas, SkinRules, layers_within
from northpace.paths.fill.by_place import DENSITY, laid_density
from northpace.paths.places import Places
from northpace.spec import ByLayer

#: Where infill has less than a line for so many mm, what lies on it has to span like over open air.
APART = 6.0


@dataclass(frozen=True)
class Voids:
    """Room inside the walls (N,) in which a layer lays nothing (``empty``), or hardly anything
    (``open``, the empty room included).
    """

    empty: np.ndarray
    open: np.ndarray

    @property
    def nbytes(self) -> int:
        return memory(self.empty) + memory(self.open)

    def differs(self, other: Voids, apart: Apart) -> np.ndarray:
        """(N,) whether they differ in a layer."""
        return ~(equal(self.empty, other.empty) & equal(self.open, other.open))

    def digest(self) -> str:
        """What tells it from others: mostly there is none."""
        if shapely.is_empty(self.open).all():
            return ""
        seen = hashlib.sha256()
        for areas in (self.empty, self.open):
            seen.update(b"".join(shapely.to_wkb(areas)))
        return seen.hexdigest()


def voids(
    areas: FillAreas,
    outlines: Outlines,
    local: ByLayer,
    places: Places,
    turns: tuple[tuple[int, int], ...],
) -> Voids:
    """The room that infill leaves empty, by the densities of layers, bands and regions."""
    sparse, count = areas.sparse, len(outlines.tops)
    layer = outlines.islands.owner[sparse.owner]
    density = laid_density(local, turns)[layer]
    pieces = Pieces(sparse.polygons, layer)
    if places.change(DENSITY):
        found, case, cases = places.partition(sparse, layer, (DENSITY,))
        pieces = Pieces(found.polygons, outlines.islands.owner[found.owner])
        density = laid_density(local, turns)[pieces.owner]
        for number, changes in enumerate(cases):
            if DENSITY in changes:
                density[case == number] = changes[DENSITY]

    def where(chosen: np.ndarray) -> np.ndarray:
        return collect(Pieces(pieces.polygons[chosen], pieces.owner[chosen]), count)

    owner = pieces.owner
    lane = spacing(local["body.infill_width"][owner].astype(float), outlines.heights[owner])
    return Voids(where(density <= 0), where(density / 100 < lane / APART))


def with_floors(
    areas: FillAreas, outlines: Outlines, empty: np.ndarray, rules: SkinRules, tie: float
) -> FillAreas:
    """Areas with infill made solid where it would begin over a void (N,), as thick as a bottom and
    ``tie`` mm beyond its edge.
    """
    sparse, layer = areas.sparse, outlines.islands.owner[areas.sparse.owner]
    tops, heights = outlines.tops, outlines.heights
    below = layers_within(tops, heights, rules.bottom, np.maximum(rules.bottom_least, 1), False)
    over = np.full(len(tops), EMPTY, object)
    for step in range(1, int(below.max(initial=0)) + 1):
        index = np.arange(step, len(tops))
        index = index[(below[index] >= step) & ~shapely.is_empty(empty[index - step])]
        over[index] = union(over[index], empty[index - step])
    # what is empty itself has no floor
    over = difference(over, empty)
    some = np.flatnonzero(~shapely.is_empty(over[layer]))
    if len(some) == 0:
        return areas
    grown = offset(over, tie)
    laid = difference(grown, empty)[layer[some]]
    floors = explode(intersection(sparse.polygons[some], laid), 0.02)
    left = sparse.polygons.copy()
    left[some] = difference(left[some], laid)
    rest = explode(left, 0.02)
    return FillAreas(
        by_owner(
            Pieces(
                np.concatenate([areas.solid.polygons, floors.polygons]),
                np.concatenate([areas.solid.owner, sparse.owner[some[floors.owner]]]),
            )
        ),
        Pieces(rest.polygons, sparse.owner[rest.owner]),
        areas.small,
    )
