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
from northpace.part.profile import Profile
from northpace.paths import areas as area_rules
from northpace.paths.bead import area, filament_length, spacing
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
    body, pace = spec.body, spec.pace
    heights = even_heights(float(profile.edges[-1]), spec.surface, spec.machine)
    tops = np.cumsum(heights)
    middle = tops - heights / 2
    step = profile.edges[1]
    at = np.clip((middle / step).astype(np.int64), 0, len(profile.levels) - 1)
    outline_area, perimeter, rings = profile.area[at], profile.perimeter[at], profile.rings[at]
    first = np.arange(len(heights)) == 0
    outer_lane, inner_lane = spacing(body.outer_width, heights), spacing(body.inner_width, heights)
    # a closed curve moved inward by d loses 2πd per outline and gains it per hole
    islands = profile.islands[at]
    shrink = 2 * np.pi * (2 * islands - rings)
    depth, wall_length = np.zeros(len(heights)), {}
    inner_total = np.zeros(len(heights))
    for k in range(body.walls):
        lane = outer_lane if k == 0 else inner_lane
        line = np.maximum(perimeter - shrink * (depth + lane / 2), 0.0)
        fits = outline_area > perimeter * depth * 0.9
        if k == 0:
            wall_length["outer-wall"] = line
        else:
            inner_total += line * fits
        depth = depth + lane
    wall_length["inner-wall"] = inner_total
    inside = np.clip(outline_area - perimeter * depth + shrink * depth**2 / 2, 0.0, None)
    open_share = _open(outline_area, perimeter, tops, heights, body, depth)
    solid_area = inside if body.infill_density >= 100 else inside * open_share
    lane = spacing(body.solid_width, heights)
    lengths = {**wall_length, "solid": solid_area / lane,
               "infill": (inside - solid_area) * min(body.infill_density, 100) / 100 / spacing(body.infill_width, heights)}
    widths = {"outer-wall": body.outer_width, "inner-wall": body.inner_width, "solid": body.solid_width, "infill": body.infill_width}
    speeds = {"outer-wall": (pace.outer_wall_speed, pace.outer_wall_acceleration, WALL_RUN),
              "inner-wall": (pace.inner_wall_speed, pace.acceleration, WALL_RUN),
              "solid": (pace.solid_speed, pace.acceleration, SKIN_RUN), "infill": (pace.infill_speed, pace.acceleration, INFILL_RUN)}
    seconds, filament = {}, {}
    for name, run in lengths.items():
        section = area(widths[name], heights) * spec.material.flow / 100
        speed, push, typical = speeds[name]
        v = np.minimum(np.where(first, min(speed, pace.first_layer_speed), speed), safe_flow(spec) / section)
        a = np.where(first, pace.first_layer_acceleration, push)
        seconds[name] = run * (1 / v + v / a / typical / 2)
        filament[name] = filament_length(run * section, spec.material.diameter)
    laid = sum(lengths.values())
    seconds["travel"] = TRAVEL_SHARE * laid / pace.travel_speed + 0.15
    factor = correction or {}
    for name in seconds:
        seconds[name] = seconds[name] * factor.get("seconds", {}).get(name, 1.0)
    for name in filament:
        filament[name] = filament[name] * factor.get("filament", {}).get(name, 1.0)
    per_layer = np.sum(list(seconds.values()), axis=0)
    lasting = np.maximum(per_layer, np.minimum(resolve_heat(spec)["least_layer_time"], per_layer * 8))
    stretch = lasting / np.maximum(per_layer, 1e-9)
    totals = {name: float((value * stretch).sum()) for name, value in seconds.items()}
    totals["start"] = start_seconds(spec)
    used = {name: float(value.sum()) for name, value in filament.items()}
    _skirt(profile, spec, float(heights[0]), totals, used)
    return Quick(totals, used, heights, lasting)


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
    times["solid"] = times.get("solid", 0.0) + times.pop("gap", 0.0)
    lengths = dict(exact["filament"]["by_feature_mm"])
    lengths["solid"] = lengths.get("solid", 0.0) + lengths.pop("gap", 0.0)
    for name, value in plain.seconds.items():
        if name not in ("start", "footing") and value > 1.0 and times.get(name, 0.0) > 0:
            out["seconds"][name] = float(np.clip(times[name] / value, 0.2, 5.0))
    for name, value in plain.filament.items():
        if name != "footing" and value > 1.0 and lengths.get(name, 0.0) > 0:
            out["filament"][name] = float(np.clip(lengths[name] / value, 0.2, 5.0))
    return out
