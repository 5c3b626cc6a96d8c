"""Compiled loops over triangles."""

from __future__ import annotations

import numba
import numpy as np


@numba.njit(cache=True, nogil=True)
def spread_parity(
    indptr: np.ndarray, indices: np.ndarray, weights: np.ndarray, flip: np.ndarray
) -> None:
    """Walk the graph of triangles; a weight of 2 means neighbours face opposite ways. ``flip`` (F,)
    is filled with 0 / 1.
    """
    count = len(flip)
    seen = np.zeros(count, np.bool_)
    stack = np.empty(count, np.int64)
    for root in range(count):
        if seen[root]:
            continue
        seen[root] = True
        depth = 0
        stack[0] = root
        while depth >= 0:
            here = stack[depth]
            depth -= 1
            for k in range(indptr[here], indptr[here + 1]):
                other = indices[k]
                if not seen[other]:
                    seen[other] = True
                    flip[other] = flip[here] ^ (1 if weights[k] > 1.5 else 0)
                    depth += 1
                    stack[depth] = other


@numba.njit(cache=True, nogil=True)
def weld_equal(points: np.ndarray, first: np.ndarray) -> np.ndarray:
    """Number equal rows of ``points`` (N, 3) in the order they first appear: a hash table with open
    addressing.

    ``first`` (N,) receives the row each number first stood in. Returns the number of each row (N,).
    """
    count = len(points)
    size = 1
    while size < 2 * count:
        size *= 2
    table = np.full(size, -1, np.int64)
    number = np.empty(count, np.int64)
    bits = points.view(np.uint64)
    found = 0
    for row in range(count):
        a, b, c = bits[row, 0], bits[row, 1], bits[row, 2]
        key = (
            a * np.uint64(0x9E3779B97F4A7C15)
            ^ (b * np.uint64(0xC2B2AE3D27D4EB4F) + np.uint64(0x165667B19E3779F9))
            ^ (c * np.uint64(0xFF51AFD7ED558CCD))
        )
        key ^= key >> np.uint64(29)
        key *= np.uint64(0xBF58476D1CE4E5B9)
        key ^= key >> np.uint64(32)
        slot = np.int64(key & np.uint64(size - 1))
        while True:
            known = table[slot]
            if known < 0:
                table[slot] = found
                first[found] = row
                number[row] = found
                found += 1
                break
            other = first[known]
            if bits[other, 0] == a and bits[other, 1] == b and bits[other, 2] == c:
                number[row] = known
                break
            slot = (slot + 1) & (size - 1)
    return number
