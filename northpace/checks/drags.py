"""Travels that drag the nozzle over tops that show."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, some
from northpace.checks.travelled import listed, segments_of
from northpace.geometry.crossing import edges_of, within_edges
from northpace.geometry.polygons import Pieces, collect, offset, rings_of
from northpace.moves import TOP, TRAVEL

#: A drag shows from this length (mm) on.
DRAG = 2.0


@check(
    "outlines",
    "skins",
    "rows",
    codes=("drags",),
    reads=(
        "pace.lift",
        "machine",
    ),
)
def drags(facts: Facts) -> list[Finding]:
    outlines, rows, spec = facts.outlines, facts.rows, facts.spec
    tops = facts.skins.tops
    if len(tops) == 0:
        return []
    shown = collect(Pieces(tops.polygons, outlines.islands.owner[tops.owner]), len(outlines.tops))
    laid = np.flatnonzero(rows.feature == TOP)
    if len(laid) == 0:
        return []
    # only what is travelled after the top of that layer was begun can scratch it
    begun = np.full(len(outlines.tops), len(rows.x))
    np.minimum.at(begun, rows.layer[laid], laid)
    index = np.flatnonzero((rows.feature == TRAVEL) & (rows.layer >= 0))
    index = index[index > begun[rows.layer[index]]]
    if len(index) == 0 or spec.pace.lift > 0:
        return []
    segments = segments_of(rows, index, spec)
    inner, layer = rings_of(offset(shown, -0.3)), rows.layer[index]
    over = within_edges(*edges_of(inner, len(shown)), layer, segments)
    bad = over > DRAG
    if not bad.any():
        return []
    places = listed(segments[bad], outlines.tops[layer[bad]], over[bad])
    return [
        Finding(
            "drags",
            "note",
            f"{some(int(bad.sum()), 'travel drags', 'travels drag')} the nozzle over tops that "
            f"show, {over[bad].sum():.0f} mm in all.",
            places[0][2],
            places[0],
            "A lift of 0.4 mm on travels that retract, or one-way tops, keeps them clean.",
            places,
            {"pace.lift": 0.4},
            int(bad.sum()),
        )
    ]
