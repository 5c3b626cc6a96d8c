"""Beads that span open air without being bridges, and beads that nothing holds."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, some
from northpace.checks.travelled import listed, segments_of
from northpace.moves import INFILL, SOLID, TOP
from northpace.spec import PlanSpec

#: What lies inside walls; a wall in the air is a bridge or leans out, which is said elsewhere.
INSIDE = (SOLID, TOP, INFILL)
#: Longest stretch (mm) an ordinary bead spans from hold to hold, and one that ends in the air.
HELD, LOOSE = 15.0, 8.0


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
    inside = np.isin(rows.feature[found.runs], INSIDE)
    long = inside & found.held & (found.length > HELD)
    loose = inside & ~found.held & (found.length > LOOSE)
    loose[loose] = _over_voids(facts, found.runs[loose])
    bad = np.flatnonzero(loose | long)
    if len(bad) == 0:
        return []
    order = bad[np.argsort(-found.length[bad], kind="stable")]
    row = found.runs[order]
    places = listed(
        segments_of(rows, row, facts.spec),
        facts.outlines.tops[rows.layer[row]],
        found.length[order],
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
    rows, voids = facts.rows, facts.voids
    layer = np.maximum(rows.layer[row] - 1, 0)
    below = np.where(rows.feature[row] == INFILL, voids.empty[layer], voids.open[layer])
    middle = segments_of(rows, row, facts.spec).mean(axis=1)
    return np.asarray(shapely.contains_xy(below, *middle.T))


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
