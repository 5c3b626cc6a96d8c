"""What was mended in the file."""

from __future__ import annotations

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding
from northpace.figures import Severity

#: An opening wider than this (mm) is closed by guessing.
WIDE = 5.0


@check(
    "part",
    codes=("mended",),
)
def mended(facts: Facts) -> list[Finding]:
    part = facts.part
    if not part.mended:
        return []
    severity: Severity = "look" if part.widest_opening > WIDE else "note"
    return [Finding("mended", severity, "The file was mended: " + "; ".join(part.mended) + ".")]
