"""Stands that branch: many small points under what leans out, gathered on the way down to few feet,
clear of the part.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely
from scipy.spatial import cKDTree

from northpace.geometry.polygons import (
    EMPTY,
    Pieces,
    collect,
    difference,
    explode,
    intersection,
    offset,
    rounded,
    union,
    united,
)
from northpace.outlines.sections import Outlines
from northpace.paths.supports.columns import GRAIN, LEAST_SHARED, floor_under, resting_on
from northpace.spec import Supports

#: Radius (mm) of a branch at its tip and at most, and by how much it widens for each mm down.
TIP, THICKEST, WIDER = 0.8, 3.0, 0.03
#: A branch widens by at most so many mm from a layer to the next one down. Two branches become one
#: where their middles are closer than so many mm.
SWELLS, MEET = 0.1, 0.25
#: A foot widens towards the bed over so many mm, by up to so many.
FOOT_TALL, FOOT_WIDER = 1.5, 1.5


class Course(NamedTuple):
    """Where branches are, layer by layer from the top."""

    #: (C,) layer, (C, 2) middle and (C,) radius in mm of every cut through a branch
    layer: np.ndarray
    middle: np.ndarray
    radius: np.ndarray
    #: (C,) number of the branch, and for each branch (B,) whether it ends on the bed
    branch: np.ndarray
    on_bed: np.ndarray


def branches(
    demand: np.ndarray, beside: np.ndarray, outlines: Outlines, rules: Supports
) -> np.ndarray:
    """(N,) what stands in every layer under demands (N,), clear of ``beside`` (N,): the demands
    themselves for the thickness of a roof, and branches below.
    """
    tops, heights = outlines.tops, outlines.heights
    tall = max(rules.roof, 2.5 * float(np.median(heights)))
    caps = _caps(demand, beside, tops, tall)
    course = _course(demand, caps, beside, outlines, rules, tall)
    keep = course.on_bed[course.branch] | (rules.origin == "anywhere")
    foot = np.maximum(FOOT_TALL - (tops - heights)[course.layer], 0.0) / FOOT_TALL * FOOT_WIDER
    cuts = rounded(
        shapely.points(course.middle[keep]),
        course.radius[keep] + foot[keep] * course.on_bed[course.branch[keep]],
        6,
    )
    trunks = united(Pieces(cuts, course.layer[keep]), len(demand))
    # a roof goes no further than branches carry it
    near = rounded(shapely.points(course.middle[keep]), rules.branch_apart, 4)
    carried = united(Pieces(near, course.layer[keep]), len(demand))
    trunks = difference(trunks, beside)
    roofs = explode(intersection(caps, carried))
    held = shapely.area(intersection(roofs.polygons, trunks[roofs.owner])) > LEAST_SHARED
    roofs = Pieces(roofs.polygons[held], roofs.owner[held])
    return union(collect(roofs, len(demand)), trunks)


def branches_standing(
    areas: np.ndarray, ground: np.ndarray, width: float
) -> tuple[np.ndarray, np.ndarray]:
    """Remove every part of the branches (N,) that would hang in the air. A branch that found no way
    between two walls ends there, and all that would stand on it is removed as well.

    ``ground`` (N,) is the part on which a branch may begin, ``width`` that of the beads in mm.
    Returns the branches (N,), and the ground (N,) they stand on.
    """
    out, floor = areas.copy(), np.full(len(areas), EMPTY, object)
    for k in range(1, len(out)):  # each layer needs the one below it
        if not shapely.is_empty(out[k]):
            floor[k] = floor_under(out[k], ground[k], width)
            out[k] = resting_on(out[k], union(out[k - 1], floor[k]))
    return out, floor


def _caps(demand: np.ndarray, beside: np.ndarray, tops: np.ndarray, tall: float) -> np.ndarray:
    """(N,) demands, and what lies less than ``tall`` mm under them."""
    caps = demand.copy()
    for step in range(1, len(tops)):
        index = np.flatnonzero(tops[step:] - tops[:-step] < tall - 1e-6)
        if not len(index):
            break
        index = index[~shapely.is_empty(demand[index + step])]
        caps[index] = union(caps[index], demand[index + step])
    some = np.flatnonzero(~shapely.is_empty(caps))
    caps[some] = difference(caps[some], beside[some])
    return caps


def _course(
    demand: np.ndarray,
    caps: np.ndarray,
    beside: np.ndarray,
    outlines: Outlines,
    rules: Supports,
    tall: float,
) -> Course:
    """Follow all branches down. They stay upright within the top ``tall`` mm, the thickness of
    their roofs, and lean below that.
    """
    asked = np.flatnonzero(~shapely.is_empty(demand))
    growing = _Growing(rules)
    top = int(asked.max()) if len(asked) else -1
    near = offset(beside[: top + 1], TIP)
    steps = np.tan(np.radians(rules.branch_lean)) * outlines.heights
    closed = _closed(near, steps)
    for k in range(top, -1, -1):
        if not shapely.is_empty(demand[k]):
            growing.begin(caps[k], closed[k], float(outlines.tops[k]) - tall)
        if k < top:
            growing.gather(steps[k], float(outlines.tops[k]), float(outlines.heights[k]))
        growing.keep_clear(closed[k], beside[k], outlines.areas[k], steps[k])
        growing.note(k)
    return growing.course()


def _closed(near: np.ndarray, steps: np.ndarray) -> np.ndarray:
    """(N,) where a branch may not be if it is to reach the bed: the part with its clearance (N,),
    and what lies over it further in than a branch leans away.
    """
    out = np.full(len(near), EMPTY, object)
    running = EMPTY
    for k in range(len(near)):
        if not shapely.is_empty(running):
            running = offset(np.array([running], object), -steps[k])[0]
        running = union(running, near[k]) if not shapely.is_empty(near[k]) else running
        out[k] = running = shapely.simplify(running, GRAIN)
    return out


class _Growing:
    """Branches that are under way down."""

    def __init__(self, rules: Supports) -> None:
        self.apart = rules.branch_apart
        self.bed_only = rules.origin == "bed"
        self.lean = float(np.tan(np.radians(rules.branch_lean)))
        #: middle and radius in mm, and the radius in mm that it grows to
        self.at, self.radius, self.meant = np.empty((0, 2)), np.empty(0), np.empty(0)
        self.number, self.free = np.empty(0, np.int64), np.empty(0, bool)
        #: each leans below this height in mm
        self.leans = np.empty(0)
        self.count = 0
        #: which branch each goes on in
        self.into = np.empty(0, np.int64)
        self.cuts: list[tuple[int, np.ndarray, np.ndarray, np.ndarray]] = []

    def begin(self, area: shapely.Geometry, closed: shapely.Geometry, leans: float) -> None:
        """Begin new tips below an area: along its border, on a grid where no other tip is near, and
        at least one in every piece. They stay upright down to the height ``leans`` (mm).
        """
        if shapely.is_empty(area):
            return
        rim = _scattered(_rim(area, self.apart), self.at, 0.6 * self.apart)
        grid = _scattered(_grid(area, self.apart), self.at, 0.6 * self.apart)
        grid = np.concatenate([rim, _scattered(grid, rim, 0.3 * self.apart)])
        pieces = shapely.get_parts(area)
        known = shapely.multipoints(np.concatenate([self.at, grid]))
        bare = pieces[~shapely.intersects(pieces, known)]
        kept = np.concatenate([grid, shapely.get_coordinates(shapely.point_on_surface(bare))])
        free = ~_within(closed, kept)
        if self.bed_only:
            kept, free = kept[free], free[free]
        self.at = np.concatenate([self.at, kept])
        self.radius = np.concatenate([self.radius, np.full(len(kept), TIP)])
        self.meant = np.concatenate([self.meant, np.full(len(kept), TIP)])
        self.number = np.concatenate([self.number, self.count + np.arange(len(kept))])
        self.free = np.concatenate([self.free, free])
        self.leans = np.concatenate([self.leans, np.full(len(kept), leans)])
        self.into = np.concatenate([self.into, self.count + np.arange(len(kept))])
        self.count += len(kept)

    def gather(self, step: float, z: float, height: float) -> None:
        """Go one layer down: every branch moves towards its nearest neighbour, if the two can meet
        above the bed. They become one only where their middles meet. If they were joined sooner
        the wall would jump, and a jump leaves the wall above it with nothing to stand on.
        """
        self.meant = np.minimum(self.meant + WIDER * height, THICKEST)
        self.radius = np.minimum(self.radius + SWELLS, self.meant)
        if len(self.at) < 2:
            return
        away, other = cKDTree(self.at).query(self.at, 2)
        away, other = away[:, 1], other[:, 1]
        meets = (away / 2 < self.lean * z) & (z < self.leans + 1e-6)
        pull = np.where(meets, np.minimum(step, away / 2), 0.0)
        self.at = self.at + (self.at[other] - self.at) * (pull / np.maximum(away, 1e-9))[:, None]
        mine = np.arange(len(self.at))
        now = np.linalg.norm(self.at - self.at[other], axis=1)
        pair = (
            (other[other] == mine)
            & (mine < other)
            & (z < np.minimum(self.leans, self.leans[other]) + 1e-6)
            & (now < MEET)
        )
        one, two = mine[pair], other[pair]
        self.at[one] = (self.at[one] + self.at[two]) / 2
        self.radius[one] = np.maximum(self.radius[one], self.radius[two])
        self.meant[one] = np.minimum(np.hypot(self.meant[one], self.meant[two]), THICKEST)
        self.free[one] &= self.free[two]
        self.into[self.number[two]] = self.number[one]
        self._drop(two)

    def keep_clear(
        self,
        closed: shapely.Geometry,
        beside: shapely.Geometry,
        part: shapely.Geometry,
        step: float,
    ) -> None:
        """Branches are kept out of what is ``closed`` to them; those that have no way to the bed go
        on down, past walls they come too near to (``beside``), until they stand on the part.
        """
        if not len(self.at):
            return
        inside = self.free & _within(closed, self.at)
        self.free[self._moved_out(inside, closed, 2 * step + 2 * GRAIN)] = False
        inside = ~self.free & _within(beside, self.at) & ~_within(part, self.at)
        self._moved_out(inside, beside, 0.75 * TIP)
        # over the part it stands, and where it cannot go past it neither
        self._drop(~self.free & _within(beside, self.at))

    def _moved_out(self, which: np.ndarray, area: shapely.Geometry, most: float) -> np.ndarray:
        """Move branches (B,) out of an area, each by no more than so many mm; the numbers (K,) of
        those it is too far for.
        """
        index = np.flatnonzero(which)
        if not len(index):
            return index
        out = shapely.shortest_line(shapely.points(self.at[index]), shapely.boundary(area))
        way = shapely.get_coordinates(out).reshape(-1, 2, 2)[:, 1] - self.at[index]
        far = np.linalg.norm(way, axis=1)
        can = far < most
        self.at[index[can]] += way[can] * (1 + 1e-3 / np.maximum(far[can], 1e-9))[:, None]
        return index[~can]

    def _drop(self, which: np.ndarray) -> None:
        keep = np.ones(len(self.at), bool)
        keep[which] = False  # a mask or numbers
        self.at, self.radius = self.at[keep], self.radius[keep]
        self.number, self.free = self.number[keep], self.free[keep]
        self.leans, self.meant = self.leans[keep], self.meant[keep]

    def note(self, layer: int) -> None:
        """Keep where branches are in a layer."""
        if len(self.at):
            self.cuts.append((layer, self.at.copy(), self.radius.copy(), self.number.copy()))

    def course(self) -> Course:
        """All that was noted; who is still under way ends on the bed."""
        root = self.into
        while (root != root[root]).any():
            root = root[root]
        bed = np.zeros(self.count, bool)
        bed[self.number] = True
        if not self.cuts:
            nothing = np.empty(0)
            return Course(
                nothing.astype(np.int64), np.empty((0, 2)), nothing, nothing.astype(np.int64), bed
            )
        layer = np.concatenate([np.full(len(at), k) for k, at, _, _ in self.cuts])
        return Course(
            layer,
            np.concatenate([at for _, at, _, _ in self.cuts]),
            np.concatenate([radius for _, _, radius, _ in self.cuts]),
            np.concatenate([number for _, _, _, number in self.cuts]),
            bed[root],
        )


def _within(area: shapely.Geometry, points: np.ndarray) -> np.ndarray:
    """(P,) whether points (P, 2) lie in an area or on its border; none lies in one that is
    empty.
    """
    # the distance from what is empty is no number, and no comparison with it holds
    return np.asarray(shapely.distance(area, shapely.points(points)) <= 0)


def _grid(area: shapely.Geometry, apart: float) -> np.ndarray:
    """(P, 2) points of a grid that lie over an area. The grid is the same for every layer, so that
    tips of one lie over those of the next.
    """
    low_x, low_y, high_x, high_y = shapely.bounds(area)
    x = np.arange(np.ceil(low_x / apart), np.floor(high_x / apart) + 1) * apart
    y = np.arange(np.ceil(low_y / apart), np.floor(high_y / apart) + 1) * apart
    grid = np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)
    return grid[shapely.contains_xy(area, grid[:, 0], grid[:, 1])] if len(grid) else grid


def _rim(area: shapely.Geometry, apart: float) -> np.ndarray:
    """(P, 2) points along the border of an area, at most ``apart`` mm from each other and inside by
    the radius of a tip. There are none where the area is too narrow for that.
    """
    rings = shapely.get_parts(shapely.boundary(offset(np.array([area], object), -TIP)[0]))
    spots = [
        shapely.line_interpolate_point(ring, np.arange(count) / count, normalized=True)
        for ring in rings
        if (count := int(np.ceil(shapely.length(ring) / apart))) > 1
    ]
    return shapely.get_coordinates(np.concatenate(spots)) if spots else np.empty((0, 2))


def _scattered(points: np.ndarray, taken: np.ndarray, apart: float) -> np.ndarray:
    """Points (P, 2) that are so far from those taken (T, 2)."""
    if not len(taken) or not len(points):
        return points
    return points[cKDTree(taken).query(points)[0] > apart]
