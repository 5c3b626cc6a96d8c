"""Findings that have one cause: the worst of them leads, the others are listed below it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from northpace.checks.finding import Finding
from northpace.figures import Severity

#: Codes of findings that have one cause, the one that matters most first.
NOTHING_BELOW = (
    "starts-in-air",
    "free-span",
    "open-bottom",
    "overhang",
    "long-bridge",
    "tall-overhang",
)
LAYERS_TOO_SHORT = ("short-layer", "slowed")
TRAVELS = ("strings", "drags", "crossings")
CAUSES = (NOTHING_BELOW, LAYERS_TOO_SHORT, TRAVELS)
RANK: dict[Severity, int] = {"stop": 0, "look": 1, "note": 2}


def by_cause(findings: Sequence[Finding]) -> list[Finding]:
    """The findings, in the same order. Of those with one cause the most severe leads, so that a
    maker has one thing to decide: the notes among the others are listed below it (`Finding.below`),
    and so is what wants a look but has the same remedy.
    """
    out = list(findings)
    for codes in CAUSES:
        mine = [k for code in codes for k, one in enumerate(out) if one.code == code]
        if len(mine) < 2:
            continue
        lead = min(mine, key=lambda k: RANK[out[k].severity])
        for k in mine:
            if k != lead and _goes_with(out[k], out[lead]):
                out[k] = replace(out[k], severity="note", below=out[lead].code)
    return out


def cause_of(code: str) -> str:
    """What the findings of one cause have in common: the code of the one that matters most."""
    return next((codes[0] for codes in CAUSES if code in codes), code)


def _goes_with(finding: Finding, lead: Finding) -> bool:
    """Whether a finding that has the cause of the one that leads needs no decision of its own."""
    same = finding.change == lead.change or finding.code == "tall-overhang"
    return finding.severity == "note" or (finding.severity == "look" and same)
