"""What a plan lays in its layers, from the part profile, without laying a path."""

from __future__ import annotations

from typing import Any

import numpy as np

from northpace.infill import PATTERNS
from northpace.outlines.profile import DEPTHS, REACHES, WALL_DEPTHS, Profile
from northpace.paths.bead import spacing, width_for
from northpace.paths.walls.lanes import LEAST_FIT
from northpace.paths.walls.loops import wall_count
from northpace.paths.walls.rings import NARROWEST
from northpace.paths.walls.thin import narrowest
from northpace.spec import Body, PlanSpec

#: Settings that say how many walls are laid, and what of a layer they take.
WALLS_READ = (
    *("body.build", "body.walls", "body.wall_thickness", "body.outer_width", "body.inner_width"),
    # the width of solid lines is that of beads between walls where none fits
    *("body.fill_gaps", "body.solid_width", "surface.outline_offset"),
)
#: Settings that say what is laid, whatever its speed.
LAID_READ = (
    *WALLS_READ,
    *("body.top_thickness", "body.top_layers", "body.bottom_thickness", "body.bottom_layers"),
    *("body.tie_length", "body.floor_every", "body.infill_density", "body.infill_pattern"),
    *("body.infill_width", "body.infill_every"),
    *("supports.enabled", "supports.decided", "supports.density", "supports.width"),
    *("machine.nozzle", "machine.greatest_height"),
)
#: By feature: lengths (n,) in mm that are laid, bead widths in mm, and straight runs in mm between
#: two turns where they are not those of `rates.TYPICAL`.
Lengths = tuple[dict[str, np.ndarray], dict[str, float | np.ndarray], dict[str, float | np.ndarray]]
#: Lengths (n,) in mm of outer walls, inner walls and beads between them, width of those beads,
#: depth of the walls, and the area inside them.
Walls = tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray]


def lengths_of(
    profile: Profile, spec: PlanSpec, heights: np.ndarray, walls: Walls | None = None
) -> Lengths:
    """What a plan without bands lays in layers of ``heights`` (N,) mm, whatever its speeds. Only
    `LAID_READ` is read of the settings.

    ``walls`` are those of `walls_of`, where another plan with the same walls has asked before.
    """
    middle = np.cumsum(heights) - heights / 2
    return laid_in(profile, spec, level_of(profile, middle), heights, walls)


def walls_of(profile: Profile, spec: PlanSpec, heights: np.ndarray) -> Walls:
    """The walls of layers of these ``heights`` (N,), in mm. Only `WALLS_READ` is read of the
    settings.
    """
    return _walls(profile, spec, level_of(profile, np.cumsum(heights) - heights / 2), heights)


def level_of(profile: Profile, z: np.ndarray) -> np.ndarray:
    """The level of the profile that stands for heights in mm."""
    return np.clip((z / profile.edges[1]).astype(np.int64), 0, len(profile.levels) - 1)


def laid_in(
    profile: Profile,
    spec: PlanSpec,
    levels: np.ndarray,
    heights: np.ndarray,
    walls: Walls | None = None,
) -> Lengths:
    """Millimetres laid in each layer and the width of its beads, by feature; ``levels`` (N,) are
    the rows of the profile that layers of ``heights`` (N,) lie in, in mm.
    """
    lengths, widths, runs = _lengths(
        profile, spec, levels, heights, walls or _walls(profile, spec, levels, heights)
    )
    if spec.supports.by_angle and profile.stand is not None:
        width, density = spec.supports.width, spec.supports.density / 100
        lane = spacing(np.full(len(heights), width), heights)
        lengths["support"], widths["support"] = profile.stand[levels] * density / lane, width
    return lengths, widths, runs


def _as_spiral(body: Body) -> Body:
    body = body.as_laid()
    return (
        body.model_copy(update={"walls": 1, "wall_thickness": None, "fill_gaps": False})
        if body.build == "spiral"
        else body
    )


class _Behind:
    """What lies behind the outlines of layers, at levels (n,) of the profile."""

    def __init__(self, profile: Profile, at: np.ndarray, offset: float) -> None:
        self.profile, self.at, self.offset = profile, at, offset

    def __call__(self, depth: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Area (mm²) and length of its border (mm) at a depth (n,) in mm behind the outline; where
        the outline is moved outward, also in front of that of the part.
        """
        depth = depth - self.offset
        area, length = self._inside(np.maximum(depth, 0.0))
        out = np.maximum(-depth, 0.0)
        # outer borders grow by a circle, those of holes shrink by one (Steiner's formula)
        circles = np.pi * (2 * self.profile.islands[self.at] - self.profile.rings[self.at])
        return area + out * length + circles * out**2, np.maximum(length + 2 * circles * out, 0.0)

    def _inside(self, depth: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """The same inside the part. In the step of the table where the area ends, it shrinks by its
        length times the way.
        """
        profile, at = self.profile, self.at
        outline, perimeter = profile.area[at], profile.perimeter[at]
        low, part = _between(DEPTHS, depth)
        pitch = DEPTHS[low + 1] - DEPTHS[low]
        a, b = profile.depth_area[at, low] * outline, profile.depth_area[at, low + 1] * outline
        p, q = (
            profile.depth_length[at, low] * perimeter,
            profile.depth_length[at, low + 1] * perimeter,
        )
        # most of it ends within the step: the slivers left over must not stand for the rest
        ends = (b <= 0) | (q < 0.3 * p)
        shrunk = a - p * part * pitch
        left = np.where(ends, np.maximum(shrunk, b), a + part * (b - a))
        return left, np.where(ends, np.where(shrunk > b, p, q), p + part * (q - p))


def _walls(profile: Profile, spec: PlanSpec, at: np.ndarray, heights: np.ndarray) -> Walls:
    """The walls in layers (n,), from the areas and lengths behind the outline."""
    body, behind = _as_spiral(spec.body), _Behind(profile, at, spec.surface.outline_offset)
    count = wall_count(body, float(np.median(heights)))
    width = body.outer_width
    depth = (
        (width - spacing(np.full(len(heights), width), heights)) / 2
        if count
        else np.zeros(len(heights))
    )
    outer, inner, gap = (np.zeros(len(heights)) for _ in range(3))
    bead = np.full(len(heights), body.solid_width)
    hollow = profile.rings[at] > profile.islands[at]
    for k in range(count):
        width = body.outer_width if k == 0 else body.inner_width
        lane = spacing(np.full(len(heights), width), heights)
        half = narrowest(np.full(len(heights), width), heights) / 2
        if k:
            # between inner walls an even ring is laid narrower than a bead along a middle line
            half = np.where(hollow, np.minimum(half, NARROWEST * lane / 2), half)
        # A strip vanishes where the depth passes its middle, and takes twice its length off the
        # length of what is left: strips too thin for two beads but wide enough for one vanish
        # between these depths.
        (small, around), (two, both) = behind(depth + half), behind(depth + LEAST_FIT * lane)
        gone = around - both
        strips = np.where(gone > 0.05 * around, gone / 2, 0.0)
        line = np.where(strips > 0, both, behind(depth + lane / 2)[1])
        if k == 0:
            outer += line + strips
        else:
            inner += line
            gap += strips
            reach = LEAST_FIT * lane - half
            middle = half + np.clip((small - two - reach * both) / np.maximum(gone, 1e-9), 0, reach)
            bead = np.where(strips > 0, width_for(2 * middle, heights), bead)
        depth = depth + lane
    return outer, inner, gap, bead, depth, behind(depth)[0]


def _lengths(
    profile: Profile, spec: PlanSpec, at: np.ndarray, heights: np.ndarray, walls: Walls
) -> Lengths:
    """Length in mm laid of every feature in layers (n,), the bead widths and the straight runs."""
    body = _as_spiral(spec.body)
    outer, inner, gap, bead, depth, inside = walls
    solid = (
        inside if body.infill_density >= 100 else inside * _open(profile, at, heights, body, depth)
    )
    if body.floor_every:
        # one layer in so many millimetres is solid; every layer stands for its share of those
        solid = solid + (inside - solid) * np.minimum(heights / body.floor_every, 1.0)
    lane = spacing(np.full(len(heights), body.solid_width), heights)
    # several layers of infill at once: the same volume in fewer, taller beads
    at_once = np.clip(
        np.floor(min(spec.machine.h_max, body.infill_width) / heights + 1e-6), 1, body.infill_every
    )
    thread = at_once * spacing(
        np.full(len(heights), body.infill_width),
        np.minimum(at_once * heights, 0.95 * body.infill_width),
    )
    pattern = PATTERNS[body.infill_pattern]
    density = min(body.infill_density, 100) / 100
    sparse = inside - solid
    if pattern.bears:
        sparse = sparse * _borne(profile, float(np.mean(depth)))[at]
    lengths = {
        "outer-wall": outer,
        "inner-wall": inner,
        "gap": gap,
        "solid": solid / lane,
        "infill": sparse * density / thread,
    }
    runs: dict[str, float | np.ndarray] = {}
    if density > 0 and (pattern.straight_from is None or density < pattern.straight_from):
        pitches, more = pattern.straight
        # lines end at the walls, too
        room = np.sqrt(np.maximum(sparse / np.maximum(profile.islands[at], 1), 1.0))
        runs["infill"] = 1 / (1 / (pitches * thread / at_once / density + more) + 1 / room)
    widths: dict[str, float | np.ndarray] = {
        "outer-wall": body.outer_width,
        "inner-wall": body.inner_width,
        "gap": bead,
        "solid": body.solid_width,
        "infill": body.infill_width,
    }
    return lengths, widths, runs


def _borne(profile: Profile, depth: float) -> np.ndarray:
    """(L,) which share of the room inside the walls vault infill fills at every level.

    ``depth`` is that of the walls in mm. Below a roof a hollow begins that becomes wider in all
    directions by as much as one goes down, until it reaches the walls. The room is taken for a
    rectangle of the same area and length around. Where a room is larger than the one above it, the
    difference is a roof, and the hollow is smaller by that share.
    """
    low, part = _between(DEPTHS, np.array([depth]))
    share = profile.depth_area[:, low] * (1 - part) + profile.depth_area[:, low + 1] * part
    count = np.maximum(profile.islands, 1)
    area, half = profile.area * share[:, 0] / count, profile.perimeter / count / 2
    wide = (half - np.sqrt(np.maximum(half**2 - 4 * area, 0.0))) / 2
    wide = np.where(half**2 > 4 * area, wide, np.sqrt(np.maximum(area, 0.0)))
    reach, steps = np.zeros(len(area)), np.diff(profile.edges)
    for k in range(len(area) - 2, -1, -1):  # some fifty levels, each of which needs the one above
        same = min(1.0, area[k + 1] / area[k]) if area[k] > LEAST_ROOM else 0.0
        reach[k] = (reach[k + 1] + steps[k]) * same
    reach = np.maximum(reach, 1e-6)
    inside = np.minimum(wide / 2, reach)
    # the hollow is a disc between two parallel walls
    hollow = 2 * (inside * np.sqrt(reach**2 - inside**2) + reach**2 * np.arcsin(inside / reach))
    # the corners of the room are filled longest
    open_ = hollow / np.maximum(area, 1e-9)
    left = np.where(open_ < 0.7, 1 - open_, 0.3 * np.clip((1.57 - open_) / 0.87, 0, 1) ** 2)
    return np.asarray(np.where(area > LEAST_ROOM, left, 1.0))


#: In a room smaller than this (mm²) vault infill has no hollow.
LEAST_ROOM = 4.0
#: A share of the inside that is open counts from here on: less is the grain of the table.
LEAST_OPEN = 0.004


def _open(
    profile: Profile, at: np.ndarray, heights: np.ndarray, body: Any, depth: np.ndarray
) -> np.ndarray:
    """(n,) share of the area inside the walls that lies within the solid thickness of open air, in
    layers of the same height.
    """
    free = np.zeros(len(at))
    for thickness, layers, table in (
        (body.top_thickness, body.top_layers, profile.open_up),
        (body.bottom_thickness, body.bottom_layers, profile.open_down),
    ):
        reach = np.maximum(np.ceil(thickness / heights - 1e-6), layers) * heights
        r, far = _between(REACHES, reach)
        w, deep = _between(WALL_DEPTHS, depth)
        # what is open reaches further in by the tie, where anything is open at all
        tied, back = _between(WALL_DEPTHS, np.maximum(depth - body.tie_length, WALL_DEPTHS[0]))

        there = table[at, r] * (1 - far)[:, None] + table[at, r + 1] * far[:, None]
        open_, further = (
            np.take_along_axis(there, k[:, None], 1)[:, 0] * (1 - part)
            + np.take_along_axis(there, k[:, None] + 1, 1)[:, 0] * part
            for k, part in ((w, deep), (tied, back))
        )
        free += np.where(open_ > LEAST_OPEN, np.maximum(further, open_), open_)
    return np.clip(free, 0, 1)


def _between(grid: np.ndarray, values: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Index of the interval and place in it (0 to 1) of values on a rising grid, held at
    its ends.
    """
    low = np.clip(np.searchsorted(grid, values, "right") - 1, 0, len(grid) - 2)
    return low, np.clip((values - grid[low]) / (grid[low + 1] - grid[low]), 0, 1)
