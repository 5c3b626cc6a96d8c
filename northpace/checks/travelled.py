"""Moves as lines, for the checks that look at them."""

from __future__ import annotations

import numpy as np

from northpace.checks.finding import MOST_PLACES
from northpace.paths.travel.rows import Rows
from northpace.spec import PlanSpec


def segments_of(rows: Rows, index: np.ndarray, spec: PlanSpec) -> np.ndarray:
    """(n, 2, 2) from and to of moves, in mm from the middle of the bed."""
    ends = np.stack([index - 1, index], axis=1)
    return np.stack([rows.x[ends], rows.y[ends]], axis=2) - np.array(spec.machine.origin)


def listed(
    segments: np.ndarray, z: np.ndarray, weight: np.ndarray
) -> tuple[tuple[float, float, float], ...]:
    """The middles of the weightiest segments (K, 2, 2), in mm, at heights ``z`` (K,): up to
    ``MOST_PLACES`` points, the heaviest by ``weight`` (K,) first.
    """
    order = np.argsort(-weight)[:MOST_PLACES]
    middle = segments[order].mean(axis=1)
    return tuple(
        (round(float(x), 3), round(float(y), 3), round(float(k), 3))
        for (x, y), k in zip(middle, z[order], strict=True)
    )
