"""Beads that span open air without being bridges, and beads that nothing holds."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import MOST_PLACES, Finding, some
from northpace.moves import GAP, INFILL, INNER, OUTER, SOLID, TOP
from northpace.spec import PlanSpec

#: Longest stretch (mm) an ordinary bead spans from hold to hold, by what it is: infill below is
#: that far apart.
SPANS = {OUTER: 6.0, INNER: 6.0, GAP: 6.0, SOLID: 15.0, TOP: 15.0, INFILL: 15.0}
#: Longest stretch (mm) that may end in the air, inside a part.
LOOSE = 8.0


@check(
    "outlines",
    "rows",
    "resting",
    "voids",
    codes=("free-span",),
    reads=("body.infill_density", "body.build", "machine"),
)
def free_span(facts: Facts) -> list[Finding]:
    rows, found = facts.rows, facts.resting
    feature = rows.feature[found.runs]
    most = np.array([SPANS.get(code, np.inf) for code in range(256)])[feature]
    long = found.held & (found.length > most)
    loose = ~found.held & np.isin(feature, (SOLID, TOP, INFILL)) & (found.length > LOOSE)
    loose[loose] = _over_voids(facts, found.runs[loose])
    bad = np.flatnonzero(loose | long)
    if len(bad) == 0:
        return []
    order = bad[np.argsort(-found.length[bad], kind="stable")]
    x, y = facts.spec.machine.origin
    tops = facts.outlines.tops
    row = found.runs[order]
    places = tuple(
        (
            round(float(rows.x[k] - x), 3),
            round(float(rows.y[k] - y), 3),
            round(float(tops[rows.layer[k]]), 3),
        )
        for k in row[:MOST_PLACES].tolist()
    )
    return [
        Finding(
            "free-span",
            "stop" if loose.any() else "look",
            f"{some(len(bad), 'stretch is', 'stretches are')} laid over open air, "
            f"{found.length[bad].sum() / 1000:.2f} m in all, the longest "
            f"{found.length[order[0]]:.0f} mm at {places[0][2]:.2f} mm"
            + (": nothing holds an end of some." if loose.any() else ", held at both ends."),
            places[0][2],
            places[0],
            _way_on(facts.spec),
            places,
            _change(facts.spec),
        )
    ]


def _over_voids(facts: Facts, row: np.ndarray) -> np.ndarray:
    """Whether rows (K,) lie over room that the layer below them leaves empty; for what is no infill
    itself, thin infill is no better.
    """
    rows, (x, y), voids = facts.rows, facts.spec.machine.origin, facts.voids
    layer = np.maximum(rows.layer[row] - 1, 0)
    below = np.where(rows.feature[row] == INFILL, voids.empty[layer], voids.open[layer])
    a, b = ((column[row - 1] + column[row]) / 2 for column in (rows.x, rows.y))
    return np.asarray(shapely.contains_xy(below, a - x, b - y))


def _way_on(spec: PlanSpec) -> str:
    if spec.body.infill_density < DENSE:
        return (
            "Infill holds what lies over it: more of it everywhere, or a region of it just below; "
            "or a stand inside, where a region asks for support."
        )
    return "Turn on supports there, stand the part differently, or change it."


#: Infill (%) whose lines lie near enough to hold what is laid over them.
DENSE = 10.0


def _change(spec: PlanSpec) -> dict[str, float | int | str | bool]:
    if spec.body.infill_density < DENSE and spec.body.build == "ordinary":
        return {"body.infill_density": DENSE}
    return {}
