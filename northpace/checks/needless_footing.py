"""A brim or raft that nothing needs, and what it costs."""

from __future__ import annotations

import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, minutes
from northpace.checks.lifting_corners import lifting_corners
from northpace.checks.small_contact import SLENDER, slenderness
from northpace.moves import FOOTING


@check(
    "outlines",
    "timed",
    codes=("needless-footing",),
    reads=(
        "footing",
        "material",
    ),
)
def needless_footing(facts: Facts) -> list[Finding]:
    outlines, footing = facts.outlines, facts.spec.footing
    foot = outlines.areas[0]
    contact = float(shapely.area(foot))
    if contact <= 0:
        return []
    holding = footing.raft_layers > 0 or footing.brim_reach > 0
    firm = slenderness(outlines, contact) <= SLENDER / 2 and not len(lifting_corners(foot))
    if not holding or not firm:
        return []
    moves, material = facts.timed.moves, facts.spec.material
    mine = moves.feature == FOOTING
    seconds = float(moves.seconds[mine].sum())
    grams = float(moves.filament[mine].sum()) * material.section / 1e3 * material.density
    z, spot = float(outlines.tops[0]), shapely.point_on_surface(foot)
    return [
        Finding(
            "needless-footing",
            "note",
            f"The part stands firmly without {'a raft' if footing.raft_layers else 'a brim'}; "
            f"the footing costs {minutes(seconds)} and {grams:.1f} g.",
            z,
            (float(spot.x), float(spot.y), z),
            "Leave it out, or keep it where the bed holds badly.",
            change={"footing.raft_layers": 0}
            if footing.raft_layers
            else {"footing.brim_reach": 0.0},
        )
    ]
