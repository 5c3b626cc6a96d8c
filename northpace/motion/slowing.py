"""Layers that are slowed so that they can set."""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

from northpace.motion.kinematics import run
from northpace.spec import ByLayer, PlanSpec


def layer_starts(layer: np.ndarray) -> np.ndarray:
    """Indices of the first row of every layer, of rows (M,) with their layer."""
    return np.flatnonzero((np.diff(layer, prepend=-1) > 0) & (layer >= 0))


def least_times(spec: PlanSpec, local: ByLayer) -> np.ndarray:
    """(N,) least time of each layer in s: the plan's or the material's, or more where a list says
    so.
    """
    least = local.numbers("pace.least_layer_time", spec.material.least_layer_time)
    own = np.array(spec.pace.layer_seconds[: local.count])
    least[: len(own)] = np.maximum(least[: len(own)], own)
    return least


class Short(NamedTuple):
    """What layers are slowed by, for the kernel."""

    #: (N + 1,) where the moves of a layer begin
    bounds: np.ndarray
    #: (M,) whether a move lays, and whether it is of an outer wall
    laid: np.ndarray
    outer: np.ndarray
    #: (N,) least time in s, and speed in mm/s below which nothing is slowed
    least: np.ndarray
    floor: np.ndarray


@numba.njit(cache=True, nogil=True)
def slow_layers(course, limits, short, slowed):  # type: ignore[no-untyped-def]
    """Slow short layers until they last their least time, the outer walls only when slowing the
    rest did not suffice. Changes the speeds of ``course``; fills ``slowed`` (N,) with the share
    that is left of them.

    The factor is solved against the motion model by halving intervals, because halving the speed of
    short moves, which never reach it, changes nothing.
    """
    scratch = np.empty(len(course.x))
    for n in range(len(short.bounds) - 1):
        first, last = short.bounds[n], short.bounds[n + 1]
        if last <= first or run(course, limits, first, last, scratch) >= short.least[n]:
            continue
        asked = course.speed[first:last].copy()
        for outer in (False, True):
            factor = _factor(course, limits, short, n, asked, outer, scratch)
            # at the floor speed still too short: the outer walls have to help
            _slow(course, short, n, asked, outer, max(factor, 0.0))
            if factor >= 0:
                break
        wanted, given = 0.0, 0.0
        for k in range(first, last):
            if short.laid[k]:
                wanted += asked[k - first]
                given += course.speed[k]
        slowed[n] = given / wanted if wanted > 0 else 1.0


@numba.njit(cache=True, nogil=True)
def _factor(course, limits, short, n, asked, outer, scratch):  # type: ignore[no-untyped-def]
    """The largest factor of the asked speeds with which a layer lasts its least time; −1 where not
    even the floor speed is slow enough.
    """
    first, last = short.bounds[n], short.bounds[n + 1]
    low, high = 0.0, 1.0
    for step in range(14):
        factor = 0.5 * (low + high) if step else 0.0
        _slow(course, short, n, asked, outer, factor)
        enough = run(course, limits, first, last, scratch) >= short.least[n]
        if step == 0:
            if not enough:
                return -1.0
        elif enough:
            low = factor
        else:
            high = factor
    return low


@numba.njit(cache=True, nogil=True)
def _slow(course, short, n, asked, outer, factor):  # type: ignore[no-untyped-def]
    """Set a layer's laid moves, those of the outer walls or the others, to a factor of what was
    asked, in steps the file can say.
    """
    first, floor = short.bounds[n], short.floor[n]
    for k in range(first, short.bounds[n + 1]):
        if short.laid[k] and short.outer[k] == outer:
            v = asked[k - first]
            slow = max(v * factor, min(floor, v))
            course.speed[k] = np.floor(slow * 60000.0 + 1e-6) / 60000.0
