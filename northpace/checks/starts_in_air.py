"""What is laid in mid-air, told from the beads."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import MOST_PLACES, Finding, cubic_mm, some
from northpace.checks.holding import ask_for_support, support_change
from northpace.figures import Severity
from northpace.outlines.sections import Outlines

#: Less than this (mm³) is a speck.
LEAST = 0.05
#: If at least so many mm³ are lost with a piece it is a *stop*, or a *look*.
SPOILS, SHOWS = 2.0, 0.3
#: With so small a clearance (mm) supports hold nearly everything, and leave scars.
LOW_GAP = 0.1
#: A bead belongs to an outline that is nearer than this (mm).
NEAR = 0.5
Change = dict[str, float | int | str | bool]


@check(
    "outlines",
    "rows",
    "resting",
    codes=("starts-in-air",),
    reads=("supports.enabled", "supports.origin", "supports.gap_top", "machine"),
)
def starts_in_air(facts: Facts) -> list[Finding]:
    rows, found, tops = facts.rows, facts.resting, facts.outlines.tops
    real = found.hanging >= LEAST
    row, hanging = found.begins[real], found.hanging[real]
    if len(row) == 0:
        return []
    order = np.argsort(-hanging, kind="stable")
    row, hanging = row[order], hanging[order]
    severity: Severity = (
        "stop" if hanging[0] >= SPOILS else "look" if hanging[0] >= SHOWS else "note"
    )
    x, y = facts.spec.machine.origin
    z = tops[rows.layer[row]]
    own = [
        _outline_at(facts.outlines, rows.layer[k], rows.x[k] - x, rows.y[k] - y)
        for k in row[:MOST_PLACES].tolist()
    ]
    places = tuple(
        (round(float(a), 3), round(float(b), 3), round(float(c), 3))
        for (a, b), c in zip(
            shapely.get_coordinates(shapely.point_on_surface(np.array(own, object))),
            z,
            strict=False,
        )
    )
    thin = shapely.intersects(own[0], facts.outlines.areas[rows.layer[row[0]] - 1])
    help, change = _helps(facts, bool(thin))
    one = len(row) == 1
    return [
        Finding(
            "starts-in-air",
            severity,
            f"{some(len(row), 'piece is', 'pieces are')} laid in mid-air, "
            + ("" if one else f"the lowest at {z.min():.2f} mm and the one that matters most ")
            + f"at {z[0]:.2f} mm: nothing that is laid holds {'it' if one else 'them'}, and "
            f"{cubic_mm(hanging[0])} is laid on {'it' if one else 'that one'} alone"
            + (f", {cubic_mm(hanging.sum())} in all." if not one else "."),
            places[0][2],
            places[0],
            help,
            places,
            change,
            len(row),
        )
    ]


def _helps(facts: Facts, thin: bool) -> tuple[str, Change]:
    """What would hold a piece that begins in mid-air, in words and as a change of settings. If it
    is ``thin``, the piece hangs on a part that is too thin for a bead.
    """
    supports = facts.spec.supports
    hold, change = ask_for_support(facts.spec), support_change(facts.spec)
    if supports.enabled and supports.origin == "anywhere":
        # supports hold every start they find room for, so there was none for this one
        hold = "Another orientation or thinner layers give a support column room below it"
        if supports.gap_top > LOW_GAP:
            hold = f"A clearance below the part of {LOW_GAP:g} mm may give a support column room"
            change = {"supports.gap_top": LOW_GAP}
    if thin:
        return (
            "What joins it to the part below is too thin for any bead: make it thicker, take a "
            f"finer nozzle or bead, or {hold[0].lower()}{hold[1:]}.",
            change,
        )
    return f"{hold}, or another orientation, or a change of the part.", change


def _outline_at(outlines: Outlines, layer: int, x: float, y: float) -> shapely.Geometry:
    """The outline of a layer that a bead at a place (mm) belongs to; the place itself where there
    is none, as for stands.
    """
    spot = shapely.Point(x, y)
    parts = shapely.get_parts(outlines.areas[layer])
    away = shapely.distance(parts, spot)
    return parts[int(away.argmin())] if len(parts) and away.min() < NEAR else spot
