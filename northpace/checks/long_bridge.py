"""Bridges so long that they sag."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, some
from northpace.checks.holding import ask_for_support, infill, over_voids, support_change
from northpace.checks.travelled import listed, segments_of, straight_through
from northpace.moves import BRIDGE

#: Bridges longer than this (mm) sag.
LONG_BRIDGE = 15.0


@check(
    "outlines",
    "rows",
    "resting",
    "voids",
    codes=("long-bridge",),
    reads=(
        *("machine", "body.infill_density", "body.build"),
        *("supports.enabled", "supports.origin"),
    ),
)
def long_bridge(facts: Facts) -> list[Finding]:
    rows, found = facts.rows, facts.resting
    bridge = rows.feature[found.runs] == BRIDGE
    long = np.flatnonzero(bridge & (found.length > LONG_BRIDGE))
    row = found.runs[long]
    # a path that turns in the air is as long as its longest straight line
    straight = straight_through(rows.x, rows.y, rows.width, row) + rows.width[row]
    length = np.minimum(found.length[long], straight)
    row, length = row[length > LONG_BRIDGE], length[length > LONG_BRIDGE]
    if len(row) == 0:
        return []
    z = facts.outlines.tops[rows.layer[row]]
    spec = facts.spec
    if over_voids(facts, row).any():
        help, change = infill(spec)
    elif spec.supports.enabled and spec.supports.origin == "bed":
        help, change = f"{ask_for_support(spec)}.", support_change(spec)
    elif spec.supports.enabled:
        help, change = "'Bridges need none up to' says how far they go without support.", {}
    else:
        help, change = "Turn on supports, or lay it slower and cooler.", support_change(spec)
    places = listed(segments_of(rows, row, spec), z, length)
    return [
        Finding(
            "long-bridge",
            "look",
            f"{some(len(row), 'bridge line crosses', 'bridge lines cross')} more than "
            f"{LONG_BRIDGE:g} mm of open air, the longest {length.max():.0f} mm: expect "
            f"{'it' if len(row) == 1 else 'them'} to sag.",
            places[0][2],
            places[0],
            help,
            places,
            change,
            len(row),
        )
    ]
