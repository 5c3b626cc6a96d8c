"""Which parts of a layer are solid: within the solid thickness of open air above or below
(`docs/computations.md` §5).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields, replace
from typing import Any, NamedTuple

import numpy as np
import shapely

from northpace.geometry.polygons import (
    EMPTY,
    NO_PIECES,
    Pieces,
    by_owner,
    collect,
    difference,
    explode,
    intersection,
    joined,
    offset,
    only_areas,
    union,
    united,
)
from northpace.geometry.sheets import areas_of, common, everything, nothing, sheets_of
from northpace.geometry.stacks import stacked
from northpace.outlines.sections import Outlines
from northpace.paths.apart import Apart
from northpace.paths.bead import spacing
from northpace.spec import Body, Pace, Patch


class Kind(NamedTuple):
    """What ranges of layers are put together from."""

    nothing: Callable[[], Any]
    everything: Callable[[], Any]
    #: of two arrays (K,), pairwise
    common: Callable[[np.ndarray, np.ndarray], np.ndarray]


AREAS = Kind(lambda: EMPTY, lambda: shapely.box(-1e6, -1e6, 1e6, 1e6), intersection)
SHEETS = Kind(nothing, everything, common)
#: So many layers above or below are asked whether they cover a layer, one by one.
MOST_ASKED = 16
#: Seconds a path of its own costs beside laying it: the way there and starting.
START = 0.25


@dataclass(frozen=True)
class FillAreas:
    """Per island: where solid fill and where infill goes, as simple polygons with the island as
    owner; ``small``: solid patches that became infill because they are below the least area.
    """

    solid: Pieces
    sparse: Pieces
    small: Pieces = NO_PIECES

    @property
    def nbytes(self) -> int:
        return self.solid.nbytes + self.sparse.nbytes

    def differs(self, other: FillAreas, apart: Apart) -> np.ndarray:
        """(N,) whether they differ in a layer."""
        out = apart.pieces(self.solid, other.solid) | apart.pieces(self.sparse, other.sparse)
        return np.asarray(out | apart.pieces(self.small, other.small))

    def only(self, layers: np.ndarray, apart: Apart) -> FillAreas:
        """Those of the layers (N,) that are wanted."""
        return FillAreas(
            apart.only(self.solid, layers),
            apart.only(self.sparse, layers),
            apart.only(self.small, layers),
        )

    def merged(self, new: FillAreas, layers: np.ndarray, apart: Apart) -> FillAreas:
        """New ones in the layers (N,), these elsewhere."""
        return FillAreas(
            apart.merged(self.solid, new.solid, layers),
            apart.merged(self.sparse, new.sparse, layers),
            apart.merged(self.small, new.small, layers),
        )


def layers_within(
    tops: np.ndarray, heights: np.ndarray, thickness: np.ndarray, least: np.ndarray, upward: bool
) -> np.ndarray:
    """(N,) how many layers above (or below) must cover a layer so that it may be open inside.

    The layers from the covered surface on count until the layer's ``thickness`` (N,) in mm is
    reached, and at least ``least`` (N,) of them.
    """
    bottoms = tops - heights
    if upward:
        # layer j is the last within the thickness while top[j] - top[i] < thickness
        last = np.searchsorted(tops, tops + thickness - 1e-9, "left") - 1
        count = np.where(thickness > 0, last - np.arange(len(tops)) + 1, 0)
    else:
        first = np.searchsorted(bottoms, bottoms - thickness + 1e-9, "right")
        count = np.where(thickness > 0, np.arange(len(tops)) - first + 1, 0)
    return np.maximum(count, least).astype(np.int64)


@dataclass(frozen=True)
class SkinRules:
    """What is solid in every layer (N)."""

    #: (N,) thickness in mm and least layers under tops
    top: np.ndarray
    top_least: np.ndarray
    #: (N,) the same over bottoms
    bottom: np.ndarray
    bottom_least: np.ndarray
    #: (N,) steepest skin in degrees, 0 level
    steepest: np.ndarray
    #: (N,) whether bottoms count on the bed only
    bed_only: np.ndarray
    #: (N,) least solid area in mm²
    least_area: np.ndarray
    #: (N,) whether the layer is solid throughout
    full: np.ndarray
    #: (N,) whether it is a floor across the infill
    floors: np.ndarray

    def differs(self, other: SkinRules, apart: Apart) -> np.ndarray:
        """(N,) whether they differ in a layer."""
        out = np.zeros(apart.count, bool)
        for item in fields(self):
            out |= getattr(self, item.name) != getattr(other, item.name)
        return out


def fill_areas(
    outlines: Outlines, border: np.ndarray, body: Body, rules: SkinRules, pace: Pace | None
) -> FillAreas:
    """Split the area inside the walls (I,) into solid and infill. ``pace`` is only asked where
    infill is made solid when that is quicker.
    """
    owner = outlines.islands.owner
    if rules.full.any():
        dense = np.flatnonzero(rules.full[owner])
        throughout = explode(border[dense], 0.02)
        throughout = Pieces(throughout.polygons, dense[throughout.owner])
        if rules.full.all():
            return FillAreas(throughout, NO_PIECES)
        open_border = border.copy()
        open_border[dense] = EMPTY
        found = fill_areas(
            outlines, open_border, body, replace(rules, full=np.zeros_like(rules.full)), pace
        )
        both = by_owner(joined([throughout, found.solid]))
        return FillAreas(both, found.sparse, found.small)
    tops, heights = outlines.tops, outlines.heights
    above = layers_within(tops, heights, rules.top, rules.top_least, True)
    below = layers_within(tops, heights, rules.bottom, rules.bottom_least, False)
    if above.max(initial=0) == 0 and below.max(initial=0) == 0 and not rules.floors.any():
        return FillAreas(NO_PIECES, explode(border, 0.02))
    index = np.flatnonzero(_open_somewhere(outlines, border, rules, above, below))
    wanted = np.zeros(len(tops), bool)
    wanted[owner[index]] = True
    cover = _covered(outlines, rules, above, below, wanted)[owner[index]]
    shapely.prepare(cover)
    # what each of them covers, all of them may, as clipping rounds
    some = ~shapely.covers(cover, border[index])
    index, cover = index[some], cover[some]
    sparse, solid, small = border.copy(), np.full(len(border), EMPTY, object), NO_PIECES
    if len(index):
        area = border[index]
        rest, small = _split(area, cover, rules.least_area[owner[index]], body, tops[owner[index]])
        small = Pieces(small.polygons, index[small.owner])
        sparse[index] = rest
        solid[index] = difference(area, rest)
    if body.caught_infill != "keep":
        caught = _caught(sparse, outlines, body, pace)
        hit = np.flatnonzero(~shapely.is_empty(caught))
        sparse[hit] = difference(sparse[hit], caught[hit])
        solid[hit] = union(solid[hit], caught[hit])
    parts = FillAreas(explode(solid, 0.02), explode(sparse, 0.02), small)
    return (
        _dropped(parts, outlines, body.patches)
        if any(not patch.keep for patch in body.patches)
        else parts
    )


def _open_somewhere(
    outlines: Outlines, border: np.ndarray, rules: SkinRules, above: np.ndarray, below: np.ndarray
) -> np.ndarray:
    """(I,) whether a layer near enough leaves something of an area inside the walls (I,) open."""
    owner, count = outlines.islands.owner, len(outlines.tops)
    out = rules.floors[owner].copy()
    ask = np.flatnonzero(~shapely.is_empty(border))
    for far, number in ((1, above), (-1, below)):
        out |= number[owner] > (count - 1 - owner if far > 0 else owner)
        aside = _aside(rules, far > 0)
        if number.max(initial=0) > MOST_ASKED or aside.any():
            return ~shapely.is_empty(border)  # it costs less to find what all have in common
        for step in range(1, int(number.max(initial=0)) + 1):
            some = ask[(number[owner[ask]] >= step) & ~out[ask]]
            other = outlines.coarse[owner[some] + far * step]
            shapely.prepare(other)
            out[some] = ~shapely.covers(other, border[some])
    out[shapely.is_empty(border)] = False
    return out


def _aside(rules: SkinRules, upward: bool) -> np.ndarray:
    """(N,) by how many mm a surface as steep as is asked for moves aside over the solid
    thickness.
    """
    thickness = rules.top if upward else rules.bottom
    steep = np.radians(np.minimum(rules.steepest, 89.9))
    return np.where(rules.steepest < 90, thickness / np.tan(steep), 0.0)


def _covered(
    outlines: Outlines,
    rules: SkinRules,
    above: np.ndarray,
    below: np.ndarray,
    wanted: np.ndarray,
) -> np.ndarray:
    """(N,) what is covered far enough above and below in every layer to be open inside, of the
    layers (N,) that are wanted.
    """
    count = len(outlines.tops)
    layers = np.arange(count)
    out = np.full(count, EMPTY, object)

    def all_of(upward: bool, first: np.ndarray, number: np.ndarray) -> np.ndarray:
        found = np.full(count, nothing(), object)
        aside = _aside(rules, upward)
        for far in np.unique(aside):
            here = wanted & (aside == far)
            needed = _reached(first, number, here)
            sheets = np.full(count, nothing(), object)
            sheets[needed] = sheets_of(offset(outlines.coarse[needed], float(far)))
            found[here] = _common(sheets, first, number, here, SHEETS)[here]
        return found

    roofed = all_of(True, layers + 1, above)
    floored = all_of(False, layers - below, below)
    bed = np.flatnonzero(rules.bed_only)
    floored[bed] = np.where(layers[bed] - below[bed] < 0, nothing(), everything())
    out[wanted] = areas_of(common(roofed[wanted], floored[wanted]))
    out[rules.floors] = EMPTY
    return out


def _reached(first: np.ndarray, number: np.ndarray, wanted: np.ndarray) -> np.ndarray:
    """(N,) whether some range of ``number`` (N,) layers from ``first`` (N,) on that is wanted
    covers a layer.
    """
    count = len(first)
    begin = np.clip(first[wanted], 0, count)
    end = np.clip(first[wanted] + number[wanted], 0, count)
    change = np.bincount(begin, minlength=count + 1) - np.bincount(end, minlength=count + 1)
    return np.asarray(np.cumsum(change)[:count] > 0)


def _split(
    area: np.ndarray, cover: np.ndarray, least: np.ndarray, body: Body, tops: np.ndarray
) -> tuple[np.ndarray, Pieces]:
    """What of areas (n,) stays infill, and the solid patches that were too small."""
    bead = body.solid_width
    # an opening narrower than a fifth of a bead is the slope of a wall, not a surface
    grown = offset(offset(difference(area, cover), -bead / 10), bead / 10 + body.tie_length)
    rest = only_areas(offset(offset(difference(area, grown), -bead / 2), bead / 2 + 1e-4))
    pieces = explode(intersection(rest, area))
    big = shapely.area(pieces.polygons) >= least[pieces.owner]
    rest = collect(Pieces(pieces.polygons[big], pieces.owner[big]), len(area))
    patches = explode(difference(area, rest), 0.0)
    size = shapely.area(patches.polygons)
    # small patches next to infill become infill; alone in their island they stay solid
    back = (size < least[patches.owner]) & ~shapely.is_empty(rest[patches.owner])
    for patch in body.patches:
        if patch.keep and back.any():
            near = np.abs(tops[patches.owner] - patch.z) < 1.0
            back &= ~(
                near & (shapely.distance(patches.polygons, shapely.Point(patch.x, patch.y)) < 0.5)
            )
    if back.any():
        kept = collect(Pieces(patches.polygons[~back], patches.owner[~back]), len(area))
        touched = np.unique(patches.owner[back])
        rest[touched] = difference(area[touched], kept[touched])
    small = back & (size > 0.1)
    return rest, Pieces(patches.polygons[small], patches.owner[small])


def _caught(sparse: np.ndarray, outlines: Outlines, body: Body, pace: Pace | None) -> np.ndarray:
    """(I,) infill that lies in a hollow lower than asked for, where making it solid is wanted or
    quicker.
    """
    owner, tops, heights = outlines.islands.owner, outlines.tops, outlines.heights
    count = len(tops)
    pieces = explode(sparse)
    areas = collect(Pieces(pieces.polygons, owner[pieces.owner]), count)
    # a hollow is tall where some run of layers as high as asked for is open all through
    last = np.searchsorted(tops, tops - heights + body.caught_height - 1e-9)
    run = np.maximum(last - np.arange(count) + 1, 1)
    run[last >= count] = count + 1
    through = _common(areas, np.arange(count), run, np.ones(count, bool), AREAS)
    tall = np.full(count, EMPTY, object)
    for back in range(int(run[run <= count].max(initial=1))):
        k = np.arange(back, count)
        reaches = run[k - back] > back
        k = k[reaches]
        tall[k] = union(tall[k], through[k - back])
    bead = body.infill_width
    caught = explode(
        only_areas(offset(offset(difference(sparse, tall[owner]), -bead / 2), bead / 2)), 0.05
    )
    if body.caught_infill == "when-quicker" and len(caught):
        assert pace is not None
        push, dense, sparse_speed = pace.acceleration, pace.solid_speed, pace.infill_speed
        height = heights[owner[caught.owner]]
        size = shapely.area(caught.polygons)
        run_length = np.sqrt(size)

        def seconds(length: np.ndarray, speed: float) -> np.ndarray:
            return length * (1 / speed + speed / push / np.maximum(run_length, 0.1))

        as_infill = START + seconds(
            size * body.infill_density / 100 / spacing(body.infill_width, height), sparse_speed
        )
        as_solid = seconds(size / spacing(body.solid_width, height), dense)
        quicker = as_solid < as_infill
        caught = Pieces(caught.polygons[quicker], caught.owner[quicker])
    out = collect(caught, len(sparse))
    return intersection(out, sparse)


def _dropped(parts: FillAreas, outlines: Outlines, by_hand: tuple[Patch, ...]) -> FillAreas:
    """Solid patches a maker dropped become infill, through all layers they are carried over."""
    solid = parts.solid
    layer = outlines.islands.owner[solid.owner]
    _, label = stacked(solid.polygons, layer)
    gone = np.zeros(len(solid), bool)
    middle = outlines.tops[layer] - outlines.heights[layer] / 2
    for patch in by_hand:
        if patch.keep or len(solid) == 0:
            continue
        here = np.abs(middle - patch.z) <= outlines.heights[layer] / 2 + 1e-6
        away = np.where(
            here, shapely.distance(solid.polygons, shapely.Point(patch.x, patch.y)), np.inf
        )
        nearest = int(np.argmin(away))
        if away[nearest] < 1.0:
            gone |= label == label[nearest]
    kept = Pieces(solid.polygons[~gone], solid.owner[~gone])
    sparse = Pieces(
        np.concatenate([parts.sparse.polygons, solid.polygons[gone]]),
        np.concatenate([parts.sparse.owner, solid.owner[gone]]),
    )
    count = len(outlines.islands)
    owners = np.unique(solid.owner[gone])
    merged = collect_union(sparse, count, owners)
    return FillAreas(kept, explode(merged, 0.02), parts.small)


def collect_union(pieces: Pieces, count: int, touched: np.ndarray) -> np.ndarray:
    """(count,) areas of pieces that may share edges: those of the entries ``touched`` are
    united.
    """
    out = np.full(count, EMPTY, object)
    apart = ~np.isin(pieces.owner, touched)
    out[:] = collect(Pieces(pieces.polygons[apart], pieces.owner[apart]), count)
    here = ~apart
    out[touched] = united(Pieces(pieces.polygons[here], pieces.owner[here]), count)[touched]
    return out


def _common(
    areas: np.ndarray, first: np.ndarray, count: np.ndarray, wanted: np.ndarray, kind: Kind
) -> np.ndarray:
    """(N,) intersection of ``count`` areas from ``first`` on, where ``wanted``; beyond either end
    there is nothing.

    Ranges are put together from runs of powers of two, so that a range of n areas costs about log n
    booleans; only the runs that some wanted range is made of are computed.
    """
    total = len(areas)
    out = np.full(total, kind.everything(), object)
    inside = (first >= 0) & (first + count <= total)
    out[(count > 0) & ~inside] = kind.nothing()
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
            longer[k] = kind.common(run[k], run[k + half])
            run = longer
        here = level == p
        out[index[here]] = kind.common(run[begin[here]], run[end[here]])
    return out
