"""Where a plan stands and where the head is while it is laid, by height: the two sides of the
question whether the head hits what is finished.

While the tip is at m, an outline O of the head, counted from height c above it, stands over m + O;
over all m of an area M that is the Minkowski sum M ⊕ O. What is finished is hit where it is taller
than z + c there. For upright parts the lowest slab decides; higher ones count only where they reach
further.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
import shapely

from northpace.beds.head import HeadOutline
from northpace.geometry.polygons import difference, intersection, rounded, together, union

#: Height of the slabs that plans are looked at in (mm).
SLAB = 2.0
#: Detail that does not count (mm), and area that is none (mm²).
DETAIL, NOTHING = 0.02, 0.02
#: What parts lay is kept to this (mm): as finely as it was cut, or rounds lose every other corner,
#: some of them those they touch with.
CORNERS = 0.01
#: Half the width that a way is given so that it has an area (mm).
THREAD = 0.02


class Level(NamedTuple):
    """Something at a height."""

    #: mm
    z: float
    area: shapely.Geometry


@dataclass(frozen=True)
class Standing:
    """A plan on the bed, about the middle of its part."""

    #: everything that is laid, its footing included
    footprint: shapely.Geometry
    #: what stands above a height, the lowest first; each holds up to the next
    above: tuple[Level, ...]
    #: where the tip is from a height on, the lowest first, each where it goes beyond those below
    tip: tuple[Level, ...]
    top: float

    def taller_than(self, z: float) -> shapely.Geometry | None:
        """What of it stands above a height in mm; None for nothing."""
        if z >= self.top - 1e-6:
            return None
        found = self.above[0].area
        for level in self.above:
            if level.z > z + 1e-6:
                break
            found = level.area
        return found


def standing(
    tops: np.ndarray, areas: np.ndarray, ways: list[shapely.Geometry], by_layer: bool = False
) -> Standing:
    """Visits (V,) with the tops of their beads in mm, the areas they lay, and the lines of the ways
    of the tip in them that leave those areas; in slabs, or every layer by itself.
    """
    top = float(tops[-1])
    inner = tops if by_layer else np.arange(SLAB, top, SLAB)
    edges = np.unique(np.round(np.r_[0.0, inner, top], 4))
    slab = np.clip(np.searchsorted(edges, tops - 1e-4, "left") - 1, 0, len(edges) - 2)
    thin = shapely.simplify(areas, CORNERS)
    inside = [_all_of(thin[slab == k]) for k in range(len(edges) - 1)]
    return Standing(
        _all_of(np.array(inside, object)),
        _above(edges, inside),
        _tip(tops, slab, inside, ways),
        top,
    )


def _all_of(areas: np.ndarray) -> shapely.Geometry:
    return shapely.simplify(together(areas), CORNERS)


def _above(edges: np.ndarray, inside: list[shapely.Geometry]) -> tuple[Level, ...]:
    out: list[Level] = []
    whole = shapely.Polygon()
    for k in range(len(inside) - 1, -1, -1):
        more = union(whole, inside[k])
        if out and shapely.area(more) - shapely.area(whole) <= NOTHING:
            out[-1] = Level(float(edges[k]), out[-1].area)
            continue
        out.append(Level(float(edges[k]), more))
        whole = more
    return tuple(reversed(out))


def _tip(
    tops: np.ndarray, slab: np.ndarray, inside: list[shapely.Geometry], ways: list[shapely.Geometry]
) -> tuple[Level, ...]:
    out: list[Level] = []
    reached = shapely.Polygon()
    for k, own in enumerate(inside):
        mine = np.flatnonzero(slab == k)
        if not len(mine):
            continue
        lines = [ways[v] for v in mine if not ways[v].is_empty]
        threads = rounded(
            np.array([own, *lines], object), np.r_[0.0, np.full(len(lines), THREAD)], 1
        )
        area = together(threads) if lines else own
        beyond = difference(area, rounded(reached, 2 * DETAIL, 2))
        if shapely.area(beyond) > NOTHING:
            out.append(Level(float(tops[mine].min()), area))
            reached = union(reached, area)
    return tuple(out)


def turned_about(area: shapely.Geometry, cosine: float, sine: float) -> shapely.Geometry:
    """An area turned about the origin."""
    matrix = np.array([[cosine, sine], [-sine, cosine]])
    return shapely.transform(area, lambda points: points @ matrix)


def moved(area: shapely.Geometry, by: np.ndarray) -> shapely.Geometry:
    """An area moved by (2,) mm."""
    return shapely.transform(area, lambda points: points + by)


def swept(area: shapely.Geometry, corners: np.ndarray) -> shapely.Geometry:
    """What a convex outline (C, 2) covers while its origin is anywhere in an area: the outlines
    along every edge of it, and the area itself, put where a corner of the outline is.
    """
    pieces = [moved(area, corners[0]), *_along_edges(area, corners)]
    return shapely.simplify(together(np.array(pieces, object)), DETAIL)


class Sweep(NamedTuple):
    """What the head covers while a plan is laid, from a height on."""

    #: mm above the bed from which what is finished is hit
    over: float
    area: shapely.Geometry
    #: (4,) its bounds
    box: np.ndarray
    #: which outline of the head
    name: str


class Turned:
    """A plan turned about z: where it stands, and what the head covers while it is laid."""

    def __init__(
        self,
        standing: Standing,
        head: list[HeadOutline],
        by_layer: Callable[[], Turned] | None = None,
    ) -> None:
        """``by_layer`` gives the same by every layer instead of slabs; it takes a while."""
        self.standing, self.head, self._by_layer = standing, head, by_layer
        self._cores: dict[int, shapely.Geometry] = {}

    @property
    def top(self) -> float:
        """How tall it stands, in mm."""
        return self.standing.top

    def core_taller_than(self, z: float) -> shapely.Geometry | None:
        """What of it stands above a height in mm, without the outermost `DETAIL`, which the head
        may touch; None for nothing. It is kept, because it is asked for again and again.
        """
        area = self.standing.taller_than(z)
        if area is None:
            return None
        if id(area) not in self._cores:
            self._cores[id(area)] = rounded(area, -DETAIL, 2)
        return self._cores[id(area)]

    @cached_property
    def exact(self) -> Turned:
        """The same by every layer."""
        return self if self._by_layer is None else self._by_layer()

    @cached_property
    def sweeps(self) -> tuple[Sweep, ...]:
        """What every outline of the head covers, the lowest first; higher up only where that is
        more, because what is finished only gets narrower.
        """
        out = []
        for part in self.head:
            covered = shapely.Polygon()
            for tip in self.standing.tip:
                thin = shapely.simplify(tip.area, 2 * DETAIL)
                area = rounded(swept(thin, part.corners), -DETAIL, 2)
                beyond = difference(area, rounded(covered, 3 * DETAIL, 2))
                if shapely.area(beyond) <= NOTHING:
                    continue
                covered = union(covered, area)
                shapely.prepare(area)
                out.append(Sweep(tip.z + part.height, area, np.array(area.bounds), part.name))
        return tuple(out)


def turned(
    plain: Standing,
    cosine: float,
    sine: float,
    head: list[HeadOutline],
    by_layer: Callable[[], Standing] | None = None,
) -> Turned:
    """A plan turned, under a head; ``by_layer`` gives how it stands by every layer."""

    def level(one: Level) -> Level:
        return Level(one.z, turned_about(one.area, cosine, sine))

    own = Standing(
        turned_about(plain.footprint, cosine, sine),
        tuple(map(level, plain.above)),
        tuple(map(level, plain.tip)),
        plain.top,
    )
    if by_layer is None:
        return Turned(own, head)
    return Turned(own, head, lambda: turned(by_layer(), cosine, sine, head))


def hit(laid: Turned, finished: Turned, away: np.ndarray) -> str:
    """The name of the outline of the head that hits a finished placing, "" if none does. The
    finished placing stands ``away`` (2,) mm from the one that is being laid.

    Slabs are larger than the layers in them. If the head does not hit a slab it hits nothing.
    Otherwise it is tested layer by layer, with the areas around the place where they could meet.
    """
    if not may_hit(laid, finished, away):
        return ""
    tips, other = laid.exact.standing.tip, finished.exact
    for part in laid.head:
        low, high = part.corners.min(axis=0), part.corners.max(axis=0)
        for tip in tips:
            tall = other.core_taller_than(tip.z + part.height)
            if tall is None:
                break
            over = np.array(tip.area.bounds) + np.r_[low, high]
            near = _within_box(moved(tall, away), over, 4 * DETAIL)
            if shapely.is_empty(near):
                continue
            area = _within_box(tip.area, np.array(near.bounds) - np.r_[high, low], DETAIL)
            if not shapely.is_empty(area) and _sweeps_over(area, part.corners, near):
                return part.name
    return ""


def _within_box(area: shapely.Geometry, box: np.ndarray, more: float) -> shapely.Geometry:
    """The part of an area within ``more`` mm of a box, given by its bounds (4,)."""
    low, high = box[:2] - more, box[2:] + more
    bounds = np.array(area.bounds)
    if (bounds[:2] >= low).all() and (bounds[2:] <= high).all():
        return area
    if (bounds[:2] > high).any() or (bounds[2:] < low).any():
        return shapely.Polygon()
    return intersection(area, shapely.box(*low, *high))


def _sweeps_over(area: shapely.Geometry, corners: np.ndarray, other: shapely.Geometry) -> bool:
    """Whether a convex outline (C, 2) meets the ``other`` area while its origin moves through an
    ``area``.
    """
    if shapely.intersects(moved(area, corners[0]), other):
        return True
    shapely.prepare(other)
    return bool(shapely.intersects(_along_edges(area, corners), other).any())


def _along_edges(area: shapely.Geometry, corners: np.ndarray) -> np.ndarray:
    """(E,) what a convex outline (C, 2) covers while its origin moves along each edge of an
    area.
    """
    found = []
    for ring in shapely.get_rings(shapely.get_parts(area)):
        points = shapely.get_coordinates(ring)
        edges = np.stack([points[:-1], points[1:]], axis=1)
        corner = (edges[:, :, None, :] + corners[None, None]).reshape(len(edges), -1, 2)
        found.append(shapely.convex_hull(shapely.multipoints(corner)))
    return np.concatenate(found)


def may_hit(laid: Turned, finished: Turned, away: np.ndarray) -> str:
    """The same as far as slabs tell, which is never too little; ``away`` is (2,), in mm."""
    low, high = np.array(finished.standing.footprint.bounds).reshape(2, 2) + away
    for sweep in laid.sweeps:
        if (sweep.box[:2] > high).any() or (sweep.box[2:] < low).any():
            continue
        tall = finished.standing.taller_than(sweep.over)
        if tall is None:
            continue
        if shapely.intersects(sweep.area, moved(tall, away)):
            return sweep.name
    return ""
