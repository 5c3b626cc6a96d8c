"""What is laid in mid-air, told from the beads."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import MOST_PLACES, Finding, some
from northpace.checks.holding import ask_for_support, support_change
from northpace.outlines.sections import Outlines

#: Less than this (mm³) is a speck.
LEAST = 0.05
#: A bead belongs to an outline that is nearer than this (mm).
NEAR = 0.5


@check(
    "outlines",
    "rows",
    "resting",
    codes=("starts-in-air",),
    reads=("supports.enabled", "supports.origin", "machine"),
)
def starts_in_air(facts: Facts) -> list[Finding]:
    rows, found, tops = facts.rows, facts.resting, facts.outlines.tops
    real = found.volume >= LEAST
    row, hanging = found.begins[real], found.hanging[real]
    if len(row) == 0:
        return []
    order = np.argsort(rows.layer[row], kind="stable")
    row, hanging = row[order], hanging[order]
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
    hold = ask_for_support(facts.spec)
    helps = f"{hold}, stand the part differently, or change it"
    if shapely.intersects(own[0], facts.outlines.areas[rows.layer[row[0]] - 1]):
        helps = (
            "What joins it to the part below is too thin for any bead: make it thicker, take a "
            f"finer nozzle or bead, or {hold[0].lower()}{hold[1:]}"
        )
    return [
        Finding(
            "starts-in-air",
            "stop",
            f"{some(len(row), 'piece is', 'pieces are')} laid in mid-air, the first at "
            f"{z[0]:.2f} mm: nothing that is laid holds "
            f"{'it' if len(row) == 1 else 'them'}; {_volume(hanging.sum())} hangs on "
            f"{'it' if len(row) == 1 else 'them'}.",
            places[0][2],
            places[0],
            f"{helps}.",
            places,
            support_change(facts.spec),
        )
    ]


def _volume(cubic: float) -> str:
    return f"{cubic:.2f} mm³" if cubic < 1 else f"{cubic:,.0f} mm³"


def _outline_at(outlines: Outlines, layer: int, x: float, y: float) -> shapely.Geometry:
    """The outline of a layer that a bead at a place (mm) belongs to; the place itself where there
    is none, as for stands.
    """
    spot = shapely.Point(x, y)
    parts = shapely.get_parts(outlines.areas[layer])
    away = shapely.distance(parts, spot)
    return parts[int(away.argmin())] if len(parts) and away.min() < NEAR else spot
