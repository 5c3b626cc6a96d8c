"""Beads painted onto cells, layer by layer: what lies below a bead is what was painted there
last.
"""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

from northpace.geometry.scanline import grown
from northpace.paths.beads import Beads

#: Stretches in the air shorter than this (mm) are the grain of corners.
LEAST_RUN = 1.0
#: Share noted for a bead that nothing touches from below, but that comes to lie on another bead, or
#: on the bed, once it has sunk by no more than its own height: more than nothing, so it is held.
SUNK = 1e-6


class Grid(NamedTuple):
    """The cells beads are painted onto."""

    #: edge of a cell in mm, x and y in mm of the corner of the first, and how many there are
    cell: float
    x: float
    y: float
    width: int
    depth: int


class Found(NamedTuple):
    """What is found of beads (K,)."""

    #: (K,) share of a bead that rests, and the first bead of the piece of its layer
    share: np.ndarray
    piece: np.ndarray
    #: (R, 3) stretches in the air: bead, length in cells, held
    runs: np.ndarray
    #: (L, 2) beads, and the first beads of the pieces below that they rest on
    links: np.ndarray

    def counted_from(self, first: int) -> Found:
        """The same of beads whose numbers begin elsewhere."""
        runs = self.runs + (float(first), 0.0, 0.0)
        by = np.int32(first)
        return Found(self.share, self.piece + by, runs, self.links + by)


def found_of(
    beads: Beads,
    grid: Grid,
    slack: tuple[float, float, float],
    wanted: np.ndarray,
    painted: np.ndarray,
) -> Found:
    """What beads (K,) of layers (N,) that are wanted rest on; those that are painted are what they
    may rest on. ``slack`` is by how many mm beads may be apart from what holds them: like on like,
    a part on a stand, a stand on a part.
    """
    least = LEAST_RUN / grid.cell
    share, piece, runs, links = _rest(beads, grid.width, grid.depth, slack, least, wanted, painted)
    return Found(share, piece, in_order(runs), links)


def in_order(runs: np.ndarray) -> np.ndarray:
    """Stretches in the air (R, 3) in the order of their beads."""
    return runs[np.argsort(runs[:, 0], kind="stable")]


@numba.njit(cache=True, nogil=True)
def _root(parent, k):  # type: ignore[no-untyped-def]
    while parent[k] != k:
        parent[k] = parent[parent[k]]
        k = parent[k]
    return k


@numba.njit(cache=True, nogil=True)
def _join(parent, a, b):  # type: ignore[no-untyped-def]
    one, two = _root(parent, a), _root(parent, b)
    if one != two:
        # the lower number leads: a piece is known by its first bead
        if one < two:
            parent[two] = one
        else:
            parent[one] = two


@numba.njit(cache=True, nogil=True)
def lost_with(found, layer, volume, on_bed, loose):  # type: ignore[no-untyped-def]
    """(F,) the volume in mm³ that is lost if the piece of a bead in ``loose`` (F,) falls off.

    That is everything laid on this piece alone, up to the layer in which it grows together with
    something that stands on the beads ``on_bed``. ``layer`` and ``volume`` (K,) are those of all
    beads, from the bed up.
    """
    count = len(layer)
    # a forest of bodies; its paths are never shortened, because they tell what grew onto what first
    parent, size = np.arange(count, dtype=np.int32), np.ones(count, np.int32)
    whole, stands, lost = volume.copy(), np.zeros(count, np.bool_), np.full(count, np.nan)
    stands[on_bed] = True
    links, at, i = found.links, 0, 0
    while i < count:
        j = i
        while j < count and layer[j] == layer[i]:
            _grow_together(parent, size, whole, stands, lost, j, found.piece[j])
            j += 1
        while at < len(links) and links[at, 0] < j:
            _grow_together(parent, size, whole, stands, lost, links[at, 0], links[at, 1])
            at += 1
        i = j
    out = np.empty(len(loose))
    for n in range(len(loose)):
        k = loose[n]
        while np.isnan(lost[k]) and parent[k] != k:
            k = parent[k]
        out[n] = whole[k] if np.isnan(lost[k]) else lost[k]
    return out


@numba.njit(cache=True, nogil=True)
def _grow_together(parent, size, whole, stands, lost, a, b):  # type: ignore[no-untyped-def]
    """Make one body of the bodies of two beads. If only one of them stands, note how much of the
    other hung in the air until now.
    """
    while parent[a] != a:
        a = parent[a]
    while parent[b] != b:
        b = parent[b]
    if a == b:
        return
    if stands[a] != stands[b]:
        hung = b if stands[a] else a
        lost[hung] = whole[hung]
    if size[a] < size[b]:
        a, b = b, a
    parent[b] = a
    size[a] += size[b]
    whole[a] += whole[b]
    stands[a] |= stands[b]


@numba.njit(cache=True, nogil=True)
def _rest(beads, width, depth, slack, least, wanted, painted):  # type: ignore[no-untyped-def]
    """By bead (K,) the share of it that rests and the piece of its layer; rows (R, 3) of stretches
    in the air: bead, length in cells, held; and links (L, 2). Only of the layers (N,) that are
    wanted; those that are painted are what they may rest on.
    """
    count = len(beads.row)
    high, last = np.full((width, depth), -1e9, np.float32), np.full((width, depth), -1, np.int32)
    # of millions of beads every byte counts
    share, piece = np.zeros(count, np.float32), np.arange(count, dtype=np.int32)
    runs, used = np.empty((1024, 3)), 0
    links, linked = np.empty((1024, 2), np.int32), 0
    i = 0
    while i < count:
        j = i
        while j < count and beads.layer[j] == beads.layer[i]:
            j += 1
        layer = beads.layer[i]
        if layer == 0:
            share[i:j] = 1.0
        elif wanted[layer]:
            out = (share, piece, runs, used, links, linked, least)
            runs, used, links, linked = _look(beads, i, j, high, last, slack, out)
        if painted[layer]:
            _paint(beads, i, j, high, last, piece)
        i = j
    for k in range(count):
        piece[k] = _root(piece, k)
    return share, piece, runs[:used].copy(), links[:linked].copy()


@numba.njit(cache=True, nogil=True)
def _look(beads, i, j, high, last, slack, out):  # type: ignore[no-untyped-def]
    """What the beads of a layer rest on, before they are painted themselves."""
    share, piece, runs, used, links, linked, least = out
    row, stand, way = beads.row, beads.stand, beads.way
    run, begun_held, middle, most = 0.0, False, i, 0.0
    first, start = -1, i  # a run that begins where its path begins
    for k in range(i, j):
        ax, ay, bx, by = way[k]
        if k == i or row[k] != row[k - 1] + 1:
            run, begun_held, start, first, most = 0.0, False, k, -1, 0.0
        far, half, under, mine = np.hypot(bx - ax, by - ay), beads.half[k], beads.under[k], stand[k]
        # most cells hold nothing high enough: how high is asked first, and of nothing else
        lowest = under - max(slack[0], slack[2] if mine else slack[1])
        steps = max(int(np.ceil(far)), 1)
        hits, own, known, under_it = 0, 0.0, -1, -1
        for s in range(steps):
            x, y = ax + (s + 0.5) / steps * (bx - ax), ay + (s + 0.5) / steps * (by - ay)
            # all in one place: handing this many arrays to a function costs more than a cell
            below = -1
            if high[int(x), int(y)] >= under - slack[0]:
                below = last[int(x), int(y)]
                if stand[below] != mine:
                    below = -1
            for cx in range(int(x - half), int(x + half) + 1):
                if below >= 0:
                    break
                for cy in range(int(y - half), int(y + half) + 1):
                    if high[cx, cy] < lowest:
                        continue
                    other, dx, dy = last[cx, cy], cx + 0.5 - x, cy + 0.5 - y
                    if dx * dx + dy * dy > half * half:
                        continue
                    gap = slack[0]
                    if stand[other] and not mine:
                        gap = slack[1]
                    elif mine and not stand[other]:
                        gap = slack[2]
                    if high[cx, cy] >= under - gap:
                        below = other
                        break
            if below < 0:
                run += far / steps
                own += far / steps
                if own > most:
                    most, middle = own, k
                continue
            hits += 1
            if below != known:
                known = below
                other = _root(piece, below)
                if other != under_it:
                    under_it = other
                    links = grown(links, linked + 1)
                    links[linked, 0], links[linked, 1] = k, other
                    linked += 1
            if run > 0.0:
                if not begun_held:
                    first = used
                if run >= least or not begun_held:
                    runs, used = _note(runs, used, middle, run, begun_held)
            run, begun_held, own, most = 0.0, True, 0.0, 0.0
        share[k] = hits / steps
        if hits == 0:
            least_high = under - (beads.top[k] - under) - slack[0]
            known = _sunk(way[k], half, least_high, mine, beads, high, last)
            if known != -1:
                share[k] = SUNK
            if known >= 0:
                links = grown(links, linked + 1)
                links[linked, 0], links[linked, 1] = k, _root(piece, known)
                linked += 1
        ends = k + 1 == j or row[k + 1] != row[k] + 1
        if ends and (run > 0.0 or first >= 0):
            closed = np.hypot(bx - way[start, 0], by - way[start, 1]) < 0.02 and begun_held
            if closed and first >= 0:
                # a loop that begins in the air: both ends are one stretch
                runs[first, 1] += run
                runs[first, 2] = 1.0
            elif run > 0.0:
                runs, used = _note(runs, used, middle, run, False)
                if closed:
                    runs[used - 1, 2] = 1.0
    return runs, used, links, linked


@numba.njit(cache=True, nogil=True)
def _sunk(way, half, least_high, mine, beads, high, last):  # type: ignore[no-untyped-def]
    """The number of the bead that this one comes to lie on if it sinks by its own height, which is
    down to ``least_high`` mm; −2 if that is the bed, −1 if there is none.
    """
    if least_high <= 0.0:
        return -2
    ax, ay, bx, by = way
    steps = max(int(np.ceil(np.hypot(bx - ax, by - ay))), 1)
    for s in range(steps):
        x, y = ax + (s + 0.5) / steps * (bx - ax), ay + (s + 0.5) / steps * (by - ay)
        for cx in range(int(x - half), int(x + half) + 1):
            for cy in range(int(y - half), int(y + half) + 1):
                dx, dy = cx + 0.5 - x, cy + 0.5 - y
                if dx * dx + dy * dy > half * half or high[cx, cy] < least_high:
                    continue
                if beads.stand[last[cx, cy]] == mine:
                    return last[cx, cy]
    return -1


@numba.njit(cache=True, nogil=True)
def _note(runs, used, middle, run, held):  # type: ignore[no-untyped-def]
    runs = grown(runs, used + 1)
    runs[used, 0], runs[used, 1], runs[used, 2] = middle, run, 1.0 if held else 0.0
    return runs, used + 1


@numba.njit(cache=True, nogil=True)
def _paint(beads, i, j, high, last, piece):  # type: ignore[no-untyped-def]
    """Paint the beads of a layer a little wider than they are; what touches is one piece.

    A bead is a bar with round ends. Its cells are a stretch in every row across the axis u it runs
    along: between its sides where those are, its round ends beyond.
    """
    way, halves, tops = beads.way, beads.half, beads.top
    for k in range(i, j):
        au, av, bu, bv = way[k]
        turned = abs(bv - av) > abs(bu - au)
        if turned:
            au, av, bu, bv = av, au, bv, bu
        if bu < au:
            au, av, bu, bv = bu, bv, au, av
        half, top, known = halves[k] + 0.5, np.float32(tops[k]), -1
        far = np.hypot(bu - au, bv - av)
        along, across = (half * (bu - au) / far, half * (bv - av) / far) if far > 0 else (half, 0.0)
        slope = across / along
        for cu in range(int(np.ceil(au - half - 0.5)), int(bu + half - 0.5) + 1):
            u = cu + 0.5
            low = av - along + slope * (u - au - across)
            if u < au + across:
                low = av - np.sqrt(max(half * half - (u - au) ** 2, 0.0))
            elif u > bu + across:
                low = bv - np.sqrt(max(half * half - (u - bu) ** 2, 0.0))
            most = av + along + slope * (u - au + across)
            if u < au - across:
                most = av + np.sqrt(max(half * half - (u - au) ** 2, 0.0))
            elif u > bu - across:
                most = bv + np.sqrt(max(half * half - (u - bu) ** 2, 0.0))
            for cv in range(int(np.ceil(low - 0.5)), int(most - 0.5) + 1):
                cx, cy = (cv, cu) if turned else (cu, cv)
                other = last[cx, cy]
                last[cx, cy] = k
                if other < i:
                    high[cx, cy] = top
                elif other != known or top > high[cx, cy]:
                    known = other
                    high[cx, cy] = max(high[cx, cy], top)
                    _join(piece, k, other)
