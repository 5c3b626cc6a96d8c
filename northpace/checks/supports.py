"""What stands cost, and how much of the part they touch."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import MOST_PLACES, Finding, minutes, some
from northpace.motion.causes import seconds_by_stand


@check(
    "why",
    "stands",
    "timed",
    codes=("supports",),
)
def supports(facts: Facts) -> list[Finding]:
    held, seconds = facts.stands, seconds_by_stand(facts.timed.moves, facts.stands)
    if len(held.at) == 0:
        return []
    order = np.argsort(-seconds)[:MOST_PLACES]
    places = tuple((float(x), float(y), float(z)) for x, y, z in np.round(held.at[order], 3))
    return [
        Finding(
            "supports",
            "note",
            f"{some(len(held.at), 'stand takes', 'stands take')} "
            f"{minutes(float(seconds.sum()))} and {'touches' if len(held.at) == 1 else 'touch'} "
            "the part on "
            f"{held.contact.sum():.0f} mm²." + _nearer(int(held.squeezed.sum())),
            places[0][2],
            places[0],
            "Each is listed with why it is there; forbid one on the stage, or change the part.",
            places,
            count=len(held.at),
        )
    ]


def _nearer(count: int) -> str:
    if not count:
        return ""
    return (
        f" {count:,} of them {'stands' if count == 1 else 'stand'} nearer to walls than the "
        "clearance asked for, since nothing else holds what begins in mid-air there."
    )
