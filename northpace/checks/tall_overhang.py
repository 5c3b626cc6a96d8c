"""Layers so tall that their bead hangs more than half over the one below."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, some
from northpace.heights.rules import overhang_limit, spans


@check(
    "stack",
    "surface",
    codes=("tall-overhang",),
    reads=(
        "body.outer_width",
        "machine.least_height",
    ),
)
def tall_overhang(facts: Facts) -> list[Finding]:
    stack, table, spec = facts.stack, facts.surface, facts.spec
    steps = np.round(stack.heights / table.z_step).astype(np.int64)
    start = np.clip(np.cumsum(steps) - steps, 0, table.steps - 1)
    kinds, which = np.unique(steps, return_inverse=True)
    most = overhang_limit(spans(table.leaning, kinds)[start, which], spec.body.outer_width)
    # only where a lower layer would help: steeper than that is a matter of support
    over = (
        (stack.heights > most + 1e-9)
        & (most >= spec.machine.least_height)
        & (np.arange(len(steps)) > 0)
    )
    if not over.any():
        return []
    at = np.flatnonzero(over)
    k = int(at[np.argmax((stack.heights - most)[at])])
    tops = np.cumsum(stack.heights)
    return [
        Finding(
            "tall-overhang",
            "look",
            f"{some(len(at), 'layer leaves its bead', 'layers leave their bead')} hanging more "
            f"than half over the one below where the part leans out, most at {tops[k]:.2f} mm: "
            f"{stack.heights[k]:.2f} mm tall, {most[k]:.2f} would hold. 'Lower layers where it "
            "leans out' keeps them down.",
            float(tops[k]),
        )
    ]
