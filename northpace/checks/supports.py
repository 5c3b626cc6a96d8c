"""Findings about supports: what they cost, where they scar."""

from __future__ import annotations

import numpy as np

from northpace.checks.finding import MOST_PLACES, Finding, minutes, some
from northpace.paths.build import Built
from northpace.spec import PlanSpec


def support_findings(built: Built, seconds: np.ndarray, spec: PlanSpec) -> list[Finding]:
    """``seconds`` (T,) of every stand."""
    held = built.stands
    if not spec.supports.enabled:
        return []
    if len(held.at) == 0:
        return [
            Finding(
                "no-supports",
                "note",
                "Supports are on, but nothing leans out far enough to need them.",
                help="Turn them off, or lower the angle.",
                change={"supports.enabled": False},
            )
        ]
    order = np.argsort(-seconds)[:MOST_PLACES]
    places = tuple((float(x), float(y), float(z)) for x, y, z in np.round(held.at[order], 3))
    found = [
        Finding(
            "supports",
            "note",
            f"{some(len(held.at), 'stand takes', 'stands take')} "
            f"{minutes(float(seconds.sum()))} and touch the part on "
            f"{held.contact.sum():.0f} mm².",
            places[0][2],
            places[0],
            "Each is listed with why it is there; forbid one on the stage, or change the part.",
            places,
        )
    ]
    scars = np.flatnonzero(held.seen > 0.5)
    if len(scars):
        at = tuple((float(x), float(y), float(z)) for x, y, z in np.round(held.at[scars], 3))
        found.append(
            Finding(
                "scars",
                "look",
                f"{some(len(scars), 'stand touches', 'stands touch')} faces marked as seen, "
                f"{held.seen[scars].sum():.0f} mm²: scars will show.",
                at[0][2],
                at[0],
                "Stand the part differently, or forbid support there.",
                at,
            )
        )
    return found
