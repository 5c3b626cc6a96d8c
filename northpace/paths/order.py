"""The order paths are laid in, and where each one starts."""

from __future__ import annotations

from dataclasses import dataclass

import numba
import numpy as np
import shapely

from northpace.moves import INNER, OUTER
from northpace.paths.table import PathTable

NEAREST, BEARING, CORNER = 0, 1, 2
#: A fresh direction for every layer that never lines up with those of its neighbours: the golden
#: angle.
GOLDEN = 137.508
#: How much a seam area outweighs everything else.
PULL = 1e4
#: A corner is judged over this way (mm) on both sides.
CORNER_REACH = 1.0
#: Most paths in a group that are improved by exchanging, and how often all of them are looked at.
MOST, PASSES = 300, 6


@dataclass(frozen=True)
class SeamRule:
    """Where walls start: ``goal`` and bearing (degrees); marks (M, 5): x, y, z, radius in mm and +1
    (attract) or −1 (stay clear); ``every`` wall follows it, not the outer ones alone. Regions that
    attract (+1) or repel (−1) it, with their areas in every layer.
    """

    goal: str
    bearing: float
    marks: np.ndarray
    every: bool = False
    regions: tuple[tuple[float, np.ndarray], ...] = ()

    def drawn(self, paths: PathTable) -> np.ndarray:
        """(K,) how much every point of the paths draws the seam for the regions it lies in."""
        out = np.zeros(len(paths.points))
        if self.regions:
            layer = np.repeat(paths.layer, np.diff(paths.starts))
            for want, areas in self.regions:
                shapely.prepare(areas)
                out += (
                    PULL
                    * want
                    * shapely.contains_xy(areas[layer], paths.points[:, 0], paths.points[:, 1])
                )
        return out


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
def _along(points, first, last, k, step):  # type: ignore[no-untyped-def]
    """The vertex of a ring that lies `CORNER_REACH` away along it, forward (+1) or
    backward (−1).
    """
    way, now = 0.0, k
    for _ in range(last - first - 1):
        following = now + step
        if following == last:
            following = first
        elif following < first:
            following = last - 1
        way += np.hypot(
            points[following, 0] - points[now, 0], points[following, 1] - points[now, 1]
        )
        now = following
        if way >= CORNER_REACH:
            break
    return now


@numba.njit(cache=True)
def _seam(points, first, last, goal, cx, cy, z, marks, drawn):  # type: ignore[no-untyped-def]
    """Vertex furthest in the direction, or of the sharpest corner; places that attract come first,
    those to keep clear of last.
    """
    best, worth = first, -np.inf
    for k in range(first, last):
        if goal == BEARING:
            value = points[k, 0] * cx + points[k, 1] * cy + 1e-7 * points[k, 0]
        else:
            # over a way of `CORNER_REACH` on both sides: the tip of a wall may be rounded by many
            # short steps
            b, a = _along(points, first, last, k, -1), _along(points, first, last, k, 1)
            ux, uy = points[k, 0] - points[b, 0], points[k, 1] - points[b, 1]
            vx, vy = points[a, 0] - points[k, 0], points[a, 1] - points[k, 1]
            cosine = (ux * vx + uy * vy) / max(np.hypot(ux, uy) * np.hypot(vx, vy), 1e-12)
            # of equally sharp corners the one towards the bearing
            value = -np.round(cosine, 2) + 1e-5 * (points[k, 0] * cx + points[k, 1] * cy)
        value += _pull(points[k, 0], points[k, 1], z, marks) + drawn[k]
        if value > worth:
            best, worth = k, value
    return best


@numba.njit(cache=True)
def _pull(x, y, z, marks):  # type: ignore[no-untyped-def]
    total = 0.0
    for m in range(len(marks)):
        far = np.sqrt((x - marks[m, 0]) ** 2 + (y - marks[m, 1]) ** 2 + (z - marks[m, 2]) ** 2)
        if far <= marks[m, 3]:
            total += PULL * marks[m, 4]
    return total


@numba.njit(cache=True)
def _ends(points, starts, row, closed, j, begin):  # type: ignore[no-untyped-def]
    """Where a path begins and ends when entered at a vertex."""
    first, last = starts[row[j]], starts[row[j] + 1]
    other = begin if closed[j] else (last - 1 if begin == first else first)
    return points[begin, 0], points[begin, 1], points[other, 0], points[other, 1], other


@numba.njit(cache=True)
def _exchange(x0, y0, ex, ey, lx, ly, item, begin, other, free):  # type: ignore[no-untyped-def]
    """2-opt over n paths from (x0, y0): entries (ex, ey) and exits (lx, ly); returns the
    way saved.
    """
    n, saved = len(item), 0.0
    for _ in range(PASSES):
        better = False
        for i in range(n - 1):
            px, py = (x0, y0) if i == 0 else (lx[i - 1], ly[i - 1])
            into = np.hypot(ex[i] - px, ey[i] - py)
            for j in range(i + 1, n):
                if not free[j] or not free[i]:
                    break
                gain = into - np.hypot(lx[j] - px, ly[j] - py)
                if gain <= 1e-6 and j + 1 == n:
                    continue
                if j + 1 < n:
                    gain += np.hypot(ex[j + 1] - lx[j], ey[j + 1] - ly[j]) - np.hypot(
                        ex[j + 1] - ex[i], ey[j + 1] - ey[i]
                    )
                if gain > 1e-6:
                    a, b = i, j
                    while a <= b:
                        # both ends of the stretch change places, and every path in it is run the
                        # other way
                        ex[a], ey[a], lx[a], ly[a], ex[b], ey[b], lx[b], ly[b] = (
                            lx[b],
                            ly[b],
                            ex[b],
                            ey[b],
                            lx[a],
                            ly[a],
                            ex[a],
                            ey[a],
                        )
                        item[a], item[b] = item[b], item[a]
                        begin[a], other[a], begin[b], other[b] = (
                            other[b],
                            begin[b],
                            other[a],
                            begin[a],
                        )
                        a += 1
                        b -= 1
                    saved += gain
                    better = True
                    into = np.hypot(ex[i] - px, ey[i] - py)
        if not better:
            break
    return saved


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
                    v = _seam(
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
                _exchange(
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
                                v = _seam(
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
                                            _pull(
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
                    _, _, x, y, _ = _ends(points, starts, row, closed, best, begin)
                n = placed - from_
                if how == 2 and 2 < n <= MOST:
                    e1, e2, l1, l2 = np.empty(n), np.empty(n), np.empty(n), np.empty(n)
                    other, free = np.empty(n, np.int64), np.ones(n, np.bool_)
                    for j in range(n):
                        p = sequence[from_ + j]
                        e1[j], e2[j], l1[j], l2[j], other[j] = _ends(
                            points, starts, row, closed, p, entry[from_ + j]
                        )
                        free[j] = not fixed[p]
                    saved += _exchange(
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
