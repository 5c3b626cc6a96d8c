"""The order paths are laid in, and where each one starts."""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np

from northpace.moves import INNER, OUTER
from northpace.paths.table import PathTable
from northpace.paths.travel.improve import MOST, Ends, ends_of, exchange
from northpace.paths.travel.seam import (
    BEARING,
    CORNER,
    GOLDEN,
    NEAREST,
    Goal,
    SeamRule,
    Ways,
    drawn_to,
    seam_of,
)

#: How far the order of paths is improved.
AS_CUT, TAKE_NEAREST, IMPROVED = 0, 1, 2


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

    Exchanging is by Croes, "A method for solving traveling-salesman problems", Operations Research
    6(6), 1958.
    """
    by_layer = np.lexsort((paths.rank, paths.island, paths.layer))
    turn = np.radians(
        np.full(len(tops), seam.bearing) if seam.goal != "spread" else GOLDEN * np.arange(len(tops))
    )
    feature = paths.feature[by_layer]
    ways = Ways(
        paths.points,
        paths.starts[by_layer],
        paths.starts[1:][by_layer],
        paths.layer[by_layer],
        paths.island[by_layer],
        paths.rank[by_layer],
        (feature == OUTER) | ((feature == INNER) & seam.every),
        paths.closed[by_layer],
        paths.fixed[by_layer],
    )
    goal = Goal(
        {"nearest": NEAREST, "corner": CORNER}.get(seam.goal, BEARING),
        np.cos(turn),
        np.sin(turn),
        tops,
        np.ascontiguousarray(seam.marks, np.float64).reshape(-1, 5),
        seam.drawn(paths),
    )
    how_far = {"as-cut": AS_CUT, "nearest": TAKE_NEAREST, "improved": IMPROVED}[how]
    sequence, entry, saved = _order(ways, goal, how_far)
    return Order(by_layer[sequence], entry, float(saved))


@numba.njit(cache=True)
def _order(ways, goal, how):  # type: ignore[no-untyped-def]
    """Sequence (P,) of the ways, the point each is entered at, and the mm saved by exchanging."""
    total = len(ways.layer)
    sequence, entry = np.empty(total, np.int64), np.empty(total, np.int64)
    x, y, saved, at = 0.0, 0.0, 0.0, 0
    while at < total:
        end = at
        while end < total and ways.layer[end] == ways.layer[at]:
            end += 1
        groups = _islands(ways, at, end)
        turn = _island_order(ways, goal, how, groups, x, y)
        placed = at
        for chosen in turn:
            k = groups[chosen]
            while k < groups[chosen + 1]:
                same = k
                while same < groups[chosen + 1] and ways.rank[same] == ways.rank[k]:
                    same += 1
                stretch = slice(placed, placed + same - k)
                x, y, gain = _run(ways, goal, how, k, x, y, sequence[stretch], entry[stretch])
                saved += gain
                placed += same - k
                k = same
        at = end
    return sequence, entry, saved


@numba.njit(cache=True)
def _islands(ways, at, end):  # type: ignore[no-untyped-def]
    """Where the ways of each island of a layer begin, and the end of the last."""
    groups, count = np.empty(end - at + 1, np.int64), 0
    for k in range(at, end):
        if k == at or ways.island[k] != ways.island[k - 1]:
            groups[count] = k
            count += 1
    groups[count] = end
    return groups[: count + 1]


@numba.njit(cache=True)
def _island_order(ways, goal, how, groups, x, y):  # type: ignore[no-untyped-def]
    """The islands of a layer one after the other from (x, y): the nearest next, what belongs to no
    island first; where each is entered stands for it.
    """
    count = len(groups) - 1
    ex, ey = np.empty(count), np.empty(count)
    turn, used = np.empty(count, np.int64), np.zeros(count, np.bool_)
    tx, ty = x, y
    for line in range(count):
        chosen, nearest = -1, np.inf
        for g in range(count):
            if used[g]:
                continue
            j = groups[g]
            v = ways.first[j]
            if ways.seamed[j] and goal.kind != NEAREST and ways.closed[j]:
                v = seam_of(ways, goal, j)
            away = np.hypot(ways.points[v, 0] - tx, ways.points[v, 1] - ty)
            if how == AS_CUT:
                away = float(g)
            if ways.island[j] < 0:
                away = -1.0
            if away < nearest:
                chosen, nearest = g, away
                ex[line], ey[line] = ways.points[v, 0], ways.points[v, 1]
        used[chosen], turn[line] = True, chosen
        tx, ty = ex[line], ey[line]
    if how == IMPROVED and count > 2:
        skip = 1 if ways.island[groups[turn[0]]] < 0 else 0
        n = count - skip
        if n <= MOST:
            sx, sy = (x, y) if skip == 0 else (ex[0], ey[0])
            none = np.zeros(n, np.int64)
            ends = Ends(
                ex[skip:].copy(),
                ey[skip:].copy(),
                ex[skip:].copy(),
                ey[skip:].copy(),
                none.copy(),
                np.ones(n, np.bool_),
            )
            exchange(sx, sy, ends, turn[skip:], none)
    return turn


@numba.njit(cache=True)
def _run(ways, goal, how, k, x, y, sequence, entry):  # type: ignore[no-untyped-def]
    """Order the ways from ``k`` on that are as many as ``sequence``, all of one island and rank.
    Returns where the head ends, and the mm saved by exchanging.
    """
    n, sx, sy = len(sequence), x, y
    done = np.zeros(n, np.bool_)
    for step in range(n):
        best, begin, closest = -1, 0, np.inf
        for j in range(n):
            if done[j] or (how == AS_CUT and j != step):
                continue
            v, away = _nearest_entry(ways, goal, how, k + j, x, y)
            if away < closest:
                best, begin, closest = j, v, away
        done[best] = True
        sequence[step], entry[step] = k + best, begin
        _, _, x, y, _ = ends_of(ways, k + best, begin)
    if how != IMPROVED or n <= 2 or n > MOST:
        return x, y, 0.0
    ends = Ends(
        np.empty(n),
        np.empty(n),
        np.empty(n),
        np.empty(n),
        np.empty(n, np.int64),
        np.ones(n, np.bool_),
    )
    for j in range(n):
        p = sequence[j]
        ends.ex[j], ends.ey[j], ends.lx[j], ends.ly[j], ends.other[j] = ends_of(ways, p, entry[j])
        ends.free[j] = not ways.fixed[p]
    saved = exchange(sx, sy, ends, sequence, entry)
    return ends.lx[n - 1], ends.ly[n - 1], saved


@numba.njit(cache=True)
def _nearest_entry(ways, goal, how, j, x, y):  # type: ignore[no-untyped-def]
    """The point a way is entered at from (x, y), and how far it is; what draws the seam counts as
    nearer.
    """
    points, first, last = ways.points, ways.first[j], ways.last[j]
    if not ways.closed[j]:
        away = np.hypot(points[first, 0] - x, points[first, 1] - y)
        if not ways.fixed[j] and how != AS_CUT:
            other = np.hypot(points[last - 1, 0] - x, points[last - 1, 1] - y)
            if other < away:
                return last - 1, other
        return first, away
    if ways.seamed[j] and goal.kind != NEAREST:
        v = seam_of(ways, goal, j)
        return v, np.hypot(points[v, 0] - x, points[v, 1] - y)
    best, closest = first, np.inf
    for v in range(first, last):
        away = np.hypot(points[v, 0] - x, points[v, 1] - y)
        if ways.seamed[j]:
            away -= drawn_to(ways, goal, j, v)
        if away < closest:
            best, closest = v, away
    return best, closest
