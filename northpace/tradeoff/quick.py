"""The quick estimate (≈): time and filament from the part profile, without laying a path.

Lengths come from areas and perimeters; each feature's mean speed from its typical run between two corners. Where an exact
plan of the same part exists, the ratio between exact and quick figures of that plan corrects each feature.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from northpace.layers.even import even_heights
from northpace.material.amounts import amounts
from northpace.motion.pace import safe_flow, start_seconds
from northpace.outlines.profile import DEPTHS, Profile
from northpace.paths import areas as area_rules
from northpace.paths.bead import area, filament_length, spacing
from northpace.paths.walls import LEAST_FIT
from northpace.spec import PlanSpec, resolve_heat

#: Typical straight run in mm between slow points; corrected by the first exact plan.
WALL_RUN, SKIN_RUN, INFILL_RUN = 6.0, 8.0, 10.0
TRAVEL_SHARE = 0.08


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
        return {"exact": False, "time_s": {"total": total, "by_feature": self.seconds},
                "filament": {"length_mm": length, "mass_g": stuff.mass_g, "cost": stuff.cost, "volume_mm3": stuff.volume_mm3},
                "layers": {"count": len(self.heights), "heights_mm": [round(float(v), 6) for v in self.heights],
                           "tops_mm": [round(float(v), 6) for v in tops],
                           "seconds": [round(float(v), 3) for v in self.layer_seconds]}}


def quick(profile: Profile, spec: PlanSpec, correction: dict[str, dict[str, float]] | None = None) -> Quick:
    """Estimate a plan. ``correction`` is from `correction_of`; raises `InputError` as the exact plan would."""
    pace = spec.pace
    heights = even_heights(float(profile.edges[-1]), spec.surface, spec.machine)
    first = np.arange(len(heights)) == 0
    lengths, widths = _lengths(profile, spec, heights)
    speeds = {"outer-wall": (pace.outer_wall_speed, pace.outer_wall_acceleration, WALL_RUN),
              "inner-wall": (pace.inner_wall_speed, pace.acceleration, WALL_RUN), "gap": (pace.solid_speed, pace.acceleration, WALL_RUN),
              "solid": (pace.solid_speed, pace.acceleration, SKIN_RUN), "infill": (pace.infill_speed, pace.acceleration, INFILL_RUN)}
    factor = correction or {"seconds": {}, "filament": {}}
    seconds: dict[str, np.ndarray] = {}
    filament: dict[str, np.ndarray] = {}
    for name, run in lengths.items():
        section = area(np.full(len(heights), widths[name]), heights) * spec.material.flow / 100
        speed, push, typical = speeds[name]
        v = np.minimum(np.where(first, min(speed, pace.first_layer_speed), speed), safe_flow(spec) / section)
        a = np.where(first, pace.first_layer_acceleration, push)
        # on a typical run the head is braked to a stop and brought up to speed once: v/a longer than cruising
        seconds[name] = run * (1 / v + v / a / typical / 2) * factor["seconds"].get(name, 1.0)
        filament[name] = filament_length(run * section, spec.material.diameter) * factor["filament"].get(name, 1.0)
    laid = np.sum(list(lengths.values()), axis=0)
    seconds["travel"] = (TRAVEL_SHARE * laid / pace.travel_speed + 0.15) * factor["seconds"].get("travel", 1.0)
    per_layer = np.sum(list(seconds.values()), axis=0)
    lasting = np.maximum(per_layer, np.minimum(resolve_heat(spec)["least_layer_time"], per_layer * 8))
    stretch = lasting / np.maximum(per_layer, 1e-9)
    totals = {name: float((value * stretch).sum()) for name, value in seconds.items() if value.any()}
    totals["start"] = start_seconds(spec)
    used = {name: float(value.sum()) for name, value in filament.items()}
    _skirt(profile, spec, float(heights[0]), totals, used)
    return Quick(totals, used, heights, lasting)


def _lengths(profile: Profile, spec: PlanSpec, heights: np.ndarray) -> tuple[dict[str, np.ndarray], dict[str, float]]:
    """Length in mm laid of every feature in every layer (N,), and the bead widths, from the areas and lengths behind the outline."""
    body = spec.body
    tops = np.cumsum(heights)
    at = np.clip(((tops - heights / 2) / profile.edges[1]).astype(np.int64), 0, len(profile.levels) - 1)
    outline, perimeter = profile.area[at], profile.perimeter[at]

    def behind(depth: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Area and length left at a depth; in the step where the area ends, it shrinks by its length times the way."""
        pitch = DEPTHS[1] - DEPTHS[0]
        place = np.clip(depth / pitch, 0, len(DEPTHS) - 1.001)
        low = place.astype(np.int64)
        part, (a, b) = place - low, (profile.depth_area[at, low] * outline, profile.depth_area[at, low + 1] * outline)
        p, q = profile.depth_length[at, low] * perimeter, profile.depth_length[at, low + 1] * perimeter
        ends = b <= 0
        left = np.where(ends, np.maximum(a - p * part * pitch, 0), a + part * (b - a))
        return left, np.where(ends, np.where(left > 0, p, 0), p + part * (q - p))

    width = body.outer_width
    depth = (width - spacing(np.full(len(heights), width), heights)) / 2 if body.walls else np.zeros(len(heights))
    outer, inner, gap = (np.zeros(len(heights)) for _ in range(3))
    fits = np.ones(len(heights))
    for k in range(body.walls):
        width = body.outer_width if k == 0 else body.inner_width
        lane = spacing(np.full(len(heights), width), heights)
        if k:
            need = LEAST_FIT * lane
            free, (core, around) = behind(depth)[0], behind(depth + need)
            opened = core + need * around
            share = np.clip(opened / np.maximum(free, 1e-9), 0, 1)
            share = np.where(share > 0.9, 1.0, share)
            gap += free * fits * (1 - share)
            fits = fits * share
        line = behind(depth + lane / 2)[1] * fits
        if k == 0:
            outer += line
        else:
            inner += line
        depth = depth + lane
    inside = behind(depth)[0] * fits
    solid = inside if body.infill_density >= 100 else inside * _open(outline, perimeter, tops, heights, body, depth)
    lane = spacing(np.full(len(heights), body.solid_width), heights)
    thread = spacing(np.full(len(heights), body.infill_width), heights)
    lengths = {"outer-wall": outer, "inner-wall": inner, "gap": gap / lane, "solid": solid / lane,
               "infill": (inside - solid) * min(body.infill_density, 100) / 100 / thread}
    return lengths, {"outer-wall": body.outer_width, "inner-wall": body.inner_width, "gap": body.solid_width, "solid": body.solid_width,
                     "infill": body.infill_width}


def _open(outline: np.ndarray, perimeter: np.ndarray, tops: np.ndarray, heights: np.ndarray, body: Any, depth: np.ndarray) -> np.ndarray:
    """(N,) share of the area inside the walls that lies within the solid thickness of open air."""
    above = area_rules.reach(tops, heights, body.top_thickness, body.top_layers, True)
    below = area_rules.reach(tops, heights, body.bottom_thickness, body.bottom_layers, False)
    n, index = len(tops), np.arange(len(tops))
    free = np.zeros(n)
    for count, sign in ((above, 1), (below, -1)):
        end = index + sign * count
        beyond = (end >= n) | (end < 0)
        lost = np.where(beyond, outline, outline - outline[np.clip(end, 0, n - 1)])
        lost = np.where(beyond, outline, np.maximum(lost - 0.8 * perimeter * depth, 0.0))
        free = np.maximum(free, np.where(count > 0, np.maximum(lost, 0), 0))
    return np.clip(free / np.maximum(outline, 1e-9), 0, 1)


def _skirt(profile: Profile, spec: PlanSpec, height: float, seconds: dict[str, float], filament: dict[str, float]) -> None:
    foot = spec.footing
    if foot.skirt_loops == 0:
        return
    out = foot.skirt_distance + foot.skirt_width / 2 + np.arange(foot.skirt_loops) * spacing(foot.skirt_width, height)
    run = float((profile.first_hull_length + 2 * np.pi * out).sum())
    section = area(foot.skirt_width, height) * spec.material.flow / 100
    seconds["footing"] = run / min(spec.pace.footing_speed, spec.pace.first_layer_speed)
    filament["footing"] = float(filament_length(run * section, spec.material.diameter))


def correction_of(exact: dict[str, Any], profile: Profile, spec: PlanSpec) -> dict[str, dict[str, float]]:
    """Ratios exact / quick by feature, from the report of an exact plan of the same part and its own spec."""
    plain = quick(profile, spec)
    out: dict[str, dict[str, float]] = {"seconds": {}, "filament": {}}
    times = dict(exact["time_s"]["by_feature"])
    times["travel"] = times.get("travel", 0.0) + times.pop("retraction", 0.0)
    lengths = exact["filament"]["by_feature_mm"]
    for name, value in plain.seconds.items():
        if name not in ("start", "footing") and value > 1.0 and times.get(name, 0.0) > 0:
            out["seconds"][name] = float(np.clip(times[name] / value, 0.2, 5.0))
    for name, value in plain.filament.items():
        if name != "footing" and value > 1.0 and lengths.get(name, 0.0) > 0:
            out["filament"][name] = float(np.clip(lengths[name] / value, 0.2, 5.0))
    return out
