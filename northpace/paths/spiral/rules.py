"""Which layers could be a turn of a spiral, and where each rule breaks first."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from northpace.geometry.polygons import difference, offset
from northpace.outlines.sections import Outlines

#: No move of a spiral rises more than this (mm), so that the wall has no steps.
RISE = 0.02
#: Points of a turn are at most this far apart (mm): the way from contour to contour is followed
#: that finely.
APART = 1.0
#: Bead height (mm) below which nothing is laid.
NOTHING = 0.001
#: Rules that break where a part closes above its rim.
SHUTS = ("closes", "narrow")
#: A stretch of fewer turns is not worth a spiral of its own.
LEAST_TURNS = 5
#: A turn whose centre line is shorter than so many beads is no turn any more.
LEAST_TURN = 3.0
#: What a turn may lack of half a bead's hold (mm²), and by how far (mm): the grain of outlines.
GRAIN_AREA, GRAIN = 0.05, 0.01


@dataclass(frozen=True)
class Break:
    """The first height in mm at which a rule of the spiral breaks, which rule, and why."""

    z: float
    rule: str
    reason: str


@dataclass(frozen=True)
class Kept:
    """Which rules every layer (N,) keeps: one outline (their number (N,) beside it), no hole, room
    for a turn, and a turn that rests on at least half a bead of the turn below: it does not close
    inward nor lean out by more.
    """

    number: np.ndarray
    whole: np.ndarray
    wide: np.ndarray
    inward: np.ndarray
    outward: np.ndarray

    def turns(self, outer_only: bool) -> np.ndarray:
        """(N,) whether a turn can be laid in each layer."""
        single = self.number == 1
        return (
            np.r_[False, single[1:] & single[:-1]]
            & np.r_[False, self.wide[1:] & self.wide[:-1]]
            & (self.whole | outer_only)
            & self.inward
            & self.outward
        )


def rules_kept(outlines: Outlines, width: float) -> Kept:
    """What every layer says to a spiral with beads of ``width`` mm."""
    areas = outlines.areas
    solid = outer_contours(areas)
    holed = shapely.length(areas) - shapely.length(solid) > GRAIN
    number = shapely.get_num_geometries(areas)
    number[shapely.is_empty(areas)] = 0
    reach = width / 2 + GRAIN
    inward, outward = np.ones(len(areas), bool), np.ones(len(areas), bool)
    inward[1:] = shapely.area(difference(solid[:-1], offset(solid[1:], reach))) <= GRAIN_AREA
    outward[1:] = shapely.area(difference(solid[1:], offset(solid[:-1], reach))) <= GRAIN_AREA
    centre = shapely.length(outer_contours(offset(solid, -width / 2)))
    return Kept(number, ~(holed & (number == 1)), centre > LEAST_TURN * width, inward, outward)


def breaks(outlines: Outlines, kept: Kept, begin: int, end: int, outer_only: bool) -> list[Break]:
    """Where each rule of a spiral of the layers ``begin`` to ``end`` − 1 breaks first, the lowest
    first; ``outer_only`` takes the outer contour of what has a hole.
    """
    found = []

    def first(kept_by: np.ndarray, rule: str, words: str) -> None:
        bad = np.flatnonzero(~kept_by[begin:end])
        if len(bad):
            k = begin + int(bad[0])
            many = {0: "is no outline"}.get(
                int(kept.number[k]), f"are {int(kept.number[k])} outlines"
            )
            found.append(Break(float(outlines.tops[k]), rule, words.format(many)))

    first(kept.number == 1, "outlines", "there {}")
    if not outer_only:
        first(
            kept.whole,
            "hole",
            "the outline has a hole; where a wall is modelled with both its sides, 'Outer "
            "contour only' takes the outer one",
        )
    first(
        kept.wide | (kept.number != 1),
        "narrow",
        "it is too narrow for a turn of this bead; a rim that ends level stops below it",
    )
    first(
        kept.inward,
        "closes",
        "it closes inward by more than half a bead, so the next turn would rest on nothing",
    )
    first(
        kept.outward,
        "leans",
        "it leans out by more than half a bead, so the next turn would rest on nothing",
    )
    return sorted(found, key=lambda entry: entry.z)


def stretches(outlines: Outlines, kept: Kept, foot: int, outer_only: bool) -> list[tuple[int, int]]:
    """Layers (from, end) above the foot that can be one spiral, the tallest stretch first; those of
    a few turns are left out.
    """
    good = kept.turns(outer_only)
    good[:foot] = False
    runs = np.flatnonzero(np.diff(np.r_[False, good, False].astype(np.int8))).reshape(-1, 2)
    tall = (
        outlines.tops[runs[:, 1] - 1] - (outlines.tops - outlines.heights)[runs[:, 0]]
        if len(runs)
        else np.empty(0)
    )
    order = np.argsort(-tall, kind="stable")
    return [
        (int(runs[k, 0]), int(runs[k, 1])) for k in order if runs[k, 1] - runs[k, 0] >= LEAST_TURNS
    ]


def outer_contours(areas: np.ndarray) -> np.ndarray:
    """Each area's largest part without its holes. ``areas`` is (N,)."""
    parts, owner = shapely.get_parts(areas, return_index=True)
    full = shapely.polygons(shapely.get_exterior_ring(parts))
    out = np.full(len(areas), shapely.Polygon(), object)
    order = np.lexsort((shapely.area(full), owner))
    out[owner[order]] = full[order]  # the last of equal owners stays: the largest
    return np.asarray(shapely.orient_polygons(out))
