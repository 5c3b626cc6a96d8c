"""Find which paths have to wait for others, such as inner walls that come after outer ones. This
does not depend on where the head is, so it is done in threads before the paths are ordered.
"""

from __future__ import annotations

from itertools import pairwise
from typing import Any, NamedTuple

import numba
import numpy as np

from northpace.geometry.scanline import grown
from northpace.geometry.threads import THREADS, in_threads
from northpace.paths.travel.tour import groups_of
from northpace.paths.travel.waits import both_ways, pairs_of


class Known(NamedTuple):
    """Which ways wait for which others, found before they are ordered."""

    #: (W,) way that way k waits for: ``before[at[k]:at[k + 1]]``
    before: np.ndarray
    at: np.ndarray
    #: (N,) layers that it is known of
    layers: np.ndarray


def known_waits(ways: Any, layers: np.ndarray, wanted: np.ndarray) -> Known:
    """Find in threads for which others the ways of some layers wait. ``wanted`` (N,) says which
    layers, and ``layers`` (N + 1,) is where the ways of each layer begin.
    """
    shares = layers[-1] * np.arange(1, THREADS) / THREADS
    ends = np.unique(np.r_[0, np.searchsorted(layers, shares), len(wanted)])
    windows = list(pairwise(ends.tolist()))
    found = in_threads(lambda window: _in_layers(ways, layers, wanted, *window), windows)
    before, count = (np.concatenate(column) for column in zip(*found, strict=True))
    return Known(before, np.r_[0, np.cumsum(count)], wanted)


@numba.njit(cache=True, nogil=True)
def _in_layers(ways, layers, wanted, low, high):  # type: ignore[no-untyped-def]
    """What ways of some layers wait for, one after the other, and for how many each."""
    first = layers[low]
    count, before, used = np.zeros(layers[high] - first, np.int64), np.empty((1024, 1), np.int64), 0
    for n in range(low, high):
        if not wanted[n] or layers[n + 1] == layers[n]:
            continue
        parts = groups_of(ways.part, layers[n], layers[n + 1])
        for m in range(len(parts) - 1):
            groups = groups_of(ways.group, parts[m], parts[m + 1])
            for g in range(len(groups) - 1):
                at = groups[g]
                pairs = pairs_of(ways, at, groups[g + 1])
                before = grown(before, used + len(pairs))
                for w in range(len(pairs)):
                    before[used + w, 0] = at + pairs[w, 1]
                    count[at + pairs[w, 0] - first] += 1
                used += len(pairs)
    return before[:used, 0].copy(), count


@numba.njit(cache=True, nogil=True)
def waits_of(ways, known, n, at, end):  # type: ignore[no-untyped-def]
    """Which ways from ``at`` to ``end``, of layer n, wait for which: those of a higher rank for
    those of a lower one that they lie against.
    """
    if not known.layers[n]:
        return both_ways(pairs_of(ways, at, end), end - at)
    first = known.at[at]
    pairs = np.empty((known.at[end] - first, 2), np.int64)
    for k in range(at, end):
        for w in range(known.at[k], known.at[k + 1]):
            pairs[w - first, 0], pairs[w - first, 1] = k - at, known.before[w] - at
    return both_ways(pairs, end - at)
