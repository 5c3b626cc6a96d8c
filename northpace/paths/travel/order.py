"""The order paths are laid in, and where each one starts."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numba
import numpy as np

from northpace.moves import FOOTING, GAP, INNER, OUTER
from northpace.paths.bead import spacing
from northpace.paths.table import PathTable
from northpace.paths.travel.improve import Ends, shorten
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
from northpace.paths.travel.tour import (
    AS_CUT,
    IMPROVED,
    TAKE_NEAREST,
    beyond,
    bounds,
    groups_of,
    tour,
)
from northpace.paths.travel.waiting import known_waits, waits_of

#: What of a layer comes first, next and last; and the rank of all that lies inside the walls.
FOOT, STAND, PART, INSIDE = 0, 1, 2, 1_000_000
#: How often entries of closed paths are chosen anew.
AGAIN = 3


@dataclass(frozen=True)
class PathOrder:
    """Sequence (P,) of paths and the point (P,) each starts at (for open paths: its first or its
    last); what is known of its layers.
    """

    sequence: np.ndarray
    entry: np.ndarray
    layers: Layers

    @property
    def saved(self) -> float:
        """Millimetres of travel that shortening saved over taking the nearest."""
        return float(self.layers.gain.sum())

    @property
    def nbytes(self) -> int:
        return self.sequence.nbytes + self.entry.nbytes + sum(col.nbytes for col in self.layers)


class Layers(NamedTuple):
    """How each layer is ordered, counted from its own first path, so that one that did not change
    need not be ordered again.
    """

    #: (N + 1,) where the paths of each layer begin in the sequence
    at: np.ndarray
    #: (N, 2) where the head is before it, in mm
    head: np.ndarray
    #: (P,) path within its layer, by rank, and point of it that is entered
    path: np.ndarray
    point: np.ndarray
    #: (N,) mm of travel that shortening saved
    gain: np.ndarray
    #: (N,) whether it may be taken over
    same: np.ndarray


NO_LAYERS = Layers(
    np.zeros(1, np.int64),
    np.empty((0, 2)),
    np.empty(0, np.int64),
    np.empty(0, np.int64),
    np.empty(0),
    np.empty(0, np.bool_),
)


def order_paths(
    paths: PathTable,
    seam: SeamRule,
    tops: np.ndarray,
    how: str = "improved",
    known: Layers = NO_LAYERS,
) -> PathOrder:
    """Order the paths of a plan.

    Layer by layer; in a layer the footing first, then stand by stand, then island by island. In
    each of these a path waits for those of lower rank that it lies against (inner walls before the
    outer one, walls before what lies inside them), and for nothing else: the head takes the nearest
    that does not wait, so that the walls of a hole mostly follow each other; then the way is
    shortened by exchanging and moving. Outer walls start at the seam, everything else where the
    head is nearest.
    ``how`` "nearest" leaves the shortening out, "as-cut" takes paths by rank and as they come.
    Of layers that are ``known`` the order is taken over where the head comes from the same place.
    """
    how_far = {"as-cut": AS_CUT, "nearest": TAKE_NEAREST, "improved": IMPROVED}[how]
    feature = paths.feature
    part = np.where(paths.island >= 0, PART, np.where(feature == FOOTING, FOOT, STAND))
    group = np.where(part == STAND, paths.cause, paths.island)
    inside = (part == PART) & ~np.isin(feature, (OUTER, INNER, GAP))
    rank = np.where(inside & (how_far != AS_CUT), INSIDE, paths.rank)
    by_layer = np.lexsort((rank, group, part, paths.layer))
    lane = spacing(paths.width[paths.starts[:-1]], paths.height) if len(paths) else np.zeros(0)
    feature = feature[by_layer]
    ways = Ways(
        paths.points,
        paths.starts[by_layer],
        paths.starts[1:][by_layer],
        paths.layer[by_layer],
        part[by_layer],
        group[by_layer],
        rank[by_layer],
        lane[by_layer],
        (feature == OUTER) | ((feature == INNER) & seam.every),
        paths.closed[by_layer],
        paths.fixed[by_layer],
    )
    at = np.searchsorted(ways.layer, np.arange(len(tops) + 1))
    same = np.zeros(len(tops), np.bool_)
    same[: len(known.same)] = known.same
    # layers of which the order is known are looked at where it has to be found after all
    waits = known_waits(ways, at, ~same & (how_far != AS_CUT))
    sequence, entry, head, gain = _order(ways, _goal(seam, paths, tops), how_far, at, known, waits)
    begin = np.repeat(at[:-1], np.diff(at))
    none = np.zeros_like(same)
    layers = Layers(at, head, sequence - begin, entry - ways.first[sequence], gain, none)
    return PathOrder(by_layer[sequence], entry, layers)


def _goal(seam: SeamRule, paths: PathTable, tops: np.ndarray) -> Goal:
    """Where closed paths begin."""
    turn = np.radians(
        np.full(len(tops), seam.bearing) if seam.goal != "spread" else GOLDEN * np.arange(len(tops))
    )
    return Goal(
        {"nearest": NEAREST, "corner": CORNER}.get(seam.goal, BEARING),
        np.cos(turn),
        np.sin(turn),
        tops,
        np.ascontiguousarray(seam.marks, np.float64).reshape(-1, 5),
        seam.drawn(paths),
    )


@numba.njit(cache=True, nogil=True)
def _order(ways, goal, how, layers, known, waits):  # type: ignore[no-untyped-def]
    """Sequence (P,) of the ways and the point each is entered at; by layer where the head is before
    it and the mm saved by shortening. ``layers`` (N + 1,) is where those of each begin, ``waits``
    what is known of what waits for what.
    """
    total = len(ways.layer)
    sequence, entry = np.empty(total, np.int64), np.empty(total, np.int64)
    seams = np.full(total, -1)
    if goal.kind != NEAREST:
        for j in range(total):
            if ways.seamed[j] and ways.closed[j]:
                seams[j] = seam_of(ways, goal, j)
    held = ways.seamed
    if goal.kind == NEAREST and len(goal.marks) == 0 and not goal.drawn.any():
        held = np.zeros(total, np.bool_)
    count = len(layers) - 1
    heads, gains = np.zeros((count, 2)), np.zeros(count)
    x, y, at = 0.0, 0.0, 0
    for n in range(count):
        heads[n, 0], heads[n, 1] = x, y
        if layers[n + 1] == layers[n]:
            continue
        if _known(known, n, x, y):
            before = known.at[n]
            for j in range(layers[n + 1] - layers[n]):
                way = layers[n] + known.path[before + j]
                sequence[at], entry[at] = way, ways.first[way] + known.point[before + j]
                at += 1
            _, _, x, y, _ = _ends_of(ways, sequence[at - 1], entry[at - 1])
            gains[n] = known.gain[n]
            continue
        parts = groups_of(ways.part, layers[n], layers[n + 1])
        for m in range(len(parts) - 1):
            groups = groups_of(ways.group, parts[m], parts[m + 1])
            for chosen in tour(ways, seams, how, groups, x, y):
                k, end = groups[chosen], groups[chosen + 1]
                into = slice(at, at + end - k)
                rules, head = (goal, seams, held, how, waits), (n, k, x, y)
                x, y, gain = _group(ways, rules, head, sequence[into], entry[into])
                gains[n] += gain
                at = into.stop
    return sequence, entry, heads, gains


@numba.njit(cache=True, nogil=True)
def _known(known, n, x, y):  # type: ignore[no-untyped-def]
    """Whether the order of a layer may be taken over, with the head at (x, y)."""
    if n >= len(known.same) or not known.same[n]:
        return False
    return known.head[n, 0] == x and known.head[n, 1] == y


@numba.njit(cache=True, nogil=True)
def _group(ways, rules, head, sequence, entry):  # type: ignore[no-untyped-def]
    """Order the ways of a group: as many as ``sequence``, from ``head``, their layer, their first
    and where the head is. Returns where it ends, and the mm saved by shortening.
    """
    (layer, k, x, y), (goal, seams, held, how, known) = head, rules
    n, head = len(sequence), (k, x, y)
    if how == AS_CUT:
        for j in range(n):
            sequence[j], entry[j] = k + j, ways.first[k + j]
            if ways.closed[k + j]:
                entry[j], _ = _nearest_entry(ways, goal, seams, k + j, x, y)
            _, _, x, y, _ = _ends_of(ways, k + j, entry[j])
        return x, y, 0.0
    waits = waits_of(ways, known, layer, k, k + n)
    _take_nearest(ways, goal, seams, head, waits, sequence, entry)
    saved = 0.0
    if how == IMPROVED and n > 2:
        before = _length(ways, head, sequence, entry)
        _shorten(ways, head, waits, sequence, entry)
        _enter_anew(ways, held, head, sequence, entry)
        saved = before - _length(ways, head, sequence, entry)
    for j in range(n):
        sequence[j] += k
    _, _, x, y, _ = _ends_of(ways, sequence[n - 1], entry[n - 1])
    return x, y, saved


@numba.njit(cache=True, nogil=True)
def _shorten(ways, head, waits, sequence, entry):  # type: ignore[no-untyped-def]
    """Shorten the way; ``sequence`` counts from the first of the ways."""
    k, x, y = head
    n = len(sequence)
    ends = Ends(
        np.empty(n),
        np.empty(n),
        np.empty(n),
        np.empty(n),
        np.empty(n, np.int64),
        np.ones(n, np.bool_),
    )
    for j in range(n):
        p = k + sequence[j]
        ends.ex[j], ends.ey[j], ends.lx[j], ends.ly[j], ends.other[j] = _ends_of(ways, p, entry[j])
        ends.free[j] = not ways.fixed[p]
    shorten(x, y, ends, waits, sequence, entry)


@numba.njit(cache=True, nogil=True)
def _take_nearest(ways, goal, seams, head, waits, sequence, entry):  # type: ignore[no-untyped-def]
    """Take the nearest way next that does not wait for another; ``sequence`` counts from the first
    of the ways.
    """
    k, x, y = head
    n = len(sequence)
    left = waits.before_at[1:] - waits.before_at[:-1]
    box = np.empty((n, 4))
    ready, many = np.empty(n, np.int64), 0
    for j in range(n):
        bounds(ways.points, ways.first[k + j], ways.last[k + j], box[j])
        if left[j] == 0:
            ready[many] = j
            many += 1
    for step in range(n):
        best, begin, closest = -1, 0, np.inf
        for r in range(many):
            j = ready[r]
            if best >= 0 and beyond(box[j], x, y) >= closest:
                continue
            v, away = _nearest_entry(ways, goal, seams, k + j, x, y)
            if away < closest:
                best, begin, closest = r, v, away
        chosen = ready[best]
        many -= 1
        ready[best] = ready[many]
        sequence[step], entry[step] = chosen, begin
        _, _, x, y, _ = _ends_of(ways, k + chosen, begin)
        for w in range(waits.after_at[chosen], waits.after_at[chosen + 1]):
            j = waits.after[w]
            left[j] -= 1
            if left[j] == 0:
                ready[many] = j
                many += 1


@numba.njit(cache=True, nogil=True)
def _enter_anew(ways, held, head, sequence, entry):  # type: ignore[no-untyped-def]
    """Enter closed ways that may begin anywhere where that is shortest between the way before and
    the one behind; ``sequence`` counts from the first of the ways, ``held`` (P,) are those with a
    seam of their own.
    """
    k, hx, hy = head
    n, points = len(sequence), ways.points
    for turn in range(AGAIN):
        for step in range(n):
            j = n - 1 - step if turn % 2 == 0 else step
            p = k + sequence[j]
            if not ways.closed[p] or held[p]:
                continue
            x, y = hx, hy
            if j > 0:
                _, _, x, y, _ = _ends_of(ways, k + sequence[j - 1], entry[j - 1])
            nx, ny = x, y
            if j + 1 < n:
                nx, ny = points[entry[j + 1], 0], points[entry[j + 1], 1]
            entry[j] = _between(points, ways.first[p], ways.last[p], (x, y), (nx, ny))


@numba.njit(cache=True, nogil=True)
def _between(points, first, last, a, b):  # type: ignore[no-untyped-def]
    """The point from ``first`` to ``last`` with the shortest way over it from a to b, both x, y."""
    best, least = first, np.inf
    for v in range(first, last):
        x, y = points[v, 0], points[v, 1]
        far = np.hypot(x - a[0], y - a[1]) + np.hypot(x - b[0], y - b[1])
        if far < least:
            best, least = v, far
    return best


@numba.njit(cache=True, nogil=True)
def _length(ways, head, sequence, entry):  # type: ignore[no-untyped-def]
    """Millimetres of travel over the ways in this order."""
    k, x, y = head
    total = 0.0
    for j in range(len(sequence)):
        ex, ey, lx, ly, _ = _ends_of(ways, k + sequence[j], entry[j])
        total += np.hypot(ex - x, ey - y)
        x, y = lx, ly
    return total


@numba.njit(cache=True, nogil=True)
def _ends_of(ways, j, begin):  # type: ignore[no-untyped-def]
    """Where a path begins and ends when entered at a point, and its entry the other way round."""
    first, last = ways.first[j], ways.last[j]
    other = begin if ways.closed[j] else (last - 1 if begin == first else first)
    points = ways.points
    return points[begin, 0], points[begin, 1], points[other, 0], points[other, 1], other


@numba.njit(cache=True, nogil=True)
def _nearest_entry(ways, goal, seams, j, x, y):  # type: ignore[no-untyped-def]
    """The point a way is entered at from (x, y), and how far it is: what draws the seam counts as
    nearer when the point is chosen, not when the way is.
    """
    points, first, last = ways.points, ways.first[j], ways.last[j]
    if not ways.closed[j]:
        away = np.hypot(points[first, 0] - x, points[first, 1] - y)
        if not ways.fixed[j]:
            other = np.hypot(points[last - 1, 0] - x, points[last - 1, 1] - y)
            if other < away:
                return last - 1, other
        return first, away
    best = seams[j]
    if best < 0:
        best, closest = first, np.inf
        for v in range(first, last):
            away = np.hypot(points[v, 0] - x, points[v, 1] - y)
            if ways.seamed[j]:
                away -= drawn_to(ways, goal, j, v)
            if away < closest:
                best, closest = v, away
    return best, np.hypot(points[best, 0] - x, points[best, 1] - y)
