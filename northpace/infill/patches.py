"""What a fill pattern is given: simple polygons with the height they lie at."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Patches:
    """Simple polygons (P,); layer (P,) their number from the bed; z (P,) the middle of the bead in
    mm above the plate.
    """

    polygons: np.ndarray
    layer: np.ndarray
    z: np.ndarray

    def __len__(self) -> int:
        return len(self.polygons)

    def some(self, index: np.ndarray) -> Patches:
        """Only the polygons of an index (n,)."""
        return Patches(self.polygons[index], self.layer[index], self.z[index])
