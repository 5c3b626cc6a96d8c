"""The order paths are laid in, and where each one starts."""

from __future__ import annotations

import numba
import numpy as np

from northpace.moves import OUTER
from northpace.paths.table import PathTable

SEAMS = {"nearest": 0, "rear": 1, "corner": 2}


def order_paths(paths: PathTable, seam: str) -> tuple[np.ndarray, np.ndarray]:
    """Sequence (P,) of paths and the point (P,) each starts at (for open paths: its first or its last).

    Layer by layer; in a layer the footing first, then island by island to the nearest; in an island by rank, and within a
    rank to the nearest start. Outer walls start at the seam, everything else where the head is nearest.
    """
    by_layer = np.lexsort((paths.rank, paths.island, paths.layer))
    return _order(paths.points, paths.starts, paths.layer[by_layer], paths.island[by_layer], paths.rank[by_layer],
                  paths.feature[by_layer] == OUTER, paths.closed[by_layer], by_layer, SEAMS[seam])


@numba.njit(cache=True)
def _seam(points: np.ndarray, first: int, last: int, kind: int) -> int:
    """Vertex with the greatest y (rear), or of the sharpest corner."""
    best, worth = first, -np.inf
    for k in range(first, last):
        if kind == 1:
            value = points[k, 1] + 1e-7 * points[k, 0]
        else:
            before = points[last - 1 if k == first else k - 1]
            after = points[first if k + 1 == last else k + 1]
            ux, uy = points[k, 0] - before[0], points[k, 1] - before[1]
            vx, vy = after[0] - points[k, 0], after[1] - points[k, 1]
            cosine = (ux * vx + uy * vy) / max(np.hypot(ux, uy) * np.hypot(vx, vy), 1e-12)
            value = -np.round(cosine, 2) + 1e-5 * points[k, 1]  # of equally sharp corners the one at the rear
        if value > worth:
            best, worth = k, value
    return best


@numba.njit(cache=True)
def _order(points, starts, layer, island, rank, outer, closed, row, seam):  # type: ignore[no-untyped-def]
    total = len(layer)
    sequence, entry = np.empty(total, np.int64), np.empty(total, np.int64)
    done = np.zeros(total, np.bool_)
    x, y = 0.0, 0.0
    placed, at = 0, 0
    groups = np.empty(total + 1, np.int64)
    while at < total:
        end = at
        while end < total and layer[end] == layer[at]:
            end += 1
        count = 0
        for k in range(at, end):
            if k == at or island[k] != island[k - 1]:
                groups[count] = k
                count += 1
        groups[count] = end
        used = np.zeros(count, np.bool_)
        for _group in range(count):
            chosen, nearest = -1, np.inf
            for g in range(count):
                if used[g]:
                    continue
                first = starts[row[groups[g]]]
                away = np.hypot(points[first, 0] - x, points[first, 1] - y)
                if island[groups[g]] < 0:
                    away = -1.0
                if away < nearest:
                    chosen, nearest = g, away
            used[chosen] = True
            k = groups[chosen]
            while k < groups[chosen + 1]:
                same = k
                while same < groups[chosen + 1] and rank[same] == rank[k]:
                    same += 1
                for _ in range(same - k):
                    best, begin, closest = -1, 0, np.inf
                    for j in range(k, same):
                        if done[j]:
                            continue
                        first, last = starts[row[j]], starts[row[j] + 1]
                        if closed[j]:
                            if outer[j] and seam != 0:
                                v = _seam(points, first, last, seam)
                                away = np.hypot(points[v, 0] - x, points[v, 1] - y)
                                if away < closest:
                                    best, begin, closest = j, v, away
                            else:
                                for v in range(first, last):
                                    away = np.hypot(points[v, 0] - x, points[v, 1] - y)
                                    if away < closest:
                                        best, begin, closest = j, v, away
                        else:
                            away = np.hypot(points[first, 0] - x, points[first, 1] - y)
                            if away < closest:
                                best, begin, closest = j, first, away
                            away = np.hypot(points[last - 1, 0] - x, points[last - 1, 1] - y)
                            if away < closest:
                                best, begin, closest = j, last - 1, away
                    done[best] = True
                    sequence[placed], entry[placed] = row[best], begin
                    placed += 1
                    if closed[best]:
                        x, y = points[begin, 0], points[begin, 1]
                    else:
                        first, last = starts[row[best]], starts[row[best] + 1]
                        other = last - 1 if begin == first else first
                        x, y = points[other, 0], points[other, 1]
                k = same
        at = end
    return sequence, entry
