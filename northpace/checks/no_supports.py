"""Supports that are on where nothing needs them."""

from __future__ import annotations

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding


@check(
    "stands",
    codes=("no-supports",),
    reads=("supports.enabled",),
)
def no_supports(facts: Facts) -> list[Finding]:
    if not facts.spec.supports.enabled or len(facts.stands.at):
        return []
    return [
        Finding(
            "no-supports",
            "note",
            "Supports are on, but nothing leans out far enough to need them.",
            help="Turn them off, or lower the angle.",
            change={"supports.enabled": False},
        )
    ]
