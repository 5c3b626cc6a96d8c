"""What every bead rests on, told from the beads that are laid and from nothing else.

The beads of a layer are painted onto a grid that remembers, cell by cell, how high the last bead
there reaches. A bead rests where some cell under its width holds a bead that reaches its underside.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numba
import numpy as np

from northpace.geometry.threads import THREADS, in_threads
from northpace.moves import ROOF, SUPPORT
from northpace.paths.bead import compiled_area
from northpace.paths.beads import Beads, looked_at_again, lowest_reached
from northpace.paths.painting import LEAST_RUN, Found, Grid, found_of, in_order, lost_with
from northpace.paths.travel.rows import Rows

#: Cells of the grid in mm, and how many there are at most: what is larger gets larger cells.
CELL, MOST_CELLS = 0.2, 6_000_000
#: Beads of which is kept what is known of each (120 MB), and of which it is found at once.
MOST_KEPT, AT_ONCE = 1_000_000, 300_000
#: Beads count as touching across this much height (mm).
SLACK = 0.03
#: What is laid, in mm³, from which on a second thread is worth its own grid.
WORTH = 4_000.0


@dataclass(frozen=True)
class Resting:
    """What rests on what."""

    #: (F,) of every piece of a layer that begins in mid-air: its row, its volume (mm³), and the
    #: volume that is lost if it falls off. A piece that comes to lie on something once it has sunk
    #: by its own height is none of them.
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


@dataclass(frozen=True)
class Known:
    """What is known bead by bead, for the next time: where nothing changed it stays."""

    beads: Beads
    grid: Grid
    #: mm by which beads may be apart from what holds them: like on like, a part on a stand, a stand
    #: on a part
    slack: tuple[float, float, float]
    found: Found

    @property
    def nbytes(self) -> int:
        return sum(column.nbytes for column in (*self.beads, *self.found))


def resting(rows: Rows, gap_above: float, gap_below: float, before: Known | None = None) -> Resting:
    """What the beads of rows (M,) rest on; ``gap_above`` and ``gap_below`` (mm) are what is left
    open over and under stands. Of layers that are as they were ``before``, what is known is taken
    over.
    """
    laid = np.flatnonzero((rows.width > 0) & (rows.layer >= 0))
    if len(laid) == 0:
        return _nothing()
    if (np.diff(rows.layer[laid]) < 0).any():
        laid = laid[np.argsort(rows.layer[laid], kind="stable")]
    volume, (*box, widest, tall) = _measured(rows.x, rows.y, rows.width, rows.height, laid)
    grid = _grid(box, widest)
    slack = (SLACK, gap_above + tall + SLACK, gap_below + tall + SLACK)
    beads = _beads(rows, laid, grid) if len(laid) <= MOST_KEPT else None
    known = _gone_on(before, beads, grid, slack) if before and beads else None
    if known:
        found = known.found
    else:
        some = beads.some if beads else lambda mine: _beads(rows, laid[mine], grid)
        found = _all_found(rows, laid, some, grid, slack, volume)
        known = Known(beads, grid, slack, found) if beads else None
    runs = found.runs[found.runs[:, 1] * grid.cell >= LEAST_RUN]
    loose, sums = _loose(found.share, found.piece, volume)
    hanging = sums
    if len(loose):
        on_bed = np.flatnonzero(rows.layer[laid] == 0)
        links = found.links[np.argsort(found.links[:, 0], kind="stable")]
        by_bead = found._replace(links=links)
        hanging = lost_with(by_bead, rows.layer[laid], volume, on_bed, loose)
    run = runs[:, 0].astype(np.int64)
    return Resting(
        laid[loose],
        sums,
        np.maximum(hanging, sums),
        laid[run],
        # a bead rests from where its side reaches what holds it, half its width before its middle
        runs[:, 1] * grid.cell + rows.width[laid[run]] + grid.cell,
        runs[:, 2] > 0,
        known,
    )


def _nothing() -> Resting:
    none, no_bead = np.empty(0, np.int64), np.empty(0)
    return Resting(none, no_bead, no_bead, none, no_bead, none > 0, None)


@numba.njit(cache=True, nogil=True)
def _measured(x, y, width, height, laid):  # type: ignore[no-untyped-def]
    """(K,) volume in mm³ of the beads of some rows (K,); and lowest x and y, highest x and y,
    largest width and largest height of all, in mm.
    """
    volume = np.empty(len(laid))
    low_x = low_y = np.inf
    high_x = high_y = -np.inf
    widest = tallest = 0.0
    for k in range(len(laid)):
        m = laid[k]
        volume[k] = np.hypot(x[m] - x[m - 1], y[m] - y[m - 1]) * compiled_area(width[m], height[m])
        low_x, high_x = min(low_x, x[m - 1], x[m]), max(high_x, x[m - 1], x[m])
        low_y, high_y = min(low_y, y[m - 1], y[m]), max(high_y, y[m - 1], y[m])
        widest = max(widest, np.float64(width[m]))
        tallest = max(tallest, np.float64(height[m]))
    return volume, (low_x, low_y, high_x, high_y, widest, tallest)


def _grid(box: list[float], widest: float) -> Grid:
    """Cells for all beads, and for what is a little wider somewhere after a change; ``box`` are
    lowest x and y and highest x and y of their middles in mm.
    """
    low, high = np.array(box[:2]), np.array(box[2:])
    cell = max(CELL, float(np.sqrt(np.prod(high - low + 4.0) / MOST_CELLS)))
    # the widest bead reaches beyond the outermost place by half its width and the grain of a cell
    room = widest / 2 + 3 * cell
    # whole millimetres, so that what is a little wider somewhere leaves all cells where they are
    low, high = np.floor(low - room), np.ceil(high + room)
    width, depth = (np.ceil((high - low) / cell).astype(np.int64) + 1).tolist()
    return Grid(cell, float(low[0]), float(low[1]), width, depth)


def _beads(rows: Rows, laid: np.ndarray, grid: Grid) -> Beads:
    """The beads of some rows (K,)."""
    way = np.column_stack([rows.x[laid - 1], rows.y[laid - 1], rows.x[laid], rows.y[laid]])
    way -= np.array([grid.x, grid.y, grid.x, grid.y])
    way /= grid.cell
    top, feature = rows.z[laid], rows.feature[laid]
    return Beads(
        laid,
        rows.layer[laid],
        (feature == SUPPORT) | (feature == ROOF),
        way,
        top,
        top - rows.height[laid],
        rows.width[laid].astype(np.float64) / 2 / grid.cell,
    )


@numba.njit(cache=True, nogil=True)
def _loose(share, piece, volume):  # type: ignore[no-untyped-def]
    """(F,) the first beads of the pieces of a layer that nothing holds, and their volume in mm³."""
    held, whole = np.zeros(len(piece), np.bool_), np.zeros(len(piece), np.float64)
    for k in range(len(piece)):
        held[piece[k]] |= share[k] > 0
        whole[piece[k]] += volume[k]
    count = 0
    for k in range(len(piece)):
        count += piece[k] == k and not held[k]
    loose, at = np.empty(count, np.int64), 0
    for k in range(len(piece)):
        if piece[k] == k and not held[k]:
            loose[at] = k
            at += 1
    return loose, whole[loose]


def _gone_on(
    before: Known, beads: Beads, grid: Grid, slack: tuple[float, float, float]
) -> Known | None:
    """What is known of beads by what was known of those before; None where that helps little."""
    if grid != before.grid or slack != before.slack:
        return None
    again = looked_at_again(beads, before.beads, max(slack))
    if again is None:
        return None
    number = np.flatnonzero(again.wanted | again.painted)
    ends = (number[0], number[-1] + 1) if len(number) else (0, 0)
    mine = slice(*np.searchsorted(beads.layer, ends).tolist())
    new = found_of(beads.some(mine), grid, slack, again.wanted, again.painted)
    new = new.counted_from(mine.start)
    share, piece = np.zeros(len(beads.row), np.float32), np.arange(len(beads.row), dtype=np.int32)
    share[mine], piece[mine] = new.share, new.piece
    layer, old = before.beads.layer, before.found
    kept = np.flatnonzero(~again.wanted[layer])
    into = kept + again.moved[layer[kept]]
    share[into] = old.share[kept]
    piece[into] = old.piece[kept] + again.moved[layer[kept]]
    of = layer[old.runs[:, 0].astype(np.int64)]
    stays = ~again.wanted[of]
    old_runs = old.runs[stays].copy()
    old_runs[:, 0] += again.moved[of[stays]]
    of = layer[old.links]
    stays = ~again.wanted[of[:, 0]]
    old_links = (old.links[stays] + again.moved[of[stays]]).astype(np.int32)
    runs = in_order(np.concatenate([old_runs, new.runs]))
    links = np.concatenate([old_links, new.links])
    return Known(beads, grid, slack, Found(share, piece, runs, links))


def _all_found(
    rows: Rows,
    laid: np.ndarray,
    beads: Callable[[slice], Beads],
    grid: Grid,
    slack: tuple[float, float, float],
    volume: np.ndarray,
) -> Found:
    """What all beads (K,) rest on: some layers at a time, each time with what these may rest on
    painted too, and in threads where that is worth it. ``beads`` gives a stretch of them.
    """
    number = np.arange(int(rows.layer[laid[-1]]) + 1)
    at = np.asarray(np.searchsorted(rows.layer[laid], np.r_[number, len(number)]))
    first = lowest_reached(rows.z[laid], rows.z[laid] - rows.height[laid], at, max(slack))
    cuts = np.r_[0, rows.layer[laid[_ends(volume)]], len(number)]

    share, piece = np.empty(len(laid), np.float32), np.empty(len(laid), np.int32)

    def within(window: tuple[int, int]) -> tuple[np.ndarray, np.ndarray]:
        low, high = window
        lowest = int(first[low:high].min())
        wanted, painted = number >= low, number >= lowest
        some = beads(slice(at[lowest], at[high]))
        found = found_of(some, grid, slack, wanted, painted).counted_from(at[lowest])
        mine = slice(at[low] - at[lowest], None)
        share[at[low] : at[high]], piece[at[low] : at[high]] = found.share[mine], found.piece[mine]
        return found.runs, found.links

    found = in_threads(within, list(pairwise(np.unique(cuts).tolist())))
    runs, links = (np.concatenate(column) for column in zip(*found, strict=True))
    return Found(share, piece, runs, links)


def _ends(volume: np.ndarray) -> np.ndarray:
    """Beads (K,) after which others are looked at, so that each time about as much is laid."""
    far = np.cumsum(volume)
    parts = max(THREADS if far[-1] > WORTH else 1, -(-len(far) // AT_ONCE))
    return np.searchsorted(far, far[-1] * np.arange(1, parts) / parts)
