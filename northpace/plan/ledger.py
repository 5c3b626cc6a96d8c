"""The time ledger: where seconds, grams and money go, by feature, by band and by height; every
entry with its place.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from northpace.figures import (
    Ledger,
    LedgerBand,
    LedgerEntry,
    LedgerFeature,
    LedgerStretch,
)
from northpace.material.amounts import cost_per_second, lost_factor
from northpace.moves import FEATURES, Moves
from northpace.outlines.sections import Outlines
from northpace.spec import PlanSpec
from northpace.spec.by_layer import layers_in

#: Stretches of height that are told apart.
STRETCHES = 24


class Spent(NamedTuple):
    """Seconds and grams by layer and feature; the first row is what comes before all layers."""

    #: (N + 1, F)
    seconds: np.ndarray
    grams: np.ndarray
    #: € for a second and a gram, those of failed parts in it
    per_second: float
    per_gram: float

    def entry(self, rows: np.ndarray) -> LedgerEntry:
        """What some of the rows (N + 1,) take. ``rows`` chooses moves: a mask or indices."""
        seconds, grams = self.seconds[rows].sum(axis=0), self.grams[rows].sum(axis=0)
        return {
            "seconds": float(seconds.sum()),
            "grams": float(grams.sum()),
            "cost": float(grams.sum() * self.per_gram + seconds.sum() * self.per_second),
            "by_feature": {FEATURES[k]: float(s) for k, s in enumerate(seconds) if s > 0},
        }


def ledger(moves: Moves, outlines: Outlines, spec: PlanSpec) -> Ledger:
    """Entries that each add up to the whole plan: ``features``, ``bands`` (those of the plan, and
    the rest of the part), ``heights``.
    """
    spent = _spent(moves, len(outlines.tops), spec)
    return {
        "features": _features(spent, moves, outlines, spec),
        "bands": _bands(spent, outlines, spec),
        "heights": _heights(spent, outlines),
        "start": spent.entry(np.arange(len(outlines.tops) + 1) == 0),
    }


def _spent(moves: Moves, layers: int, spec: PlanSpec) -> Spent:
    shape, laid = (layers + 1, len(FEATURES)), moves.width > 0
    cell, cells = (moves.layer + 1) * len(FEATURES) + moves.feature, (layers + 1) * len(FEATURES)
    fed = moves.filament[laid] * spec.material.grams_per_mm
    lost = lost_factor(spec.machine, spec.material)
    return Spent(
        np.bincount(cell, moves.seconds, cells).reshape(shape),
        np.bincount(cell[laid], fed, cells).reshape(shape),
        cost_per_second(spec.machine) * lost,
        spec.material.price / 1000 * lost,
    )


def _features(
    spent: Spent, moves: Moves, outlines: Outlines, spec: PlanSpec
) -> list[LedgerFeature]:
    """Features, the longest first, each with its longest move in the layer where it takes most."""
    out: list[LedgerFeature] = []
    seconds, grams = spent.seconds.sum(axis=0), spent.grams.sum(axis=0)
    for k in np.argsort(-seconds):
        if seconds[k] <= 0:
            continue
        above = spent.seconds[1:, k]
        mine = np.empty(0, np.int64)
        if above.any():
            mine = np.flatnonzero((moves.layer == int(np.argmax(above))) & (moves.feature == k))
        out.append(
            {
                "feature": FEATURES[k],
                "seconds": float(seconds[k]),
                "grams": float(grams[k]),
                "cost": float(grams[k] * spent.per_gram + seconds[k] * spent.per_second),
                "at_mm": _longest(mine, moves, outlines, spec) if len(mine) else None,
            }
        )
    return out


def _longest(mine: np.ndarray, moves: Moves, outlines: Outlines, spec: PlanSpec) -> list[float]:
    k = int(mine[np.argmax(moves.seconds[mine])])
    x, y = spec.machine.origin
    return [
        round(float(moves.x[k] - x), 3),
        round(float(moves.y[k] - y), 3),
        float(outlines.tops[moves.layer[k]]),
    ]


def _bands(spent: Spent, outlines: Outlines, spec: PlanSpec) -> list[LedgerBand]:
    out: list[LedgerBand] = []
    rest = np.ones(len(outlines.tops) + 1, bool)
    for band in spec.surface.bands:
        here = np.r_[False, layers_in(band, outlines.tops, outlines.heights)]
        rest &= ~here
        out.append(
            {
                "name": band.title,
                "from_mm": band.from_mm,
                "to_mm": band.to_mm,
                **spent.entry(here),
            }
        )
    if out:
        out.append(
            {"name": "rest of the part", "from_mm": None, "to_mm": None, **spent.entry(rest)}
        )
    return out


def _heights(spent: Spent, outlines: Outlines) -> list[LedgerStretch]:
    edges = np.linspace(0, float(outlines.tops[-1]), STRETCHES + 1)
    middle = outlines.tops - outlines.heights / 2
    place = np.clip(np.searchsorted(edges, middle, "right") - 1, 0, STRETCHES - 1)
    return [
        {
            "from_mm": float(edges[k]),
            "to_mm": float(edges[k + 1]),
            **spent.entry(np.r_[False, place == k]),
        }
        for k in range(STRETCHES)
    ]
