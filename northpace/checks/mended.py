"""What was mended in the file."""

from __future__ import annotations

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding
from northpace.figures import Severity


@check(
    "part",
    codes=("mended",),
    reads=("mesh.looked_at",),
)
def mended(facts: Facts) -> list[Finding]:
    part = facts.part
    if not part.mended:
        return []
    severity: Severity = "note"
    helps = ""
    if part.guessed and not facts.spec.mesh.looked_at:
        severity = "stop" if part.guessed == "much" else "look"
        helps = (
            f"The widest opening was {part.widest_opening:.1f} mm across and closed by guessing: "
            "look at the shape there (Mesh), then say that it is meant so, or mend it where it "
            "was drawn."
        )
    words = "The file was mended: " + "; ".join(part.mended) + "."
    return [Finding("mended", severity, words, help=helps)]
