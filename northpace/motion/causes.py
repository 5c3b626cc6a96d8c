"""How long solid patches and stands take."""

from __future__ import annotations

import numpy as np

from northpace.moves import BRIDGE, ROOF, SOLID, SUPPORT, TOP, Moves
from northpace.paths.fill.why import Why
from northpace.paths.supports.stands import Stands


def seconds_by_patch(moves: Moves, why: Why) -> np.ndarray:
    """(Q,) seconds of every solid patch."""
    solid = np.isin(moves.feature, (SOLID, TOP, BRIDGE)) & (moves.cause >= 0)
    by_cause = np.bincount(moves.cause[solid], moves.seconds[solid], len(why.patch))
    return np.bincount(why.patch, by_cause[: len(why.patch)], len(why.low))


def seconds_by_stand(moves: Moves, stands: Stands) -> np.ndarray:
    """(T,) seconds of every stand of support."""
    held = np.isin(moves.feature, (SUPPORT, ROOF)) & (moves.cause >= 0)
    return np.bincount(moves.cause[held], moves.seconds[held], len(stands.at))
