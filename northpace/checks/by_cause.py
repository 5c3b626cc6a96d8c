"""Findings that one cause brings, led by the one that matters most."""

from __future__ import annotations

from dataclasses import replace

from northpace.checks.finding import Finding
from northpace.figures import Severity

#: What shows where nothing lies below, the worst first; all of it goes with what holds it.
NOTHING_BELOW = (
    "starts-in-air",
    "free-span",
    "open-bottom",
    "overhang",
    "long-bridge",
    "tall-overhang",
)
RANK: dict[Severity, int] = {"stop": 0, "look": 1, "note": 2}


def led_by_the_worst(findings: list[Finding]) -> list[Finding]:
    """The findings in their order. Of those that go when nothing but the same thing is done, what
    matters less than the one that matters most is a note: a maker has one thing to decide.
    """
    lead: Finding | None = None
    for code in NOTHING_BELOW:
        for finding in findings:
            worse = lead is None or RANK[finding.severity] < RANK[lead.severity]
            if finding.code == code and worse:
                lead = finding
    if lead is None or lead.severity == "note":
        return findings
    return [_beside(finding, lead) for finding in findings]


def _beside(finding: Finding, lead: Finding) -> Finding:
    """A finding as it is, or as a note beside the one that leads."""
    one_cause = finding.code in NOTHING_BELOW and finding is not lead
    same = finding.change == lead.change or finding.code == "tall-overhang"
    if one_cause and same and finding.severity == "look":
        return replace(finding, severity="note")
    return finding
