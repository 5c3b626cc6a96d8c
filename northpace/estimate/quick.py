"""The quick estimate (≈): time and filament from the part profile, without laying a path.

Lengths come from areas and perimeters; each feature's mean speed from its typical run between two
corners. Where an exact plan of the same part exists, the ratio between exact and quick figures of
that plan corrects each feature."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from northpace.estimate.lengths import laid_in, level_of
from northpace.estimate.rates import HEAT_READ, Correction, lasting, rates_of, timed
from northpace.figures import Report
from northpace.material.amounts import amounts
from northpace.motion.speeds import start_seconds
from northpace.motion.table import pace_rows
from northpace.outlines.profile import Profile
from northpace.paths.bead import area, filament_length, spacing
from northpace.paths.footing import raft_height
from northpace.spec import PlanSpec
from northpace.spec.by_layer import variants_at

#: Features that the quick figures may take for each other, and how far, as a factor, that of the
#: beads between walls may be off before they do.
WALLS, APART = ("outer-wall", "inner-wall", "gap"), 2.0
#: Travel to supports and back takes this share of the time of their lines, and so many seconds for
#: every layer with supports. Both were measured on exact plans of generated parts.
TO_LINES, TO_SUPPORTS = 0.12, 0.47
#: A layer has supports if they take at least this area in it (mm²).
LEAST_SUPPORT = 1.0
#: Bounds of a ratio exact / quick.
LEAST_RATIO, MOST_RATIO = 0.2, 5.0


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
            "pace": pace_rows(spec, seconds=self.seconds),
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
    seconds, filament = timed(
        rates_of(spec), spec, *laid_in(profile, spec, levels, heights), heights, first, correction
    )
    lengthen_supports(seconds, profile, levels, correction)
    return seconds, filament


def lengthen_supports(
    seconds: dict[str, np.ndarray],
    profile: Profile,
    levels: np.ndarray,
    correction: Correction | None,
) -> None:
    """Lengthen the time of supports in ``seconds``, in place: their lines are short, and the head
    travels to them and back.

    ``seconds`` holds one array by feature, of layers (n,) or of several plans (C, n). ``levels``
    (n,) is the level of the profile for each layer. Nothing changes if the profile does not know
    where supports stand.
    """
    if profile.stand is None or "support" not in seconds:
        return
    lines, factor = seconds["support"], (correction or {"seconds": {}})["seconds"]
    some = profile.stand[levels] > LEAST_SUPPORT
    travel = TO_SUPPORTS * factor.get("support", 1.0) * some
    seconds["support"] = lines * profile.stand_slow * (1 + TO_LINES) + np.where(
        lines > 0, travel, 0.0
    )


#: Settings that `footing_of` and `start_seconds` read.
APART_READ = (
    *HEAT_READ,
    *("machine.homing_time", "machine.bed_heating", "machine.nozzle_heating"),
    *("machine.nozzle", "machine.least_height", "machine.greatest_height", "machine.z_step"),
    *("footing", "pace.footing_speed", "pace.first_layer_speed"),
    *("material.flow", "material.diameter"),
)


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


def correction_of(exact: Report, profile: Profile, spec: PlanSpec) -> Correction:
    """Ratios exact / quick by feature, from the report of an exact plan of the same part and its
    own spec.
    """
    plain = quick(profile, spec, np.array(exact["layers"]["heights_mm"]))
    times = dict(exact["time_s"]["by_feature"])
    times["travel"] = times.get("travel", 0.0) + times.pop("retraction", 0.0)
    lengths = dict(exact["filament"]["by_feature_mm"])
    # what the quick figures do not tell apart
    for part, whole in (("top", "solid"), ("bridge", "solid"), ("support-roof", "support")):
        for figures in (times, lengths):
            figures[whole] = figures.get(whole, 0.0) + figures.pop(part, 0.0)
    # travel beyond what a ratio may say leads to supports, and is gone without them
    usual = MOST_RATIO * plain.seconds.get("travel", 0.0)
    if times.get("support", 0.0) > 0 and times["travel"] > usual:
        times["support"] += times["travel"] - usual
        times["travel"] = usual
    return {
        "seconds": _ratios(plain.seconds, times, ("start", "footing")),
        "filament": _ratios(plain.filament, lengths, ("footing",)),
    }


def _ratios(
    plain: dict[str, float], exact: dict[str, float], without: tuple[str, ...]
) -> dict[str, float]:
    """Exact over quick by feature, of those of a second or a millimetre; together for walls and
    what lies between them where the quick figures mistake one for the other: beads between walls
    come and go with width and height, so a ratio found on few of them must not hold for many.
    """
    some = {
        name: value
        for name, value in plain.items()
        if name not in without and value > 1.0 and exact.get(name, 0.0) > 0
    }
    found = {name: exact[name] / value for name, value in some.items()}
    if not 1 / APART <= found.get("gap", 1.0) <= APART:
        walls = [name for name in WALLS if name in some]
        share = sum(exact[name] for name in walls) / sum(some[name] for name in walls)
        found |= dict.fromkeys(walls, share)
    return {name: float(np.clip(ratio, LEAST_RATIO, MOST_RATIO)) for name, ratio in found.items()}
