"""Moves as lines, for the checks that look at them."""

from __future__ import annotations

import numba
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


#: Moves go on straight if the cosine of the turn between them is at least this.
GOES_ON = 0.999


@numba.njit(cache=True, nogil=True)
def straight_through(x, y, width, rows):  # type: ignore[no-untyped-def]
    """(K,) for each of the rows (K,) of moves, the length in mm of the straight line that it forms
    with the beads before and after it.
    """
    out = np.zeros(len(rows))
    for n in range(len(rows)):
        row = rows[n]
        dx, dy = x[row] - x[row - 1], y[row] - y[row - 1]
        own = np.hypot(dx, dy)
        out[n] = own
        for step in (-1, 1):
            k = row + step
            while 0 < k < len(x) and width[k] > 0:
                ex, ey = x[k] - x[k - 1], y[k] - y[k - 1]
                far = np.hypot(ex, ey)
                if dx * ex + dy * ey < GOES_ON * own * far:
                    break
                out[n] += far
                k += step
    return out
