"""The quick estimate (≈): time and filament from the part profile, without laying a path.

Lengths come from areas and perimeters; each feature's mean speed from its typical run between two
corners. Where an exact plan of the same part exists, the ratio between exact and quick figures of
that plan corrects each feature.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from northpace.material.amounts import amounts
from northpace.motion.pace import acceleration_of, safe_flow, start_seconds
from northpace.motion.table import pace_rows
from northpace.moves import INFILL, INNER, SOLID, SUPPORT
from northpace.outlines.profile import DEPTHS, REACHES, WALL_DEPTHS, Profile
from northpace.paths.bead import area, filament_length, spacing, width_for
from northpace.paths.footing import raft_height
from northpace.paths.thin import narrowest
from northpace.paths.walls import LEAST_FIT, wall_count
from northpace.spec import Body, PlanSpec, resolve_heat
from northpace.spec.local import variants_at

#: Typical straight run in mm between slow points; corrected by the first exact plan.
TYPICAL = {
    "outer-wall": 6.0,
    "inner-wall": 6.0,
    "gap": 6.0,
    "solid": 8.0,
    "infill": 10.0,
    "support": 10.0,
}
TRAVEL_SHARE = 0.08
#: Ratios exact / quick: {"seconds" | "filament": {feature: ratio}}.
Correction = dict[str, dict[str, float]]


@dataclass(frozen=True)
class Quick:
    """Per feature seconds and filament (mm), and seconds per layer (N,)."""

    seconds: dict[str, float]
    filament: dict[str, float]
    heights: np.ndarray
    layer_seconds: np.ndarray

    def figures(self, spec: PlanSpec) -> dict[str, Any]:
        """The report's headline figures, marked as quick."""
        total, length = sum(self.seconds.values()), sum(self.filament.values())
        stuff = amounts(length, total, spec.material, spec.machine)
        tops = np.cumsum(self.heights)
        return {
            "exact": False,
            "pace": pace_rows(spec),
            "time_s": {"total": total, "by_feature": self.seconds},
            "filament": {
                "length_mm": length,
                "mass_g": stuff.mass_g,
                "cost": stuff.cost,
                "volume_mm3": stuff.volume_mm3,
            },
            "layers": {
                "count": len(self.heights),
                "heights_mm": [round(float(v), 6) for v in self.heights],
                "tops_mm": [round(float(v), 6) for v in tops],
                "seconds": [round(float(v), 3) for v in self.layer_seconds],
            },
        }


#: Lengths (n,) in mm laid of every feature, and bead widths in mm.
Lengths = tuple[dict[str, np.ndarray], dict[str, float | np.ndarray]]
#: Lengths (n,) in mm of outer walls, inner walls and beads between them, width of those beads,
#: depth of the walls, and the area inside them.
Walls = tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray, np.ndarray]


def lengths_of(
    profile: Profile, spec: PlanSpec, heights: np.ndarray, walls: Walls | None = None
) -> Lengths:
    """What a plan without bands lays in layers of ``heights`` (N,) mm, whatever its speeds.
    ``walls`` are those of `walls_of`, where another plan with the same walls has asked before.
    """
    middle = np.cumsum(heights) - heights / 2
    return _laid(profile, spec, level_of(profile, middle), heights, walls)


def walls_of(profile: Profile, spec: PlanSpec, heights: np.ndarray) -> Walls:
    """The walls of such a plan."""
    return _walls(profile, spec.body, level_of(profile, np.cumsum(heights) - heights / 2), heights)


def quick(
    profile: Profile, spec: PlanSpec, heights: np.ndarray, correction: Correction | None = None
) -> Quick:
    """Estimate a plan with layers of ``heights`` (N,) mm. ``correction`` is from
    `correction_of`.
    """
    first = np.arange(len(heights)) == 0
    middle = np.cumsum(heights) - heights / 2
    seconds, filament = _figures(
        profile, spec, middle, level_of(profile, middle), heights, first, correction
    )
    per_layer = np.sum(list(seconds.values()), axis=0)
    own = np.array(spec.pace.layer_seconds[: len(heights)])
    each = np.maximum(lasting(spec, per_layer), np.r_[own, np.zeros(len(heights) - len(own))])
    stretch = each / np.maximum(per_layer, 1e-9)
    totals = {
        name: float((value * stretch).sum()) for name, value in seconds.items() if value.any()
    }
    totals["start"] = start_seconds(spec)
    used = {name: float(value.sum()) for name, value in filament.items()}
    footing_of(profile, spec, float(heights[0]), totals, used)
    return Quick(totals, used, heights, each)


def layer_seconds(
    profile: Profile, spec: PlanSpec, heights: np.ndarray, correction: Correction | None = None
) -> np.ndarray:
    """(L, m) seconds of a layer above the first with its middle at each level of the profile, for
    heights (m,) in mm.
    """
    levels = np.repeat(np.arange(len(profile.levels)), len(heights))
    each = np.tile(heights, len(profile.levels))
    seconds, _ = _figures(
        profile, spec, profile.levels[levels], levels, each, np.zeros(len(each), bool), correction
    )
    return lasting(spec, np.sum(list(seconds.values()), axis=0)).reshape(
        len(profile.levels), len(heights)
    )


def fixed_seconds(
    profile: Profile, spec: PlanSpec, first: float, correction: Correction | None = None
) -> float:
    """Seconds of what the layers above the first do not change: heating and homing, footing, and
    the first layer (``first`` mm).
    """
    return sum(quick(profile, spec, np.array([first]), correction).seconds.values())


def level_of(profile: Profile, z: np.ndarray) -> np.ndarray:
    """The level of the profile that stands for heights in mm."""
    return np.clip((z / profile.edges[1]).astype(np.int64), 0, len(profile.levels) - 1)


def lasting(spec: PlanSpec, per_layer: np.ndarray) -> np.ndarray:
    """Seconds of layers that are slowed to their least time, as far as the floor speed
    lets them.
    """
    return np.maximum(per_layer, np.minimum(resolve_heat(spec)["least_layer_time"], per_layer * 8))


def _figures(
    profile: Profile,
    spec: PlanSpec,
    middle: np.ndarray,
    levels: np.ndarray,
    heights: np.ndarray,
    first: np.ndarray,
    correction: Correction | None,
) -> tuple[dict[str, np.ndarray], dict[str, np.ndarray]]:
    """Seconds and filament (mm) by feature of layers (n,) given by their middle in mm, level,
    height and whether they are the first: of each with the settings of the band it lies in. Regions
    are left to the correction by the exact plan.
    """
    seconds: dict[str, np.ndarray] = {}
    filament: dict[str, np.ndarray] = {}
    for here, there in variants_at(spec, middle):
        found = _figures_of(profile, there, levels[here], heights[here], first[here], correction)
        for whole, part in zip((seconds, filament), found, strict=True):
            for name, values in part.items():
                whole.setdefault(name, np.zeros(len(levels)))[here] = values
    return seconds, filament


def _figures_of(
    profile: Profile,
    spec: PlanSpec,
    levels: np.ndarray,
    heights: np.ndarray,
    first: np.ndarray,
    correction: Correction | None,
) -> tuple[dict[str, np.ndarray], dict[str, np.ndarray]]:
    """The same for layers that all have the settings of the plan."""
    return timed(
        rates_of(spec), spec, *_laid(profile, spec, levels, heights), heights, first, correction
    )


def _laid(
    profile: Profile,
    spec: PlanSpec,
    levels: np.ndarray,
    heights: np.ndarray,
    walls: Walls | None = None,
) -> Lengths:
    lengths, widths = _lengths(
        profile, spec, levels, heights, walls or _walls(profile, spec.body, levels, heights)
    )
    if spec.supports.enabled:
        lengths["support"], widths["support"] = (
            _support(profile, spec, levels, heights),
            spec.supports.width,
        )
    return lengths, widths


@dataclass(frozen=True)
class Rates:
    """Speeds (mm/s), accelerations (mm/s²) and safe flows (mm³/s) of a plan; of several plans at
    once as columns (C, 1).
    """

    speed: dict[str, Any]
    push: dict[str, Any]
    first_speed: Any
    first_push: Any
    safe: Any
    first_safe: Any
    travel: Any


def rates_of(spec: PlanSpec) -> Rates:
    """What a plan asks of every feature the quick figures tell apart."""
    pace = spec.pace
    speed = {
        "outer-wall": pace.outer_wall_speed,
        "inner-wall": pace.inner_wall_speed,
        "gap": pace.gap_speed,
        "solid": pace.solid_speed,
        "infill": pace.infill_speed,
        "support": pace.support_speed,
    }
    push = {
        "outer-wall": pace.outer_wall_acceleration,
        "inner-wall": acceleration_of(spec, INNER),
        "gap": pace.acceleration,
        "solid": acceleration_of(spec, SOLID),
        "infill": acceleration_of(spec, INFILL),
        "support": acceleration_of(spec, SUPPORT),
    }
    return Rates(
        speed,
        push,
        pace.first_layer_speed,
        pace.first_layer_acceleration,
        safe_flow(spec),
        safe_flow(spec, resolve_heat(spec)["first_nozzle_temp"]),
        pace.travel_speed,
    )


def stacked(rates: list[Rates]) -> Rates:
    """Rates of several plans as columns."""

    def column(values: list[float]) -> np.ndarray:
        return np.array(values)[:, None]

    first = rates[0]
    return Rates(
        {name: column([one.speed[name] for one in rates]) for name in first.speed},
        {name: column([one.push[name] for one in rates]) for name in first.push},
        *(
            column([getattr(one, name) for one in rates])
            for name in ("first_speed", "first_push", "safe", "first_safe", "travel")
        ),
    )


def timed(
    rates: Rates,
    spec: PlanSpec,
    lengths: dict[str, np.ndarray],
    widths: dict[str, Any],
    heights: np.ndarray,
    first: np.ndarray,
    correction: Correction | None,
) -> tuple[dict[str, np.ndarray], dict[str, np.ndarray]]:
    """Seconds and filament (mm) by feature of layers (n,) with lengths (mm) at rates; of several
    plans at once (C, n) where lengths and rates are of several. Material and machine are those of
    ``spec``.
    """
    factor = correction or {"seconds": {}, "filament": {}}
    seconds: dict[str, np.ndarray] = {}
    filament: dict[str, np.ndarray] = {}
    flow = np.where(first, rates.first_safe, rates.safe)
    for name, run in lengths.items():
        section = (
            area(np.broadcast_to(np.asarray(widths[name], np.float64), run.shape), heights)
            * spec.material.flow
            / 100
        )
        v = np.minimum(
            np.where(first, np.minimum(rates.speed[name], rates.first_speed), rates.speed[name]),
            flow / section,
        )
        a = np.where(first, rates.first_push, rates.push[name]) * (
            spec.machine.acceleration_reached / 100
        )
        # on a typical run the head is braked to a stop and brought up to speed once: v/a longer
        # than cruising
        seconds[name] = run * (1 / v + v / a / TYPICAL[name] / 2) * factor["seconds"].get(name, 1.0)
        filament[name] = filament_length(run * section, spec.material.diameter) * factor[
            "filament"
        ].get(name, 1.0)
    laid = np.sum(list(lengths.values()), axis=0)
    seconds["travel"] = (
        TRAVEL_SHARE * laid / rates.travel + 0.15 + spec.machine.layer_overhead
    ) * factor["seconds"].get("travel", 1.0)
    return seconds, filament


def _as_spiral(body: Body) -> Body:
    body = body.as_laid()
    return (
        body.model_copy(update={"walls": 1, "wall_thickness": None, "fill_gaps": False})
        if body.build == "spiral"
        else body
    )


def _walls(profile: Profile, whole: Body, at: np.ndarray, heights: np.ndarray) -> Walls:
    """The walls in layers (n,), from the areas and lengths behind the outline."""
    body = _as_spiral(whole)
    count = wall_count(body, float(np.median(heights)))
    outline, perimeter = profile.area[at], profile.perimeter[at]

    def behind(depth: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Area and length left at a depth; in the step where the area ends, it shrinks by its
        length times the way.
        """
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

    width = body.outer_width
    depth = (
        (width - spacing(np.full(len(heights), width), heights)) / 2
        if count
        else np.zeros(len(heights))
    )
    outer, inner, gap = (np.zeros(len(heights)) for _ in range(3))
    bead = np.full(len(heights), body.solid_width)
    for k in range(count):
        width = body.outer_width if k == 0 else body.inner_width
        lane = spacing(np.full(len(heights), width), heights)
        half = narrowest(np.full(len(heights), width), heights) / 2
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
    """Length in mm laid of every feature in layers (n,), and the bead widths."""
    body = _as_spiral(spec.body)
    outer, inner, gap, bead, depth, inside = walls
    solid = (
        inside if body.infill_density >= 100 else inside * _open(profile, at, heights, body, depth)
    )
    lane = spacing(np.full(len(heights), body.solid_width), heights)
    # several layers of infill at once: the same volume in fewer, taller beads
    at_once = np.clip(
        np.floor(min(spec.machine.h_max, body.infill_width) / heights + 1e-6), 1, body.infill_every
    )
    thread = at_once * spacing(
        np.full(len(heights), body.infill_width),
        np.minimum(at_once * heights, 0.95 * body.infill_width),
    )
    lengths = {
        "outer-wall": outer,
        "inner-wall": inner,
        "gap": gap,
        "solid": solid / lane,
        "infill": (inside - solid) * min(body.infill_density, 100) / 100 / thread,
    }
    return lengths, {
        "outer-wall": body.outer_width,
        "inner-wall": body.inner_width,
        "gap": bead,
        "solid": body.solid_width,
        "infill": body.infill_width,
    }


def _support(profile: Profile, spec: PlanSpec, at: np.ndarray, heights: np.ndarray) -> np.ndarray:
    """(n,) mm of support in layers: under all that opens downwards further up, as far as that is
    known before the paths are laid.
    """
    opens = profile.open_down[:, 1, 0] * profile.area * np.diff(profile.edges) / REACHES[1]
    opens[profile.levels < REACHES[1]] = 0.0
    above = np.cumsum(opens[::-1])[::-1]
    free = np.maximum(
        (profile.box[:, 2] - profile.box[:, 0]) * (profile.box[:, 3] - profile.box[:, 1])
        - profile.area,
        0.0,
    )
    lane = spacing(np.full(len(heights), spec.supports.width), heights)
    return np.minimum(above, free)[at] * spec.supports.density / 100 / lane


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
        near = table[at, r, w] * (1 - deep) + table[at, r, w + 1] * deep
        free += (
            near * (1 - far)
            + (table[at, r + 1, w] * (1 - deep) + table[at, r + 1, w + 1] * deep) * far
        )
    return np.clip(free, 0, 1)


def _between(grid: np.ndarray, values: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Index of the interval and place in it (0 to 1) of values on a rising grid, held at
    its ends.
    """
    low = np.clip(np.searchsorted(grid, values, "right") - 1, 0, len(grid) - 2)
    return low, np.clip((values - grid[low]) / (grid[low + 1] - grid[low]), 0, 1)


def footing_of(
    profile: Profile,
    spec: PlanSpec,
    height: float,
    seconds: dict[str, float],
    filament: dict[str, float],
) -> None:
    """Footing: loops and brim around the hull of the first layer, raft under it."""
    foot, width = spec.footing, spec.footing.skirt_width
    lane, section = spacing(width, height), area(width, height) * spec.material.flow / 100
    around = foot.raft_margin if foot.raft_layers else foot.brim_reach
    out = around + foot.skirt_distance + width / 2
    loops = foot.skirt_loops
    if foot.prime_volume > 0:
        loops = max(
            1,
            round(
                foot.prime_volume
                / (area(width, height) * (profile.first_hull_length + 2 * np.pi * out))
            ),
        )
    run = (
        float((profile.first_hull_length + 2 * np.pi * (out + np.arange(loops) * lane)).sum())
        * foot.skirt_height
    )
    volume = 0.0
    if foot.raft_layers:
        ground = (
            float(profile.area[0])
            + profile.first_hull_length * foot.raft_margin
            + np.pi * foot.raft_margin**2
        )
        volume = ground * foot.raft_layers * raft_height(spec.machine, width)
    elif foot.brim_reach > foot.brim_clearance:
        volume = (profile.first_hull_length * foot.brim_reach + np.pi * foot.brim_reach**2) * height
    if run + volume == 0:
        return
    speed = min(spec.pace.footing_speed, spec.pace.first_layer_speed)
    seconds["footing"] = run / speed + volume / (section * speed)
    filament["footing"] = float(
        filament_length(run * section + volume * spec.material.flow / 100, spec.material.diameter)
    )


def correction_of(exact: dict[str, Any], profile: Profile, spec: PlanSpec) -> Correction:
    """Ratios exact / quick by feature, from the report of an exact plan of the same part and its
    own spec.
    """
    plain = quick(profile, spec, np.array(exact["layers"]["heights_mm"]))
    out: Correction = {"seconds": {}, "filament": {}}
    times = dict(exact["time_s"]["by_feature"])
    times["travel"] = times.get("travel", 0.0) + times.pop("retraction", 0.0)
    lengths = dict(exact["filament"]["by_feature_mm"])
    # what the quick figures do not tell apart
    for part, whole in (("top", "solid"), ("bridge", "solid"), ("support-roof", "support")):
        for figures in (times, lengths):
            figures[whole] = figures.get(whole, 0.0) + figures.pop(part, 0.0)
    for name, value in plain.seconds.items():
        if name not in ("start", "footing") and value > 1.0 and times.get(name, 0.0) > 0:
            out["seconds"][name] = _ratio(name, times[name] / value)
    for name, value in plain.filament.items():
        if name != "footing" and value > 1.0 and lengths.get(name, 0.0) > 0:
            out["filament"][name] = _ratio(name, lengths[name] / value)
    return out


def _ratio(name: str, found: float) -> float:
    """How much of a ratio holds for other heights too: between walls, beads come and go with the
    height, so only its root does.
    """
    return float(np.clip(found, 0.2, 5.0))
