"""Bridges so long that they sag."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, at_places, some

#: Bridges longer than this (mm) sag.
LONG_BRIDGE = 15.0


@check(
    "outlines",
    "skins",
    codes=("long-bridge",),
)
def long_bridge(facts: Facts) -> list[Finding]:
    owner, tops = facts.outlines.islands.owner, facts.outlines.tops
    spans = facts.skins.bridges
    long = np.flatnonzero(spans.span > LONG_BRIDGE)
    if len(long) == 0:
        return []
    return [
        at_places(
            "long-bridge",
            "look",
            f"{some(len(long), 'bridge spans', 'bridges span')} more than {LONG_BRIDGE:g} mm, "
            f"the longest {spans.span.max():.0f} mm: expect it to sag.",
            spans.pieces.polygons[long],
            tops[owner[spans.pieces.owner[long]]],
            spans.span[long],
            "Hold it up with supports ('Bridges need none up to'), or lay it slower and cooler.",
        )
    ]
