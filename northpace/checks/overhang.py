"""Surfaces that lean out further than they carry themselves."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, at_places, some
from northpace.checks.holding import ask_for_support, support_change
from northpace.figures import Severity
from northpace.geometry.polygons import Pieces, difference, explode, rounded, united
from northpace.outlines.sections import Outlines


@check(
    "outlines",
    "leaning",
    "skins",
    "stands",
    codes=("overhang",),
    reads=(
        "supports",
        "body.outer_width",
    ),
)
def overhang(facts: Facts) -> list[Finding]:
    outlines, spec, held = facts.outlines, facts.spec, facts.stands.held
    in_air = floating(outlines, held)
    islands, tops = outlines.islands, outlines.tops
    leaning = facts.leaning.worth(max(spec.supports.least_area, 0.2))
    # what bridges, hangs in mid-air as a whole or stands on supports is said elsewhere
    bridging = facts.skins.bridges
    taken = Pieces(
        np.concatenate([bridging.free, islands.polygons[in_air]]),
        np.concatenate([islands.owner[bridging.pieces.owner], islands.owner[in_air]]),
    )
    if len(taken):
        near = rounded(taken.polygons, spec.body.outer_width)
        leaning = difference(leaning, united(Pieces(near, taken.owner), len(leaning)))
    if len(facts.stands.at):
        leaning = difference(leaning, rounded(held, spec.supports.width))
    pieces = explode(leaning, 0.2)
    if len(pieces) == 0:
        return []
    size = shapely.area(pieces.polygons)
    by_layer = np.bincount(pieces.owner, size, len(tops))
    k = int(by_layer.argmax())
    # a bead that hangs more than half beyond the one below droops; less is only rough
    reach = spec.body.outer_width
    severity: Severity = "look" if by_layer[k] > reach * reach else "note"
    bed_only = spec.supports.enabled and spec.supports.origin == "bed"
    return [
        at_places(
            "overhang",
            severity,
            "Supports on the bed only do not reach it: "
            * bed_only
            + f"{by_layer.sum():.0f} mm² lean out further than {spec.supports.angle:g}° from "
            f"upright in {some(int((by_layer > 0).sum()), 'layer', 'layers')}, most at "
            f"{tops[k]:.2f} mm ({by_layer[k]:.1f} mm²).",
            pieces.polygons,
            tops[pieces.owner],
            size,
            f"{ask_for_support(spec)}, lower the layers there, or stand the part differently.",
            support_change(spec),
        )
    ]


def floating(outlines: Outlines, held: np.ndarray) -> np.ndarray:
    """(I,) whether an island lies on nothing: neither on the layer below nor on what supports hold
    (N,).
    """
    islands = outlines.islands
    out = np.zeros(len(islands), bool)
    above = np.flatnonzero(islands.owner > 0)
    if len(above):
        under = outlines.areas[islands.owner[above] - 1]
        out[above] = ~shapely.intersects(islands.polygons[above], under) & ~shapely.intersects(
            islands.polygons[above], held[islands.owner[above]]
        )
    return out
