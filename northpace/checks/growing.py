"""Findings about what the part grows on: islands in mid-air, overhangs, bottoms over open air, long
bridges.
"""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.finding import Finding, at_places, some
from northpace.outlines.polygons import Pieces, difference, explode
from northpace.outlines.sections import Outlines
from northpace.part.solid import Placed
from northpace.paths.build import Built
from northpace.paths.supports import overhangs
from northpace.spec import PlanSpec

#: Bridges longer than this (mm) sag.
LONG_BRIDGE = 15.0


def growing_findings(
    outlines: Outlines, built: Built, placed: Placed, spec: PlanSpec
) -> list[Finding]:
    """Places that start, lean or span further than what is below them carries. What supports hold
    is left out.
    """
    found: list[Finding] = []
    islands, tops = outlines.islands, outlines.tops
    empty = np.flatnonzero(shapely.is_empty(outlines.areas))
    if len(empty):
        z = float(tops[empty[0]])
        found.append(
            Finding(
                "empty-layer",
                "stop",
                f"{some(len(empty), 'layer has', 'layers have')} no outline, the first at "
                f"{z:.2f} mm: what lies above starts on nothing.",
                z,
                help="Turn the part, or bring its bodies together.",
            )
        )
    held = built.stands.held
    floating = np.zeros(len(islands), bool)
    above = np.flatnonzero(islands.owner > 0)
    if len(above):
        under = outlines.areas[islands.owner[above] - 1]
        floating[above] = ~shapely.intersects(islands.polygons[above], under) & ~shapely.intersects(
            islands.polygons[above], held[islands.owner[above]]
        )
    if floating.any():
        k = np.flatnonzero(floating)
        found.append(
            at_places(
                "starts-in-air",
                "stop",
                f"{some(len(k), 'outline starts', 'outlines start')} in mid-air, "
                f"the first at {tops[islands.owner[k[0]]]:.2f} mm.",
                islands.polygons[k],
                tops[islands.owner[k]],
                help="Turn on supports, stand the part differently, or change it.",
                change={} if spec.supports.enabled else {"supports.enabled": True},
            )
        )
    found.extend(_overhang(outlines, built, placed, spec, floating))
    found.extend(_spans(outlines, built, held))
    return found


def _overhang(
    outlines: Outlines, built: Built, placed: Placed, spec: PlanSpec, floating: np.ndarray
) -> list[Finding]:
    islands, tops = outlines.islands, outlines.tops
    leaning = overhangs(outlines, placed, spec.supports.angle, max(spec.supports.least_area, 0.2))
    # what bridges, hangs in mid-air as a whole or stands on supports is said elsewhere
    bridging = built.skins.bridges
    taken = Pieces(
        np.concatenate([bridging.free, islands.polygons[floating]]),
        np.concatenate([islands.owner[bridging.pieces.owner], islands.owner[floating]]),
    )
    if len(taken):
        for k in np.unique(taken.owner):
            gone = shapely.union_all(
                shapely.buffer(taken.polygons[taken.owner == k], spec.body.outer_width)
            )
            leaning[k] = shapely.difference(leaning[k], gone)
    leaning = (
        difference(leaning, shapely.buffer(built.stands.held, spec.supports.width))
        if spec.supports.enabled
        else leaning
    )
    pieces = explode(leaning, 0.2)
    if len(pieces) == 0:
        return []
    size = shapely.area(pieces.polygons)
    by_layer = np.bincount(pieces.owner, size, len(tops))
    k = int(by_layer.argmax())
    # a bead that hangs more than half beyond the one below droops; less is only rough
    reach = spec.body.outer_width
    severity = "look" if by_layer[k] > reach * reach else "note"
    return [
        at_places(
            "overhang",
            severity,
            f"{by_layer.sum():.0f} mm² lean out further than {spec.supports.angle:g}° from "
            f"upright in {some(int((by_layer > 0).sum()), 'layer', 'layers')}, most at "
            f"{tops[k]:.2f} mm ({by_layer[k]:.1f} mm²).",
            pieces.polygons,
            tops[pieces.owner],
            size,
            "Turn on supports, lower the layers there, or stand the part differently.",
            {} if spec.supports.enabled else {"supports.enabled": True},
        )
    ]


def _spans(outlines: Outlines, built: Built, held: np.ndarray) -> list[Finding]:
    found = []
    owner, tops = outlines.islands.owner, outlines.tops
    bottoms = built.skins.open_below
    if len(bottoms):
        layer = owner[bottoms.owner]
        size = shapely.area(bottoms.polygons)
        found.append(
            at_places(
                "open-bottom",
                "look",
                f"{some(len(bottoms), 'bottom', 'bottoms')} over open air, {size.sum():.0f} mm² "
                "in all, with nothing for a bridge to hold on to at two sides.",
                bottoms.polygons,
                tops[layer],
                size,
                "Turn on supports, or let the part begin there with a slope.",
            )
        )
    spans = built.skins.bridges
    long = np.flatnonzero(spans.span > LONG_BRIDGE)
    if len(long):
        layer = owner[spans.pieces.owner[long]]
        found.append(
            at_places(
                "long-bridge",
                "look",
                f"{some(len(long), 'bridge spans', 'bridges span')} more than {LONG_BRIDGE:g} mm, "
                f"the longest {spans.span.max():.0f} mm: expect it to sag.",
                spans.pieces.polygons[long],
                tops[layer],
                spans.span[long],
                "Hold it up with supports ('Bridges need none up to'), or lay it slower and "
                "cooler.",
            )
        )
    return found
