"""What moves come to by their kind, in one pass; rows of the pace table are made of it."""

from __future__ import annotations

from typing import NamedTuple

import numba
import numpy as np

from northpace.motion.kinematics import Course, limits_of, peaks, pushed
from northpace.motion.pace import Timed
from northpace.motion.speeds import short_loops
from northpace.moves import FEATURES
from northpace.spec import PlanSpec

#: Kinds by feature, by layer (before the first, the first, above), whether they belong to a short
#: loop, and whether they rise or fall.
SHAPE = (len(FEATURES), 3, 2, 2)
#: A layer counts as slowed below this share of its speeds.
UNHELD = 0.995


class Kinds(NamedTuple):
    """What the moves of each kind (K,) come to; those of no length are left out."""

    #: (K,) which they are: code of the feature, 0 before the first layer, 1 on it and 2 above,
    #: whether they belong to a short loop, whether they rise or fall
    feature: np.ndarray
    level: np.ndarray
    short: np.ndarray
    rises: np.ndarray
    #: (K,) how many there are, and how many of them lay nothing
    moves: np.ndarray
    bare: np.ndarray
    #: (K,) seconds, mm, and mm² of the bead times mm
    seconds: np.ndarray
    length: np.ndarray
    volume: np.ndarray
    #: (K,) highest speed really reached, mm/s
    reached: np.ndarray
    #: (K,) in layers that were not slowed: how many, how many of them lay something, and the
    #: highest speed asked of them in mm/s
    unheld: np.ndarray
    laying: np.ndarray
    asked: np.ndarray

    def some(self, mine: np.ndarray) -> Kinds:
        """Those of a mask (K,)."""
        return Kinds(*(column[mine] for column in self))


def kinds_of(spec: PlanSpec, timed: Timed) -> Kinds:
    """What the moves of a plan come to by their kind."""
    moves = timed.moves
    push = pushed(spec.machine, moves.acceleration)
    course = Course(moves.x, moves.y, moves.z, moves.filament, moves.speed, push)
    loops = short_loops(moves.feature, moves.width > 0, moves.x, moves.y, spec.pace.short_loop)
    sums = np.zeros((9, *SHAPE))
    reached = peaks(course, limits_of(spec.machine))
    _sum(moves.columns(), loops, reached, timed.slowed > UNHELD, sums)
    which = np.indices(SHAPE).reshape(4, -1)
    return Kinds(*which, *sums.reshape(9, -1))


@numba.njit(cache=True, nogil=True)
def _sum(moves, loops, reached, unheld, sums):  # type: ignore[no-untyped-def]
    x, y, z = moves.x, moves.y, moves.z
    for m in range(1, len(x)):
        dx, dy, dz = x[m] - x[m - 1], y[m] - y[m - 1], z[m] - z[m - 1]
        length = np.sqrt(dx * dx + dy * dy + dz * dz)
        if length == 0.0:
            continue
        layer, lays = moves.layer[m], moves.width[m] > 0
        mine = sums[:, moves.feature[m], min(layer, 1) + 1, int(loops[m]), int(dz != 0.0)]
        mine[0] += 1
        mine[1] += not lays
        mine[2] += moves.seconds[m]
        mine[3] += length
        mine[4] += moves.flow[m] / moves.speed[m] * length
        mine[5] = max(mine[5], reached[m])
        if layer < 0 or unheld[layer]:
            mine[6] += 1
            mine[7] += lays
            mine[8] = max(mine[8], moves.speed[m])
