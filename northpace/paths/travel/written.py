"""Rows while the kernel writes them, one after the other into room that grows."""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np


class Written(NamedTuple):
    """Rows as they are written; columns as in `Rows`."""

    layer: np.ndarray
    feature: np.ndarray
    xyz: np.ndarray
    bead: np.ndarray
    pull: np.ndarray
    cause: np.ndarray
    crossed: np.ndarray


@numba.njit(cache=True, nogil=True)
def put(out, row, layer, feature, x, y, z):  # type: ignore[no-untyped-def]
    """Write a row; returns the next one."""
    out.layer[row], out.feature[row] = layer, feature
    out.xyz[row, 0], out.xyz[row, 1], out.xyz[row, 2] = x, y, z
    return row + 1


@numba.njit(cache=True, nogil=True)
def empty_rows(room):  # type: ignore[no-untyped-def]
    """Room for so many rows."""
    return Written(
        np.empty(room, np.int32),
        np.empty(room, np.uint8),
        np.empty((room, 3)),
        np.zeros((room, 2), np.float32),
        np.zeros(room, np.int8),
        np.full(room, -1, np.int32),
        np.zeros(room, np.bool_),
    )


@numba.njit(cache=True, nogil=True)
def with_room(out, row, room):  # type: ignore[no-untyped-def]
    """The rows so far with more room behind them."""
    more = empty_rows(room)
    more.layer[:row], more.feature[:row] = out.layer[:row], out.feature[:row]
    more.xyz[:row], more.bead[:row] = out.xyz[:row], out.bead[:row]
    more.pull[:row], more.cause[:row] = out.pull[:row], out.cause[:row]
    more.crossed[:row] = out.crossed[:row]
    return more


@numba.njit(cache=True, nogil=True)
def cut_to(out, row):  # type: ignore[no-untyped-def]
    """The rows so far alone."""
    return Written(
        out.layer[:row].copy(),
        out.feature[:row].copy(),
        out.xyz[:row].copy(),
        out.bead[:row].copy(),
        out.pull[:row].copy(),
        out.cause[:row].copy(),
        out.crossed[:row].copy(),
    )
