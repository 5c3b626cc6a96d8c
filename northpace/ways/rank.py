"""Ways beside each other: a score from weights that are seen and moved, and who is unbeaten."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from pydantic import model_validator

from northpace.spec.declare import Group, setting
from northpace.ways.figures import RankedWay, WayFigures

#: Below this tilt (°) a way is marked down, more the less it takes.
STEADY = 12.0
#: What a way that does not stand at all, that has starts in mid-air which nothing holds, or that
#: does not fit, is marked down by.
FALLS, LOOSE, DOES_NOT_FIT = 2.0, 5.0, 10.0


#: Differences smaller than a share of the least, and than these (s, mm², µm, °), count for little.
SMALL, LEAST = 0.25, np.array([60.0, 100.0, 20.0, 30.0])


class Weights(Group):
    """How much each figure counts when ways are put in order."""

    time: float = setting(1.0, "Time", help="Minutes.", unit="×", ge=0, le=10)
    scars: float = setting(
        1.0, "Scars", help="Surface that supports touch, by attention.", unit="×", ge=0, le=10
    )
    surface: float = setting(1.0, "Surface", help="Mean step error.", unit="×", ge=0, le=10)
    strength: float = setting(
        1.0, "Strength", help="The load along the layers.", unit="×", ge=0, le=10
    )
    keep_seen: bool = setting(
        False, "Keep seen faces clear", help="Ways that scar a seen face are left out."
    )

    @model_validator(mode="after")
    def _something(self) -> Weights:
        if self.time + self.scars + self.surface + self.strength <= 0:
            raise ValueError("at least one weight has to be above 0")
        return self


def ranked(ways: Sequence[WayFigures], weights: Weights) -> list[RankedWay]:
    """The ways, best first: each figure between its least (0) and greatest (1) over the ways that
    fit and stand, by weight; where all are nearly alike, by a fixed measure. Those that scar a seen
    face are left out where that is asked for.
    """
    here = [
        k for k, way in enumerate(ways) if not (weights.keep_seen and way["scar_seen_mm2"] > 0.5)
    ]
    if not here:
        return []
    figures = _figures([ways[k] for k in here])
    tips = np.array([ways[k]["tips_at_deg"] for k in here])
    fits = np.array([not ways[k]["misfit"] for k in here])
    loose = np.array([ways[k]["loose_starts"] > 0 for k in here])
    sound = fits & (tips > 0) & ~loose
    base = figures[sound] if sound.any() else figures
    low, span = base.min(axis=0), np.ptp(base, axis=0)
    share = (figures - low) / np.maximum(span, np.maximum(LEAST, SMALL * low))
    by = np.array([weights.time, weights.scars, weights.surface, weights.strength])
    score = share @ by / by.sum()
    score += np.where(tips > 0, np.clip(1 - tips / STEADY, 0, 1), FALLS)
    score += np.where(loose, LOOSE, 0.0)
    score += np.where(fits, 0.0, DOES_NOT_FIT)
    unbeaten = _unbeaten(figures, sound)
    # of ways that are alike the present one, which is the first, stays
    order = np.argsort(np.round(score, 2), kind="stable")
    return [
        {
            "way": here[k],
            "score": round(float(score[k]), 6),
            "unbeaten": bool(unbeaten[k]),
        }
        for k in order
    ]


def _figures(ways: Sequence[WayFigures]) -> np.ndarray:
    """(W, 4) what is less the better."""
    return np.array(
        [[w["time_s"], w["scar_weighted_mm2"], w["mean_um"], w["load_deg"] or 0.0] for w in ways]
    )


def _unbeaten(figures: np.ndarray, sound: np.ndarray) -> np.ndarray:
    """(W,) whether no other sound way is as good in all figures (W, 4) and better in one."""
    # differences that show alike do not beat
    rough = np.round(figures / np.array([1.0, 0.5, 0.1, 0.5]))
    as_good = (rough[None] <= rough[:, None]).all(axis=2)
    better = (rough[None] < rough[:, None]).any(axis=2)
    return np.asarray(sound & ~(as_good & better & sound[None]).any(axis=1))
