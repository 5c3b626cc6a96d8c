"""Beads of a plan, and in which layers it has to be looked again at what they rest on."""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

#: Where more than this share of the layers has to be looked at again, all are.
MOST = 0.5


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

    def some(self, mine: slice) -> Beads:
        """A stretch of them."""
        return Beads(*(column[mine] for column in self))


class Again(NamedTuple):
    """What has to be done again, of N layers."""

    #: (N,) layers that are looked at, and those that have to be painted for them
    wanted: np.ndarray
    painted: np.ndarray
    #: (N,) by how much the numbers of a layer's beads are higher than before
    moved: np.ndarray


def looked_at_again(beads: Beads, before: Beads, slack: float) -> Again | None:
    """What changed from the beads ``before``, and what lies on that: a bead rests on what reaches
    its underside but for ``slack`` mm. None where that is most of it.
    """
    both, count = (beads, before), 1 + int(max(beads.layer[-1], before.layer[-1]))
    at, old_at = (np.searchsorted(some.layer, np.arange(count + 1)) for some in both)
    other = _differ(beads, before, at, old_at)
    number = np.arange(count)
    first = np.minimum(
        lowest_reached(beads.top, beads.under, at, slack),
        lowest_reached(before.top, before.under, old_at, slack),
    )
    changed = np.r_[0, np.cumsum(other)]
    wanted = other | (changed[number] > changed[first])
    if wanted.mean() > MOST:
        return None
    steps = np.bincount(first[wanted], minlength=count + 1)
    steps -= np.bincount(number[wanted] + 1, minlength=count + 1)
    return Again(wanted, np.cumsum(steps)[:count] > 0, at[:-1] - old_at[:-1])


def lowest_reached(top: np.ndarray, under: np.ndarray, at: np.ndarray, slack: float) -> np.ndarray:
    """(N,) the lowest layer on which beads of each may rest: that reaches its undersides but for
    ``slack`` mm. ``top`` and ``under`` (K,) are those of the beads; those of a layer begin at
    ``at`` (N + 1,).
    """
    tops = np.maximum.accumulate(by_layer(np.maximum, top, at, -np.inf))
    unders = by_layer(np.minimum, under, at, np.inf)
    return np.minimum(np.searchsorted(tops, unders - slack), np.arange(len(tops)))


def by_layer(most: np.ufunc, values: np.ndarray, at: np.ndarray, none: float) -> np.ndarray:
    """(N,) the most of values (K,) of each layer, whose beads begin at ``at`` (N + 1,)."""
    out = np.full(len(at) - 1, none)
    some = np.flatnonzero(np.diff(at))
    out[some] = most.reduceat(values, at[some])
    return out


@numba.njit(cache=True, nogil=True)
def _differ(beads, before, at, old_at):  # type: ignore[no-untyped-def]
    """(N,) in which layers beads differ; those of a layer begin at ``at`` (N + 1,), and did at
    ``old_at``. A path is broken where the next bead is not the next row.
    """
    count = len(at) - 1
    out = np.zeros(count, np.bool_)
    for n in range(count):
        first, there = at[n], old_at[n]
        out[n] = at[n + 1] - first != old_at[n + 1] - there
        for i in range(0 if out[n] else at[n + 1] - first):
            k, j = first + i, there + i
            same = beads.stand[k] == before.stand[j] and beads.half[k] == before.half[j]
            same &= beads.top[k] == before.top[j] and beads.under[k] == before.under[j]
            for c in range(4):
                same &= beads.way[k, c] == before.way[j, c]
            if i > 0:
                follows = beads.row[k] - beads.row[k - 1] == 1
                same &= follows == (before.row[j] - before.row[j - 1] == 1)
            if not same:
                out[n] = True
                break
    return out
