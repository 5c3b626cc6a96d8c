"""What would hold up what lies in the air, as the plan stands."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.facts import Facts
from northpace.checks.travelled import segments_of
from northpace.moves import INFILL
from northpace.spec import PlanSpec

#: Infill (%) whose lines lie near enough to hold what is laid over them.
DENSE = 10.0


def ask_for_support(spec: PlanSpec) -> str:
    """The next step towards support there, as a sentence begins with it."""
    if not spec.supports.enabled:
        return "Turn on supports"
    if spec.supports.origin == "bed":
        return "Let supports stand anywhere, not on the bed only"
    return "Ask for support there by hand"


def support_change(spec: PlanSpec) -> dict[str, float | int | str | bool]:
    """The same as a change of settings; none where it is done on the stage."""
    if not spec.supports.enabled:
        return {"supports.enabled": True}
    return {"supports.origin": "anywhere"} if spec.supports.origin == "bed" else {}


def infill(spec: PlanSpec) -> tuple[str, dict[str, float | int | str | bool]]:
    """What holds beads over room inside the part; and as a change, where infill is thin throughout
    and not in a band or region alone.
    """
    thin = spec.body.infill_density < DENSE
    words = (
        f"Infill holds what lies over it: more of it {'everywhere' if thin else 'below'}, or a "
        "region of it from the bed up to there ('region here' begins one)."
    )
    ordinary = spec.body.build == "ordinary"
    return words, {"body.infill_density": DENSE} if thin and ordinary else {}


def over_voids(facts: Facts, row: np.ndarray) -> np.ndarray:
    """(K,) whether rows (K,) lie over room that the layer below them leaves empty; for what is no
    infill itself, thin infill is no better.
    """
    rows, voids = facts.rows, facts.voids
    layer = np.maximum(rows.layer[row] - 1, 0)
    below = np.where(rows.feature[row] == INFILL, voids.empty[layer], voids.open[layer])
    middle = segments_of(rows, row, facts.spec).mean(axis=1)
    return np.asarray(shapely.contains_xy(below, *middle.T))
