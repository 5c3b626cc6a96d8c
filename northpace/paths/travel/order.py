"""The order paths are laid in, and where each one starts."""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np

from northpace.moves import INNER, OUTER
from northpace.paths.table import PathTable
from northpace.paths.travel.improve import MOST, ends_of, exchange
from northpace.paths.travel.seam import BEARING, CORNER, GOLDEN, NEAREST, SeamRule, pull_at, seam_of


@dataclass(frozen=True)
class Order:
    """Sequence (P,) of paths and the point (P,) each starts at (for open paths: its first or its
    last); millimetres of travel that exchanging saved over taking the nearest.
    """

    sequence: np.ndarray
    entry: np.ndarray
    saved: float


def order_paths(paths: PathTable, seam: SeamRule, tops: np.ndarray, how: str = "improved") -> Order:
    """Order the paths of a plan.

    Layer by layer; in a layer the footing first, then supports, then island by island to the
    nearest; in an island by rank, and within a rank to the nearest start; then pairs are exchanged
    while that shortens the way (2-opt). Outer walls start at the seam, everything else where the
    head is nearest. ``how`` "nearest" leaves the exchanging out, "as-cut" takes paths as they come.

    References ---------- Croes, "A method for solving traveling-salesman problems", Operations
    Research 6(6), 1958.
    """
    by_layer = np.lexsort((paths.rank, paths.island, paths.layer))
    turn = np.radians(
        np.full(len(tops), seam.bearing) if seam.goal != "spread" else GOLDEN * np.arange(len(tops))
    )
    goal = {"nearest": NEAREST, "corner": CORNER}.get(seam.goal, BEARING)
    feature = paths.feature[by_layer]
    placed = (feature == OUTER) | ((feature == INNER) & seam.every)
    sequence, entry, saved = _order(
        paths.points,
        paths.starts,
        paths.layer[by_layer],
        paths.island[by_layer],
        paths.rank[by_layer],
        placed,
        paths.closed[by_layer],
        paths.fixed[by_layer],
        by_layer,
        goal,
        np.cos(turn),
        np.sin(turn),
        tops,
        np.ascontiguousarray(seam.marks, np.float64).reshape(-1, 5),
        seam.drawn(paths),
        {"as-cut": 0, "nearest": 1, "improved": 2}[how],
    )
    return Order(sequence, entry, float(saved))


@numba.njit(cache=True)
def _order(  # type: ignore[no-untyped-def]
    points,
    starts,
    layer,
    island,
    rank,
    seamed,
    closed,
    fixed,
    row,
    goal,
    cx,
    cy,
    tops,
    marks,
    drawn,
    how,
):
    total = len(layer)
    sequence, entry = np.empty(total, np.int64), np.empty(total, np.int64)
    done = np.zeros(total, np.bool_)
    x, y, saved = 0.0, 0.0, 0.0
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
        # the islands of a layer: where each is entered stands for it
        ex, ey = np.empty(count), np.empty(count)
        turn = np.empty(count, np.int64)
        used = np.zeros(count, np.bool_)
        tx, ty, line = x, y, 0
        for _group in range(count):
            chosen, nearest = -1, np.inf
            for g in range(count):
                if used[g]:
                    continue
                k = row[groups[g]]
                v = starts[k]
                if seamed[groups[g]] and goal != NEAREST and closed[groups[g]]:
                    v = seam_of(
                        points,
                        starts[k],
                        starts[k + 1],
                        goal,
                        cx[layer[at]],
                        cy[layer[at]],
                        tops[layer[at]],
                        marks,
                        drawn,
                    )
                away = np.hypot(points[v, 0] - tx, points[v, 1] - ty)
                if how == 0:
                    away = float(g)
                if island[groups[g]] < 0:
                    away = -1.0
                if away < nearest:
                    chosen, nearest = g, away
                    ex[line], ey[line] = points[v, 0], points[v, 1]
            used[chosen] = True
            turn[line] = chosen
            tx, ty = ex[line], ey[line]
            line += 1
        if how == 2 and count > 2:
            skip = 1 if island[groups[turn[0]]] < 0 else 0
            n = count - skip
            if n <= MOST:
                sx, sy = (x, y) if skip == 0 else (ex[0], ey[0])
                none = np.zeros(n, np.int64)
                exchange(
                    sx,
                    sy,
                    ex[skip:].copy(),
                    ey[skip:].copy(),
                    ex[skip:].copy(),
                    ey[skip:].copy(),
                    turn[skip:],
                    none,
                    none.copy(),
                    np.ones(n, np.bool_),
                )
        for g in range(count):
            chosen = turn[g]
            k = groups[chosen]
            while k < groups[chosen + 1]:
                same = k
                while same < groups[chosen + 1] and rank[same] == rank[k]:
                    same += 1
                sx, sy, from_ = x, y, placed
                for step in range(same - k):
                    best, begin, closest = -1, 0, np.inf
                    for j in range(k, same):
                        if done[j] or (how == 0 and j != k + step):
                            continue
                        first, last = starts[row[j]], starts[row[j] + 1]
                        if closed[j]:
                            if seamed[j] and goal != NEAREST:
                                v = seam_of(
                                    points,
                                    first,
                                    last,
                                    goal,
                                    cx[layer[at]],
                                    cy[layer[at]],
                                    tops[layer[at]],
                                    marks,
                                    drawn,
                                )
                                away = np.hypot(points[v, 0] - x, points[v, 1] - y)
                                if away < closest:
                                    best, begin, closest = j, v, away
                            else:
                                for v in range(first, last):
                                    away = np.hypot(points[v, 0] - x, points[v, 1] - y)
                                    if seamed[j]:
                                        away -= (
                                            pull_at(
                                                points[v, 0], points[v, 1], tops[layer[at]], marks
                                            )
                                            + drawn[v]
                                        )
                                    if away < closest:
                                        best, begin, closest = j, v, away
                        else:
                            away = np.hypot(points[first, 0] - x, points[first, 1] - y)
                            if away < closest:
                                best, begin, closest = j, first, away
                            if not fixed[j] and how:
                                away = np.hypot(points[last - 1, 0] - x, points[last - 1, 1] - y)
                                if away < closest:
                                    best, begin, closest = j, last - 1, away
                    done[best] = True
                    sequence[placed], entry[placed] = best, begin
                    placed += 1
                    _, _, x, y, _ = ends_of(points, starts, row, closed, best, begin)
                n = placed - from_
                if how == 2 and 2 < n <= MOST:
                    e1, e2, l1, l2 = np.empty(n), np.empty(n), np.empty(n), np.empty(n)
                    other, free = np.empty(n, np.int64), np.ones(n, np.bool_)
                    for j in range(n):
                        p = sequence[from_ + j]
                        e1[j], e2[j], l1[j], l2[j], other[j] = ends_of(
                            points, starts, row, closed, p, entry[from_ + j]
                        )
                        free[j] = not fixed[p]
                    saved += exchange(
                        sx,
                        sy,
                        e1,
                        e2,
                        l1,
                        l2,
                        sequence[from_:placed],
                        entry[from_:placed],
                        other,
                        free,
                    )
                    x, y = l1[n - 1], l2[n - 1]
                k = same
        at = end
    for k in range(total):
        sequence[k] = row[sequence[k]]
    return sequence, entry, saved
