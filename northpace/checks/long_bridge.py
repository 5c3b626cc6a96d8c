"""Bridges so long that they sag."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, some
from northpace.checks.travelled import listed, segments_of
from northpace.moves import BRIDGE

#: Bridges longer than this (mm) sag.
LONG_BRIDGE = 15.0


@check(
    "outlines",
    "rows",
    "resting",
    codes=("long-bridge",),
    reads=("machine",),
)
def long_bridge(facts: Facts) -> list[Finding]:
    rows, found = facts.rows, facts.resting
    bridge = rows.feature[found.runs] == BRIDGE
    long = np.flatnonzero(bridge & (found.length > LONG_BRIDGE))
    if len(long) == 0:
        return []
    row, length = found.runs[long], found.length[long]
    z = facts.outlines.tops[rows.layer[row]]
    places = listed(segments_of(rows, row, facts.spec), z, length)
    return [
        Finding(
            "long-bridge",
            "look",
            f"{some(len(long), 'bridge line crosses', 'bridge lines cross')} more than "
            f"{LONG_BRIDGE:g} mm of open air, the longest {length.max():.0f} mm: expect "
            f"{'it' if len(long) == 1 else 'them'} to sag.",
            places[0][2],
            places[0],
            "Hold it up with supports ('Bridges need none up to'), or lay it slower and cooler.",
            places,
        )
    ]
