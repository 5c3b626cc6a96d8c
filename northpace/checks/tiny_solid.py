"""Small solid patches that take long for what they serve."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import MOST_PLACES, Finding, minutes, some
from northpace.motion.causes import seconds_by_patch

#: Solid patches below this area (mm²) seldom serve anything.
TINY = 12.0


@check(
    "why",
    "stands",
    "timed",
    codes=("tiny-solid",),
    reads=("body.least_solid_area",),
)
def tiny_solid(facts: Facts) -> list[Finding]:
    why, moves = facts.why, facts.timed.moves
    seconds, total = seconds_by_patch(moves, why), float(moves.seconds.sum())
    least = facts.spec.body.least_solid_area
    few = np.flatnonzero(why.solid & (why.area < TINY) & (why.area > least) & (seconds > 0))
    cost = float(seconds[few].sum())
    if len(few) == 0 or cost < max(20.0, 0.01 * total):
        return []
    order = few[np.argsort(-seconds[few])][:MOST_PLACES]
    places = tuple((float(x), float(y), float(z)) for x, y, z in np.round(why.at[order], 3))
    return [
        Finding(
            "tiny-solid",
            "note",
            f"{some(len(few), 'solid patch', 'solid patches')} of less than {TINY:g} mm² take "
            f"{minutes(cost)}.",
            places[0][2],
            places[0],
            f"A 'Least solid area' of {TINY:g} mm² makes infill of them; or drop them one by one.",
            places,
            {"body.least_solid_area": TINY},
            len(few),
        )
    ]
