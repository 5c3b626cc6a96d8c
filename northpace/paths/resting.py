"""What every bead rests on, told from the beads that are laid and from nothing else.

The beads of a layer are painted onto a grid that remembers, cell by cell, how high the last bead
there reaches. A bead rests where some cell under its width holds a bead that reaches its underside.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numba
import numpy as np

from northpace.moves import ROOF, SUPPORT
from northpace.paths.bead import area
from northpace.paths.travel.lay import Rows

#: Cells of the grid in mm, and how many there are at most: what is larger gets larger cells.
CELL, MOST_CELLS = 0.2, 6_000_000
#: Beads count as touching across this much height (mm).
SLACK = 0.03
#: Stretches in the air shorter than this (mm) are the grain of corners.
LEAST_RUN = 1.0


@dataclass(frozen=True)
class Resting:
    """What rests on what."""

    #: (F,) row, volume (mm³), and volume of all that hangs on it alone, of the pieces of a layer
    #: that begin in mid-air
    begins: np.ndarray
    volume: np.ndarray
    hanging: np.ndarray
    #: (R,) row with most of it, length in mm from hold to hold and whether it is held at both ends,
    #: of every stretch in the air
    runs: np.ndarray
    length: np.ndarray
    held: np.ndarray

    @property
    def nbytes(self) -> int:
        return 3 * (self.begins.nbytes + self.runs.nbytes)


class Beads(NamedTuple):
    """Rows that lay something, layer by layer, for the kernel."""

    #: (K,) number of the row, its layer, and whether it is of a stand
    row: np.ndarray
    layer: np.ndarray
    stand: np.ndarray
    #: (K, 4) from x, y to x, y in cells
    way: np.ndarray
    #: (K,) top, underside and half the width: mm, mm, cells
    top: np.ndarray
    under: np.ndarray
    half: np.ndarray


def resting(rows: Rows, gap_above: float, gap_below: float) -> Resting:
    """What the beads of rows (M,) rest on; ``gap_above`` and ``gap_below`` (mm) are what is left
    open over and under stands.
    """
    laid = np.flatnonzero((rows.width > 0) & (rows.layer >= 0))
    none = np.empty(0, np.int64)
    if len(laid) == 0:
        return Resting(none, none, none, none, none, none)
    laid = laid[np.argsort(rows.layer[laid], kind="stable")]
    xy = np.column_stack([rows.x[laid - 1], rows.y[laid - 1], rows.x[laid], rows.y[laid]])
    low, high = xy.reshape(-1, 2).min(axis=0), xy.reshape(-1, 2).max(axis=0)
    cell = max(CELL, float(np.sqrt(np.prod(high - low + 4.0) / MOST_CELLS)))
    # the widest bead reaches beyond the outermost place by half its width and the grain of a cell
    room = float(rows.width[laid].max()) / 2 + 3 * cell
    low, size = low - room, high - low + 2 * room
    beads = Beads(
        laid,
        rows.layer[laid],
        (rows.feature[laid] == SUPPORT) | (rows.feature[laid] == ROOF),
        (xy - np.tile(low, 2)) / cell,
        rows.z[laid],
        rows.z[laid] - rows.height[laid],
        rows.width[laid].astype(np.float64) / 2 / cell,
    )
    tall = float(rows.height[laid].max())
    shape = np.ceil(size / cell).astype(np.int64) + 1
    slack = (SLACK, gap_above + tall + SLACK, gap_below + tall + SLACK)
    share, piece, body, found = _rest(beads, shape[0], shape[1], slack, LEAST_RUN / cell)
    found = found[found[:, 1] * cell >= LEAST_RUN]
    length = np.hypot(*(xy[:, 2:] - xy[:, :2]).T)
    volume = length * area(rows.width[laid], rows.height[laid])
    count = len(laid)
    hits = np.bincount(piece, share, count)
    sums, bodies = np.bincount(piece, volume, count), np.bincount(body[:-1], volume, count + 1)
    loose = np.flatnonzero((hits[piece] == 0) & (piece == np.arange(count)))
    alone = body[loose] != body[-1]  # the rest grows together with what stands, further up
    run = found[:, 0].astype(np.int64)
    return Resting(
        laid[loose],
        sums[loose],
        np.where(alone, bodies[body[loose]], sums[loose]),
        laid[run],
        # a bead rests from where its side reaches what holds it, half its width before its middle
        found[:, 1] * cell + rows.width[laid[run]] + cell,
        found[:, 2] > 0,
    )


@numba.njit(cache=True)
def _root(parent, k):  # type: ignore[no-untyped-def]
    while parent[k] != k:
        parent[k] = parent[parent[k]]
        k = parent[k]
    return k


@numba.njit(cache=True)
def _join(parent, a, b):  # type: ignore[no-untyped-def]
    one, two = _root(parent, a), _root(parent, b)
    if one != two:
        # the lower number leads, so that the bed, which is the last, never does
        if one < two:
            parent[two] = one
        else:
            parent[one] = two


@numba.njit(cache=True)
def _rest(beads, width, depth, slack, least):  # type: ignore[no-untyped-def]
    """By bead (K,): the share of it that rests; the piece of its layer and (K + 1,) the body it
    belongs to, the last of them that of the bed; and rows (R, 3) of stretches in the air: bead,
    length in cells, held.
    """
    count = len(beads.row)
    high, last = np.full((width, depth), -1e9, np.float32), np.full((width, depth), -1, np.int32)
    share = np.zeros(count)
    piece, body = np.arange(count), np.arange(count + 1)
    runs, used = np.empty((1024, 3)), 0
    i = 0
    while i < count:
        j = i
        while j < count and beads.layer[j] == beads.layer[i]:
            j += 1
        if beads.layer[i] == 0:
            for k in range(i, j):
                share[k] = 1.0
                _join(body, k, count)
        else:
            runs, used = _look(beads, i, j, high, last, slack, (share, body, runs, used, least))
        _paint(beads, i, j, high, last, piece, body)
        i = j
    for k in range(count):
        piece[k] = _root(piece, k)
    for k in range(count + 1):
        body[k] = _root(body, k)
    return share, piece, body, runs[:used].copy()


@numba.njit(cache=True)
def _look(beads, i, j, high, last, slack, out):  # type: ignore[no-untyped-def]
    """What the beads of a layer rest on, before they are painted themselves."""
    share, body, runs, used, least = out
    row, stand, way = beads.row, beads.stand, beads.way
    run, begun_held, middle, most = 0.0, False, i, 0.0
    first, start = -1, i  # a run that begins where its path begins
    for k in range(i, j):
        ax, ay, bx, by = way[k]
        if k == i or row[k] != row[k - 1] + 1:
            run, begun_held, start, first, most = 0.0, False, k, -1, 0.0
        far, half, under, mine = np.hypot(bx - ax, by - ay), beads.half[k], beads.under[k], stand[k]
        steps = max(int(np.ceil(far)), 1)
        hits, own, known = 0, 0.0, -1
        for s in range(steps):
            x, y = ax + (s + 0.5) / steps * (bx - ax), ay + (s + 0.5) / steps * (by - ay)
            # all in one place: handing this many arrays to a function costs more than a cell
            below = last[int(x), int(y)]
            if below < 0 or stand[below] != mine or high[int(x), int(y)] < under - slack[0]:
                below = -1
            for cx in range(int(x - half), int(x + half) + 1):
                if below >= 0:
                    break
                for cy in range(int(y - half), int(y + half) + 1):
                    other, dx, dy = last[cx, cy], cx + 0.5 - x, cy + 0.5 - y
                    if other < 0 or dx * dx + dy * dy > half * half:
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
                _join(body, k, below)
            if run > 0.0:
                if not begun_held:
                    first = used
                if run >= least or not begun_held:
                    runs, used = _note(runs, used, middle, run, begun_held)
            run, begun_held, own, most = 0.0, True, 0.0, 0.0
        share[k] = hits / steps
        ends = k + 1 == j or row[k + 1] != row[k] + 1
        if ends and run > 0.0:
            closed = np.hypot(bx - way[start, 0], by - way[start, 1]) < 0.02 and begun_held
            if closed and first >= 0:
                # a loop that begins in the air: both ends are one stretch
                runs[first, 1] += run
                runs[first, 2] = 1.0
            else:
                runs, used = _note(runs, used, middle, run, False)
                if closed:
                    runs[used - 1, 2] = 1.0
    return runs, used


@numba.njit(cache=True)
def _note(runs, used, middle, run, held):  # type: ignore[no-untyped-def]
    if used == len(runs):
        longer = np.empty((2 * used, 3))
        longer[:used] = runs
        runs = longer
    runs[used, 0], runs[used, 1], runs[used, 2] = middle, run, 1.0 if held else 0.0
    return runs, used + 1


@numba.njit(cache=True)
def _paint(beads, i, j, high, last, piece, body):  # type: ignore[no-untyped-def]
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
                if other < i:
                    high[cx, cy] = top
                else:
                    if other != known:
                        known = other
                        _join(piece, k, other)
                        _join(body, k, other)
                    high[cx, cy] = max(high[cx, cy], top)
                last[cx, cy] = k
