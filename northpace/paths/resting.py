"""What every bead rests on, told from the beads that are laid and from nothing else.

The beads of a layer are painted onto a grid that remembers, cell by cell, how high the last bead
there reaches. A bead rests where some cell under its width holds a bead that reaches its underside.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numba
import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from northpace.geometry.scanline import grown
from northpace.geometry.threads import THREADS, in_threads
from northpace.moves import ROOF, SUPPORT
from northpace.paths.bead import area
from northpace.paths.beads import Beads, looked_at_again, lowest_reached
from northpace.paths.travel.rows import Rows

#: Cells of the grid in mm, and how many there are at most: what is larger gets larger cells.
CELL, MOST_CELLS = 0.2, 6_000_000
#: Beads of which is kept what is known of each: 120 MB.
MOST_KEPT = 1_000_000
#: Beads count as touching across this much height (mm).
SLACK = 0.03
#: Stretches in the air shorter than this (mm) are the grain of corners.
LEAST_RUN = 1.0
#: Cells along beads from which on a second thread is worth its own grid.
WORTH = 200_000


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
    #: what is known bead by bead; of more than `MOST_KEPT` it would take too much room
    known: Known | None

    @property
    def nbytes(self) -> int:
        kept = self.known.nbytes if self.known else 0
        return 3 * (self.begins.nbytes + self.runs.nbytes) + kept


class Grid(NamedTuple):
    """The cells beads are painted onto."""

    #: edge of a cell in mm, x and y in mm of the corner of the first, and how many there are
    cell: float
    x: float
    y: float
    width: int
    depth: int


@dataclass(frozen=True)
class Known:
    """What is known bead by bead, for the next time: where nothing changed it stays."""

    beads: Beads
    grid: Grid
    #: mm by which beads may be apart from what holds them: like on like, a part on a stand, a stand
    #: on a part
    slack: tuple[float, float, float]
    #: (K,) share of a bead that rests, and the first bead of the piece of its layer
    share: np.ndarray
    piece: np.ndarray
    #: (R, 3) stretches in the air: bead, length in cells, held
    runs: np.ndarray
    #: (L, 2) beads, and the first beads of the pieces below that they rest on
    links: np.ndarray

    @property
    def nbytes(self) -> int:
        columns = (*self.beads, self.share, self.piece, self.runs, self.links)
        return sum(column.nbytes for column in columns)


def resting(rows: Rows, gap_above: float, gap_below: float, before: Known | None = None) -> Resting:
    """What the beads of rows (M,) rest on; ``gap_above`` and ``gap_below`` (mm) are what is left
    open over and under stands. Of layers that are as they were ``before``, what is known is taken
    over.
    """
    laid = np.flatnonzero((rows.width > 0) & (rows.layer >= 0))
    laid = laid[np.argsort(rows.layer[laid], kind="stable")]
    if len(laid) == 0:
        return _nothing()
    xy = np.column_stack([rows.x[laid - 1], rows.y[laid - 1], rows.x[laid], rows.y[laid]])
    low = np.array([min(xy[:, k].min(), xy[:, k + 2].min()) for k in (0, 1)])
    high = np.array([max(xy[:, k].max(), xy[:, k + 2].max()) for k in (0, 1)])
    cell = max(CELL, float(np.sqrt(np.prod(high - low + 4.0) / MOST_CELLS)))
    # the widest bead reaches beyond the outermost place by half its width and the grain of a cell
    room = float(rows.width[laid].max()) / 2 + 3 * cell
    # whole millimetres, so that what is a little wider somewhere leaves all cells where they are
    low, high = np.floor(low - room), np.ceil(high + room)
    size = high - low
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
    width, depth = (np.ceil(size / cell).astype(np.int64) + 1).tolist()
    grid = Grid(cell, float(low[0]), float(low[1]), width, depth)
    slack = (SLACK, gap_above + tall + SLACK, gap_below + tall + SLACK)
    count, length = len(laid), np.hypot(*(xy[:, 2:] - xy[:, :2]).T)
    known = _gone_on(before, beads, grid, slack) if before else None
    if known is None:
        known = Known(beads, grid, slack, *_all_rested(beads, grid, slack))
    found = known.runs[known.runs[:, 1] * cell >= LEAST_RUN]
    volume = length * area(rows.width[laid], rows.height[laid])
    sums = np.bincount(known.piece, volume, count)
    loose = np.flatnonzero(_loose(known))
    hanging = _hanging(known, loose, volume) if len(loose) else sums[loose]
    run = found[:, 0].astype(np.int64)
    return Resting(
        laid[loose],
        sums[loose],
        np.where(np.isnan(hanging), sums[loose], hanging),
        laid[run],
        # a bead rests from where its side reaches what holds it, half its width before its middle
        found[:, 1] * cell + rows.width[laid[run]] + cell,
        found[:, 2] > 0,
        known if count <= MOST_KEPT else None,
    )


def _nothing() -> Resting:
    none, no_bead = np.empty(0, np.int64), np.empty(0)
    return Resting(none, no_bead, no_bead, none, no_bead, none > 0, None)


def _hanging(known: Known, loose: np.ndarray, volume: np.ndarray) -> np.ndarray:
    """(F,) volume in mm³ of all that hangs on the pieces of some beads (F,) alone; NaN where it
    grows together with what stands, further up. ``volume`` (K,) is that of every bead.
    """
    count = len(volume)
    on_bed = np.flatnonzero(known.beads.layer == 0)
    one = np.r_[known.links[:, 0], np.arange(count), on_bed]
    two = np.r_[known.links[:, 1], known.piece, np.full(len(on_bed), count)]
    joined = coo_array((np.ones(len(one), bool), (one, two)), shape=(count + 1, count + 1))
    _, body = connected_components(joined, directed=False)
    whole = np.bincount(body[:-1], volume, body.max() + 1)
    return np.where(body[loose] != body[-1], whole[body[loose]], np.nan)


def _loose(known: Known) -> np.ndarray:
    """(K,) which beads are the first of a piece that nothing holds."""
    count = len(known.share)
    hits = np.bincount(known.piece, known.share, count)
    return np.asarray((hits[known.piece] == 0) & (known.piece == np.arange(count)))


def _gone_on(
    before: Known, beads: Beads, grid: Grid, slack: tuple[float, float, float]
) -> Known | None:
    """What is known of beads by what was known of those before; None where that helps little."""
    if grid != before.grid or slack != before.slack:
        return None
    again = looked_at_again(beads, before.beads, max(slack))
    if again is None:
        return None
    share, piece, runs, links = _rested(beads, grid, slack, again.wanted, again.painted)
    layer = before.beads.layer
    kept = np.flatnonzero(~again.wanted[layer])
    into = kept + again.moved[layer[kept]]
    share[into] = before.share[kept]
    piece[into] = before.piece[kept] + again.moved[layer[kept]]
    layer = layer[before.runs[:, 0].astype(np.int64)]
    stays = ~again.wanted[layer]
    old = before.runs[stays].copy()
    old[:, 0] += again.moved[layer[stays]]
    layer = before.beads.layer[before.links]
    stays = ~again.wanted[layer[:, 0]]
    kept_links = before.links[stays] + again.moved[layer[stays]]
    return Known(
        *(beads, grid, slack, share, piece),
        _in_order(np.concatenate([old, runs])),
        np.concatenate([kept_links, links]),
    )


def _all_rested(
    beads: Beads, grid: Grid, slack: tuple[float, float, float]
) -> tuple[np.ndarray, ...]:
    """The same of all layers: in two threads where that is worth it, each with the layers its own
    may rest on painted too.
    """
    number = np.arange(int(beads.layer[-1]) + 1)
    at = np.asarray(np.searchsorted(beads.layer, np.r_[number, len(number)]))
    far = np.cumsum(np.hypot(*(beads.way[:, 2:] - beads.way[:, :2]).T))
    parts = THREADS if far[-1] > WORTH else 1
    ends = np.searchsorted(far, far[-1] * np.arange(1, parts) / parts)
    cuts = np.unique(np.r_[0, beads.layer[ends], len(number)])
    first = lowest_reached(beads, at, max(slack))

    def some(window: tuple[int, int]) -> tuple[np.ndarray, ...]:
        low, high = window
        wanted = (number >= low) & (number < high)
        painted = (number >= first[low:high].min()) & (number < high)
        found = _rested(beads, grid, slack, wanted, painted)
        return *(column[at[low] : at[high]] for column in found[:2]), *found[2:]

    found = in_threads(some, list(zip(cuts[:-1].tolist(), cuts[1:].tolist(), strict=True)))
    return tuple(np.concatenate(column) for column in zip(*found, strict=True))


def _in_order(runs: np.ndarray) -> np.ndarray:
    """Stretches in the air (R, 3) in the order of their beads."""
    return runs[np.argsort(runs[:, 0], kind="stable")]


def _rested(
    beads: Beads,
    grid: Grid,
    slack: tuple[float, float, float],
    wanted: np.ndarray,
    painted: np.ndarray,
) -> tuple[np.ndarray, ...]:
    """Shares, pieces, stretches in the air and links, as in `Known`, of the layers (N,) that are
    wanted; those that are painted are what they may rest on.
    """
    least = LEAST_RUN / grid.cell
    share, piece, runs, links = _rest(beads, grid.width, grid.depth, slack, least, wanted, painted)
    return share, piece, _in_order(runs), links


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
def _rest(beads, width, depth, slack, least, wanted, painted):  # type: ignore[no-untyped-def]
    """By bead (K,) the share of it that rests and the piece of its layer; rows (R, 3) of stretches
    in the air: bead, length in cells, held; and links (L, 2). Only of the layers (N,) that are
    wanted; those that are painted are what they may rest on.
    """
    count = len(beads.row)
    high, last = np.full((width, depth), -1e9, np.float32), np.full((width, depth), -1, np.int32)
    share = np.zeros(count)
    piece = np.arange(count)
    runs, used = np.empty((1024, 3)), 0
    links, linked = np.empty((1024, 2), np.int64), 0
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
        steps = max(int(np.ceil(far)), 1)
        hits, own, known, under_it = 0, 0.0, -1, -1
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
    return runs, used, links, linked


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
                if other < i:
                    high[cx, cy] = top
                else:
                    if other != known:
                        known = other
                        _join(piece, k, other)
                    high[cx, cy] = max(high[cx, cy], top)
                last[cx, cy] = k
