"""Where the surface lies that a percentile or a mean lets go above the target."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding
from northpace.heights.above import share_over


@check(
    "stack",
    "surface",
    codes=("above-target",),
    reads=("surface",),
)
def above_target(facts: Facts) -> list[Finding]:
    stack, surface = facts.stack, facts.spec.surface
    target = surface.target_um / 1000
    over = stack.error.layer_max > 1.15 * target
    if (
        surface.kind != "best-fit"
        or not surface.has_target
        or surface.measure == "max"
        or not over.any()
    ):
        return []
    share = share_over(facts.surface, stack.heights, stack.error, target)
    k = int(np.argmax(stack.error.layer_max))
    tops = np.cumsum(stack.heights)
    same = np.flatnonzero(~over)
    start = int(same[same < k].max(initial=-1)) + 1
    end = int(same[same > k].min(initial=len(over))) - 1
    return [
        Finding(
            "above-target",
            "note",
            f"{100 * share:.1f} % of the surface is above the target of "
            f"{surface.target_um:g} µm, as the "
            f"{'95th percentile' if surface.measure == 'p95' else 'mean'} allows: up to "
            f"{1000 * stack.error.max:.0f} µm, between {tops[start] - stack.heights[start]:.2f} "
            f"and {tops[end]:.2f} mm. 'Nothing above' bounds it.",
            float(tops[k]),
        )
    ]
