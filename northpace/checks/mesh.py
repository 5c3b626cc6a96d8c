"""Findings about the file itself."""

from __future__ import annotations

from northpace.checks.finding import Finding
from northpace.part.solid import Part


def mesh_findings(part: Part) -> list[Finding]:
    """What was mended, and whether the result can be trusted."""
    found = []
    if part.doubtful:
        found.append(
            Finding(
                "rebuilt",
                "stop",
                "The surface could not be closed; the part was rebuilt from sections. "
                "Compare it with what you meant before printing it.",
            )
        )
    if part.mended:
        severity = "look" if part.widest_opening > 5 else "note"
        found.append(
            Finding("mended", severity, "The file was mended: " + "; ".join(part.mended) + ".")
        )
    return found
