"""What moves with the tip, and whether it hits what stands on the bed: a map of heights in cells,
painted while the file is run through.
"""

from __future__ import annotations

import numba
import numpy as np

#: Edge of a cell in mm; a cell counts as hit when the head covers all of it.
CELL = 2.0
#: mm by which something has to stand higher than the head to be hit.
SLACK = 0.2


def first_hit(way: np.ndarray, head: np.ndarray) -> tuple[int, int]:
    """The first step of a program (K, 4: x, y, z, filament in mm) in which an outline of the head
    hits what was laid before, and which outline; (−1, −1) for none. ``head`` is (H, 5): how far
    each reaches to the left, right, front and back of the tip, and how high it is above it, in mm.
    """
    if not len(head):
        return -1, -1
    ends = np.cumsum(way[:, :3], axis=0)
    drawn = (way[:, 3] > 0) & ((way[:, 0] != 0) | (way[:, 1] != 0))
    if not drawn.any():
        return -1, -1
    low = ends[:, :2].min(axis=0) - CELL
    size = np.ceil((ends[:, :2].max(axis=0) - low) / CELL).astype(np.int64) + 2
    height = np.zeros((size[1], size[0]))
    step, which = _first(way, ends, drawn, low, height, np.asarray(head, np.float64))
    return int(step), int(which)


@numba.njit(cache=True)
def _first(way, ends, drawn, low, height, head):  # type: ignore[no-untyped-def]
    tallest = 0.0
    rows, columns = height.shape
    for k in range(len(way)):
        x1, y1, z1 = ends[k, 0], ends[k, 1], ends[k, 2]
        x0, y0, z0 = x1 - way[k, 0], y1 - way[k, 1], z1 - way[k, 2]
        z = min(z0, z1)
        parts = max(1, int(np.ceil(np.hypot(x1 - x0, y1 - y0) / CELL)))
        for p in range(1, parts + 1):
            share = p / parts
            x, y = x0 + share * (x1 - x0), y0 + share * (y1 - y0)
            if tallest > z + SLACK:
                for h in range(len(head)):
                    over = z + head[h, 4] + SLACK
                    if tallest <= over:
                        continue
                    first = max(int(np.ceil((x - head[h, 0] - low[0]) / CELL)), 0)
                    last = min(int(np.floor((x + head[h, 1] - low[0]) / CELL)), columns)
                    below = max(int(np.ceil((y - head[h, 2] - low[1]) / CELL)), 0)
                    above = min(int(np.floor((y + head[h, 3] - low[1]) / CELL)), rows)
                    for r in range(below, above):
                        for c in range(first, last):
                            if height[r, c] > over:
                                return k, h
            if drawn[k]:
                r, c = int((y - low[1]) / CELL), int((x - low[0]) / CELL)
                height[r, c] = max(height[r, c], z)
                tallest = max(tallest, z)
    return -1, -1
