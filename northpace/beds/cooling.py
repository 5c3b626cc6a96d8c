"""Least layer times on a bed: what counts is the time until a placing is visited again, so placings
cool while others are laid.
"""

from __future__ import annotations

from collections.abc import Sequence

import numba
import numpy as np

from northpace.beds.bedplan import BedPlan
from northpace.beds.merge import Merged
from northpace.beds.passes import Passes
from northpace.motion.kinematics import Course, run
from northpace.motion.slowing import Short, slow_layers
from northpace.moves import OUTER

#: Halvings of the level that visits of a window are raised to.
HALVINGS = 40


def slow(
    course: Course,
    limits: np.ndarray,
    laid: np.ndarray,
    bed: Merged,
    order: Passes,
    plans: Sequence[BedPlan],
) -> None:
    """Slow the visits of placings (n,), ``plans`` theirs, until each placing has had the least time
    of its layer before it is visited again; changes the speeds of ``course``. ``laid`` (M,) says
    which moves lay.
    """
    least, floor = np.zeros(len(order.placing)), np.zeros(len(order.placing))
    for k in np.unique(order.placing):
        mine = np.flatnonzero(order.placing == k)
        layer = plans[k].visits.layer[order.visit[mine]]
        least[mine], floor[mine] = plans[k].least[layer], plans[k].floor[layer]
    if not least.any():
        return
    quick = _seconds(course, limits, bed.starts)
    at_floor = np.where(
        laid & (bed.visit >= 0),
        np.minimum(course.speed, floor[np.maximum(bed.visit, 0)]),
        course.speed,
    )
    slowest = _seconds(course._replace(speed=at_floor), limits, bed.starts)
    wanted = quick.copy()
    _raise(wanted, quick, slowest, least, _again(order))
    short = Short(
        bed.starts, laid, bed.feature == OUTER, np.where(wanted > quick, wanted, 0), floor
    )
    slow_layers(course, limits, short, np.ones(len(wanted)))


def _again(order: Passes) -> np.ndarray:
    """(K,) the visit that ends the time a visit has to set: the next one of its placing; for the
    last one the next pass.
    """
    count = len(order.placing)
    by = np.lexsort((np.arange(count), order.placing))
    again = np.searchsorted(order.number, order.number, "right")
    same = order.placing[by][1:] == order.placing[by][:-1]
    again[by[:-1][same]] = by[1:][same]
    return again


@numba.njit(cache=True, nogil=True)
def _seconds(course, limits, starts):  # type: ignore[no-untyped-def]
    """(K,) how long each visit takes from rest to rest, with the way to it."""
    out, scratch = np.empty(len(starts) - 1), np.empty(len(course.x))
    for k in range(len(out)):
        out[k] = run(course, limits, starts[k], starts[k + 1], scratch)
    return out


@numba.njit(cache=True, nogil=True)
def _raise(wanted, quick, slowest, least, again):  # type: ignore[no-untyped-def]
    """Raise the seconds wanted of visits (K,) until every window has its least time. Only visits
    whose own window is too short are slowed, all of a window to the same share of their speed,
    never below the floor.
    """
    count = len(wanted)
    short = np.zeros(count, np.bool_)
    for k in range(count):
        short[k] = quick[k : again[k]].sum() < least[k]
    for k in np.argsort(again, kind="mergesort"):
        end = again[k]
        if not short[k] or wanted[k:end].sum() >= least[k]:
            continue
        low, high = 1.0, 1.0
        for i in range(k, end):
            if short[i] and quick[i] > 0:
                high = max(high, slowest[i] / quick[i])
        for _ in range(HALVINGS):
            level, total = 0.5 * (low + high), 0.0
            for i in range(k, end):
                total += _at(wanted, quick, slowest, short, i, level)
            if total >= least[k]:
                high = level
            else:
                low = level
        for i in range(k, end):
            wanted[i] = _at(wanted, quick, slowest, short, i, high)


@numba.njit(cache=True, nogil=True)
def _at(wanted, quick, slowest, short, i, level):  # type: ignore[no-untyped-def]
    """Seconds of a visit that is slowed to a level."""
    if not short[i]:
        return wanted[i]
    return max(wanted[i], min(slowest[i], level * quick[i]))
