"""Parts that stand tall on little, and may come loose or fall over."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding
from northpace.outlines.sections import Outlines

#: Height over the root of the contact area: from the first on a part wants a wider foot, from the
#: second on it will fall.
SLENDER, FALLS = 6.0, 14.0


@check(
    "outlines",
    "footing",
    codes=("small-contact",),
    reads=("footing",),
)
def small_contact(facts: Facts) -> list[Finding]:
    outlines, footing = facts.outlines, facts.spec.footing
    foot = outlines.areas[0]
    contact = float(shapely.area(foot))
    if contact <= 0:
        return []
    holding = footing.raft_layers > 0 or footing.brim_reach > 0
    wide = slenderness(outlines, max(facts.footing.area, contact))
    if wide <= SLENDER:
        return []
    z, spot = float(outlines.tops[0]), shapely.point_on_surface(foot)
    need = _brim_for(foot, (outlines.tops[-1] / SLENDER) ** 2) + footing.skirt_width
    need = int(np.ceil(max(need, 3.0)))
    return [
        Finding(
            "small-contact",
            "look",
            f"The part stands {outlines.tops[-1]:.0f} mm tall on {contact:.1f} mm²"
            f"{' and its footing' if holding else ''}: it may "
            f"{'fall over' if wide > FALLS else 'come loose'}.",
            z,
            (float(spot.x), float(spot.y), z),
            f"A brim of {need} mm holds it.",
            change={"footing.brim_reach": float(min(need, 100))},
        )
    ]


def slenderness(outlines: Outlines, on_bed: float) -> float:
    """Height of the part over the root of the area (mm²) it stands on."""
    return float(outlines.tops[-1] / np.sqrt(max(on_bed, 1e-6)))


def _brim_for(foot: shapely.Geometry, wanted: float) -> float:
    """Reach in mm of a brim with which a foot covers an area (mm²): what lies within r of it is A +
    P r + π r², and a little less where it has bays.
    """
    short = wanted - float(shapely.area(foot))
    around = float(shapely.length(shapely.convex_hull(foot)))
    return float((np.sqrt(around**2 + 4 * np.pi * max(short, 0.0)) - around) / (2 * np.pi))
