"""The rows a plan is laid in, before they have speeds."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Any

import numpy as np


@dataclass(frozen=True)
class Rows:
    """Geometry of the moves, before speeds; columns as in `northpace.moves.Moves`."""

    #: (M,) layer and feature
    layer: np.ndarray
    feature: np.ndarray
    #: (M,) end of the move in mm
    x: np.ndarray
    y: np.ndarray
    z: np.ndarray
    #: (M,) of the bead in mm
    width: np.ndarray
    height: np.ndarray
    #: (M,) −1 for a retraction, +1 for its return
    pull: np.ndarray
    #: (M,) why it is there
    cause: np.ndarray
    #: (M,) whether a travel crosses an outline
    crossed: np.ndarray
    #: (M,) index into ``cases`` of what regions change there
    region: np.ndarray
    #: millimetres of travel saved by exchanging
    saved: float
    #: travels that went around
    around: int
    #: changes by setting, the first none
    cases: tuple[dict[str, Any], ...] = ({},)

    @property
    def crossings(self) -> int:
        """Travels that cross an outline."""
        return int(self.crossed.sum())

    @property
    def nbytes(self) -> int:
        return sum(
            getattr(self, item.name).nbytes
            for item in fields(self)
            if item.name not in ("saved", "around", "cases")
        )
