"""Parts whose surface could not be closed."""

from __future__ import annotations

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding


@check(
    "part",
    codes=("rebuilt",),
)
def rebuilt(facts: Facts) -> list[Finding]:
    if not facts.part.doubtful:
        return []
    return [
        Finding(
            "rebuilt",
            "stop",
            "The surface could not be closed; the part was rebuilt from sections. "
            "Compare it with what you meant before printing it.",
        )
    ]
