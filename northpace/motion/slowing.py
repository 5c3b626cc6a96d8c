"""Layers that are slowed so that they can set."""

from __future__ import annotations

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


@numba.njit(cache=True)
def _layer_time(x, y, z, e, speed, acceleration, limits, first, last, scratch):  # type: ignore[no-untyped-def]
    if first == 0:
        return run(x, y, z, e, speed, acceleration, limits, first, last, 0.0, 0.0, 0.0, scratch)
    return run(
        x,
        y,
        z,
        e,
        speed,
        acceleration,
        limits,
        first,
        last,
        x[first - 1],
        y[first - 1],
        z[first - 1],
        scratch,
    )


@numba.njit(cache=True)
def slow_layers(  # type: ignore[no-untyped-def]
    x, y, z, e, speed, acceleration, limits, bounds, laid, outer, least, floor, slowed
):
    """Slow short layers until they last their ``least`` (N,) s, the outer walls only when slowing
    the rest did not suffice.

    The factor is solved against the motion model by halving intervals, because halving the speed of
    short moves, which never reach it, changes nothing.
    """
    scratch = np.empty(len(x))
    for n in range(len(bounds) - 1):
        first, last = bounds[n], bounds[n + 1]
        if last <= first:
            continue
        if _layer_time(x, y, z, e, speed, acceleration, limits, first, last, scratch) >= least[n]:
            continue
        asked = speed[first:last].copy()
        for group in range(2):
            low, high, reached = 0.0, 1.0, False
            for step in range(14):
                factor = 0.5 * (low + high) if step else 0.0
                for k in range(first, last):
                    if laid[k] and (outer[k] if group else not outer[k]):
                        v = asked[k - first]
                        speed[k] = (
                            np.floor(max(v * factor, min(floor[n], v)) * 60000.0 + 1e-6) / 60000.0
                        )
                time = _layer_time(x, y, z, e, speed, acceleration, limits, first, last, scratch)
                if step == 0:
                    if time < least[n]:
                        break  # even at the floor speed not long enough: the next group has to help
                    reached = True
                elif time >= least[n]:
                    low = factor
                else:
                    high = factor
            if reached:
                for k in range(first, last):
                    if laid[k] and (outer[k] if group else not outer[k]):
                        v = asked[k - first]
                        speed[k] = (
                            np.floor(max(v * low, min(floor[n], v)) * 60000.0 + 1e-6) / 60000.0
                        )
                break
        wanted, given = 0.0, 0.0
        for k in range(first, last):
            if laid[k]:
                wanted += asked[k - first]
                given += speed[k]
        slowed[n] = given / wanted if wanted > 0 else 1.0
