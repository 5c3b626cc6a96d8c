"""The time ledger: where seconds, grams and money go, by feature, by band and by height; every
entry with its place.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from northpace.material.amounts import cost_per_second, lost_factor
from northpace.moves import FEATURES, Moves
from northpace.outlines.sections import Outlines
from northpace.spec import PlanSpec
from northpace.spec.by_layer import layers_in

#: Stretches of height that are told apart.
STRETCHES = 24


def ledger(moves: Moves, outlines: Outlines, spec: PlanSpec) -> dict[str, Any]:
    """Entries that each add up to the whole plan: ``features``, ``bands`` (those of the plan, and
    the rest of the part), ``heights``.
    """
    layers, kinds = len(outlines.tops), len(FEATURES)
    laid = moves.width > 0
    gram = spec.material.section / 1e3 * spec.material.density
    # what comes before the first layer is a row of its own
    cell = (moves.layer + 1) * kinds + moves.feature
    seconds = np.bincount(cell, moves.seconds, (layers + 1) * kinds).reshape(layers + 1, kinds)
    grams = np.bincount(cell[laid], moves.filament[laid] * gram, (layers + 1) * kinds).reshape(
        layers + 1, kinds
    )
    rate = cost_per_second(spec.machine)
    price = spec.material.price / 1000
    lost = lost_factor(spec.machine, spec.material)

    def entry(rows: np.ndarray) -> dict[str, Any]:
        s, g = seconds[rows].sum(axis=0), grams[rows].sum(axis=0)
        return {
            "seconds": float(s.sum()),
            "grams": float(g.sum()),
            "cost": float((g.sum() * price + s.sum() * rate) * lost),
            "by_feature": {FEATURES[k]: float(s[k]) for k in range(kinds) if s[k] > 0},
        }

    features = []
    origin = spec.machine.origin
    for k in np.argsort(-seconds.sum(axis=0)):
        s, g = float(seconds[:, k].sum()), float(grams[:, k].sum())
        if s <= 0:
            continue
        busiest = int(np.argmax(seconds[1:, k])) if seconds[1:, k].any() else -1
        mine = np.flatnonzero((moves.layer == busiest) & (moves.feature == k))
        at = None
        if busiest >= 0 and len(mine):
            longest = mine[np.argmax(moves.seconds[mine])]
            at = [
                round(float(moves.x[longest] - origin[0]), 3),
                round(float(moves.y[longest] - origin[1]), 3),
                float(outlines.tops[busiest]),
            ]
        features.append(
            {
                "feature": FEATURES[k],
                "seconds": s,
                "grams": g,
                "cost": (g * price + s * rate) * lost,
                "at_mm": at,
            }
        )
    bands = []
    rest = np.ones(layers + 1, bool)
    for band in spec.surface.bands:
        here = np.r_[False, layers_in(band, outlines.tops, outlines.heights)]
        rest &= ~here
        bands.append(
            {"name": band.title, "from_mm": band.from_mm, "to_mm": band.to_mm, **entry(here)}
        )
    if bands:
        bands.append({"name": "rest of the part", "from_mm": None, "to_mm": None, **entry(rest)})
    edges = np.linspace(0, float(outlines.tops[-1]), STRETCHES + 1)
    place = np.clip(
        np.searchsorted(edges, outlines.tops - outlines.heights / 2, "right") - 1, 0, STRETCHES - 1
    )
    heights = [
        {
            "from_mm": float(edges[k]),
            "to_mm": float(edges[k + 1]),
            **entry(np.r_[False, place == k]),
        }
        for k in range(STRETCHES)
    ]
    return {
        "features": features,
        "bands": bands,
        "heights": heights,
        "start": entry(np.r_[True, np.zeros(layers, bool)]),
    }
