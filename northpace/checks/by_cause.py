"""Findings that have one cause: the worst of them stays as it is, the others become notes."""

from __future__ import annotations

from dataclasses import replace

from northpace.checks.finding import Finding
from northpace.figures import Severity

#: Codes of findings that are all caused by beads with nothing below them, the worst first.
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
    """The findings, in the same order. If several are caused by beads with nothing below them and
    have the same remedy, only the most severe keeps its severity and the others become notes, so
    that a maker has one thing to decide.
    """
    lead: Finding | None = None
    for code in NOTHING_BELOW:
        for finding in findings:
            worse = lead is None or RANK[finding.severity] < RANK[lead.severity]
            if finding.code == code and worse:
                lead = finding
    if lead is None or lead.severity == "note":
        return findings
    return [_next_to(lead, finding) for finding in findings]


def _next_to(lead: Finding, finding: Finding) -> Finding:
    """A finding; as a note, if it has the cause and the remedy of the one that leads."""
    one_cause = finding.code in NOTHING_BELOW and finding is not lead
    same = finding.change == lead.change or finding.code == "tall-overhang"
    if one_cause and same and finding.severity == "look":
        return replace(finding, severity="note")
    return finding
