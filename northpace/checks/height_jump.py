"""Neighbouring layers that differ by more than the step limit."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, some
from northpace.heights.rules import within_step_limit


@check(
    "stack",
    "surface",
    codes=("height-jump",),
    reads=("surface.step_limit",),
)
def height_jump(facts: Facts) -> list[Finding]:
    stack, limit = facts.stack, facts.spec.surface.step_limit
    steps = np.round(stack.heights / facts.surface.z_step).astype(np.int64)
    if len(steps) <= 2:
        return []
    jumps = np.flatnonzero(~within_step_limit(steps[1:-1], steps[2:], limit)) + 1
    if len(jumps) == 0:
        return []
    k = int(jumps[0])
    z = float(stack.heights[: k + 1].sum())
    return [
        Finding(
            "height-jump",
            "note",
            f"{some(len(jumps), 'jump', 'jumps')} between layers above the step limit of "
            f"{limit:g}, the first at {z:.2f} mm from {stack.heights[k]:.2f} to "
            f"{stack.heights[k + 1]:.2f} mm.",
            z,
        )
    ]
