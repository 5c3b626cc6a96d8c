"""Which parts of a layer are solid: within the solid thickness of open air above or below (computations §5)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from northpace.outlines.polygons import EMPTY, Pieces, collect, difference, explode, intersection, offset, only_areas
from northpace.outlines.sections import Outlines

#: Outlines are thinned to this (mm) for asking what is open: the tie length covers far more.
COARSE = 0.03


@dataclass(frozen=True)
class FillAreas:
    """Per island: where solid fill and where infill goes, as simple polygons with the island as owner."""

    solid: Pieces
    sparse: Pieces

    @property
    def nbytes(self) -> int:
        return sum(48 * int(shapely.get_num_coordinates(p.polygons).sum()) for p in (self.solid, self.sparse))


def reach(tops: np.ndarray, heights: np.ndarray, thickness: float, least: int, upward: bool) -> np.ndarray:
    """(N,) how many layers above (or below) must cover a layer so that it may be open inside.

    The layers from the covered surface on count until the thickness in mm is reached, and at least ``least`` of them.
    """
    if thickness <= 0 and least <= 0:
        return np.zeros(len(tops), np.int64)
    bottoms = tops - heights
    if upward:
        # layer j is the last within the thickness while top[j] - top[i] < thickness
        last = np.searchsorted(tops, tops + thickness - 1e-9, "left") - 1
        count = np.where(thickness > 0, last - np.arange(len(tops)) + 1, 0)
    else:
        first = np.searchsorted(bottoms, bottoms - thickness + 1e-9, "right")
        count = np.where(thickness > 0, np.arange(len(tops)) - first + 1, 0)
    return np.maximum(count, least).astype(np.int64)


def all_solid(border: np.ndarray) -> FillAreas:
    """Everything inside the walls (I,) solid: what a density of 100 % means."""
    return FillAreas(explode(border, 0.02), Pieces(np.empty(0, object), np.empty(0, np.int64)))


def fill_areas(outlines: Outlines, border: np.ndarray, above: np.ndarray, below: np.ndarray, tie: float, least_area: float,
               bead: float) -> FillAreas:
    """Split the area inside the walls (I,) into solid and infill.

    ``above`` and ``below`` come from `reach`; ``tie`` (mm) is how far a solid patch reaches beyond what is open; patches below
    ``least_area`` (mm²) change sides; ``bead`` (mm): infill narrower than this becomes solid.
    """
    inside = Pieces(border, outlines.islands.owner)
    if above.max(initial=0) == 0 and below.max(initial=0) == 0:
        return FillAreas(Pieces(np.empty(0, object), np.empty(0, np.int64)), explode(border))
    coarse = shapely.simplify(outlines.areas, COARSE)
    # layers of thin walls have nothing inside them to decide about
    wanted = np.zeros(len(coarse), bool)
    wanted[inside.owner[~shapely.is_empty(border)]] = True
    layers = np.arange(len(coarse))
    covered = np.full(len(coarse), EMPTY, object)
    roofed, floored = _common(coarse, layers + 1, above, wanted), _common(coarse, layers - below, below, wanted)
    covered[wanted] = intersection(roofed[wanted], floored[wanted])
    cover = covered[inside.owner]
    shapely.prepare(cover)
    whole = shapely.covers(cover, border)  # the usual case: nothing open near, all of it infill
    sparse = border.copy()
    index = np.flatnonzero(~whole & ~shapely.is_empty(border))
    if len(index):
        area = border[index]
        open_part = difference(area, cover[index])
        # an opening narrower than a fifth of a bead is the slope of a wall, not a surface
        grown = offset(offset(open_part, -bead / 10), bead / 10 + tie)
        rest = difference(area, grown)
        rest = only_areas(offset(offset(rest, -bead / 2), bead / 2 + 1e-4))
        rest = intersection(rest, area)
        pieces = explode(rest, least_area)
        rest = collect(pieces, len(index))
        solid_pieces = explode(difference(area, rest), 0.0)
        small = shapely.area(solid_pieces.polygons) < least_area
        # small patches next to infill become infill; alone in their island they stay solid
        back = small & ~shapely.is_empty(rest[solid_pieces.owner])
        if back.any():
            kept = collect(Pieces(solid_pieces.polygons[~back], solid_pieces.owner[~back]), len(index))
            touched = np.unique(solid_pieces.owner[back])
            rest[touched] = difference(area[touched], kept[touched])
        sparse[index] = rest
        solid = difference(area, rest)
        solid_all = np.full(len(border), EMPTY, object)
        solid_all[index] = solid
    else:
        solid_all = np.full(len(border), EMPTY, object)
    return FillAreas(explode(solid_all, 0.02), explode(sparse, 0.02))


def _common(areas: np.ndarray, first: np.ndarray, count: np.ndarray, wanted: np.ndarray) -> np.ndarray:
    """(N,) intersection of ``count`` areas from ``first`` on, where ``wanted``; beyond either end there is nothing.

    Ranges are put together from runs of powers of two, so that a range of n areas costs about log n booleans; only the runs
    that some wanted range is made of are computed.
    """
    total = len(areas)
    out = np.full(total, shapely.box(-1e6, -1e6, 1e6, 1e6), object)
    inside = (first >= 0) & (first + count <= total)
    out[(count > 0) & ~inside] = EMPTY
    index = np.flatnonzero((count > 0) & inside & wanted)
    if len(index) == 0:
        return out
    level = np.floor(np.log2(count[index]) + 1e-9).astype(np.int64)
    begin, end = first[index], first[index] + count[index] - (1 << level)
    needed = np.zeros((level.max() + 1, total), bool)
    needed[level, begin] = needed[level, end] = True
    for p in range(level.max(), 0, -1):
        half = 1 << (p - 1)
        needed[p - 1] |= needed[p]
        needed[p - 1, half:] |= needed[p, :-half]
    run = areas
    for p in range(level.max() + 1):
        if p:
            half = 1 << (p - 1)
            k = np.flatnonzero(needed[p])
            longer = run.copy()
            longer[k] = intersection(run[k], run[k + half])
            run = longer
        here = level == p
        out[index[here]] = intersection(run[begin[here]], run[end[here]])
    return out
