"""Group findings that have the same cause, so that a maker reads them as one: the most severe of a
group leads it, and the others are listed below that one.
"""

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
    """Return the findings in the same order, with `Finding.below` set on those that are led by
    another one with the same cause.

    The most severe finding of a cause leads. Listed below it are notes, and findings that want a
    look but have the same remedy; these become notes, so that a maker has one thing to decide.
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
    """A name for the cause of a finding with a ``code``: the first code of its group in `CAUSES`,
    or the code itself if it belongs to none.
    """
    return next((codes[0] for codes in CAUSES if code in codes), code)


def _goes_with(finding: Finding, lead: Finding) -> bool:
    """Whether a finding is listed below the one that leads, because it asks for no decision of its
    own.
    """
    same = finding.change == lead.change or finding.code == "tall-overhang"
    return finding.severity == "note" or (finding.severity == "look" and same)
