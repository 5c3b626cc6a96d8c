"""Surface targets that no layer allowed can meet."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding
from northpace.figures import Severity


@check(
    "stack",
    codes=("target-out-of-reach",),
    reads=(
        "surface",
        "machine",
    ),
)
def target_out_of_reach(facts: Facts) -> list[Finding]:
    stack = facts.stack
    missed = stack.missed(facts.spec)
    if not missed:
        return []
    severity: Severity = "note" if stack.reached else "look"
    spans = stack.out_of_reach
    z = float(spans[int(np.argmax(np.ptp(spans, axis=1)))].mean()) if len(spans) else None
    return [Finding("target-out-of-reach", severity, missed, z)]
