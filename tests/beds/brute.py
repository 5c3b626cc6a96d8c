"""Whether the head hits what is finished, found without the product's geometry: on a map of heights
in cells, for every place the tip is at.
"""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from northpace.beds.laying import Laid

#: Edge of a cell, and step along moves, in mm.
CELL = 0.5


def hits(laid: Laid, slack: float, outlines: list[tuple[float, ...]]) -> list[tuple[int, int]]:
    """Pairs of placings (laid, finished) of which the head hits the finished one. ``outlines`` are
    (left, right, front, back, height) in mm around the tip; they are taken ``slack`` mm wider and
    as much lower, or narrower and higher.
    """
    moves = laid.moves
    x, y, z = moves.x, moves.y, moves.z
    low = np.array([x.min(), y.min()]) - 5
    shape = tuple(np.ceil((np.array([y.max(), x.max()]) + 5 - low[::-1]) / CELL).astype(int))
    visit = np.maximum(laid.merged.visit, 0)
    turn = laid.order.group[visit]
    owner = laid.order.placing[visit]
    found = []
    height, whose = np.zeros(shape), np.full(shape, -1)
    for group in range(int(turn.max()) + 1):
        rows = np.flatnonzero((turn == group) & (np.arange(len(x)) > 0))
        px, py, pz, along = _along(x, y, z, rows)
        cell = ((py - low[1]) / CELL).astype(int), ((px - low[0]) / CELL).astype(int)
        tip = np.full(shape, np.inf)
        np.minimum.at(tip, cell, pz)
        for left, right, front, back, above in outlines:
            size = np.array([front + back, left + right]) + 2 * slack
            if (size <= 0).any():
                continue
            reach = [
                _footprint(front, back, slack, shape[0]),
                _footprint(left, right, slack, shape[1]),
            ]
            tall = _highest(_highest(height, reach[0], 0), reach[1], 1)
            bad = tall > tip + above - slack + 0.02
            if bad.any():
                k = np.argwhere(bad)[0]
                around = height[
                    max(k[0] + reach[0][0], 0) : k[0] + reach[0][1] + 1,
                    max(k[1] + reach[1][0], 0) : k[1] + reach[1][1] + 1,
                ]
                there = whose[
                    max(k[0] + reach[0][0], 0) : k[0] + reach[0][1] + 1,
                    max(k[1] + reach[1][0], 0) : k[1] + reach[1][1] + 1,
                ]
                found.append((int(owner[rows[0]]), int(there.ravel()[around.argmax()])))
        drawn = laid.moves.width[rows[along]] > 0
        spot = cell[0][drawn], cell[1][drawn]
        np.maximum.at(height, spot, pz[drawn])
        whose[spot] = owner[rows[along[drawn]]]
    return found


def _along(x, y, z, rows):
    """Points every half cell along moves, at the lower of both ends."""
    ax, ay, bx, by = x[rows - 1], y[rows - 1], x[rows], y[rows]
    steps = np.maximum(np.ceil(np.hypot(bx - ax, by - ay) / (CELL / 2)).astype(int), 1)
    along = np.repeat(np.arange(len(rows)), steps)
    part = (np.arange(len(along)) - np.repeat(np.cumsum(steps) - steps, steps) + 1) / steps[along]
    low = np.minimum(z[rows - 1], z[rows])[along]
    return (
        ax[along] + part * (bx - ax)[along],
        ay[along] + part * (by - ay)[along],
        low,
        along,
    )


def _footprint(before: float, behind: float, slack: float, most: int) -> tuple[int, int]:
    first = int(np.clip(-round((before + slack) / CELL), -most, most))
    return first, int(np.clip(round((behind + slack) / CELL), -most, most))


def _highest(values: np.ndarray, reach: tuple[int, int], axis: int) -> np.ndarray:
    """The highest of the cells from one shift to another along an axis."""
    first, last = reach
    size = last - first + 1
    # a window of that size, shifted so that it begins at the first
    origin = -(first + size // 2)
    shift = np.clip(origin, -(size // 2), (size - 1) // 2)
    out = ndimage.maximum_filter1d(
        values, size, axis=axis, mode="constant", cval=0.0, origin=int(shift)
    )
    return (
        ndimage.shift(out, [origin - shift if k == axis else 0 for k in range(2)], order=0)
        if (origin != shift)
        else out
    )
