"""A body as it stands in a file, and how much of one is taken in."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

MOST_BYTES = 600_000_000
MOST_TRIANGLES = 12_000_000
#: Coordinates beyond this (mm) are not a part for any machine; they would also ruin the precision
#: of the rest.
FARTHEST = 100_000.0


@dataclass(frozen=True)
class Body:
    """One body as it stands in the file: vertices (V, 3) in mm, faces (F, 3) indices, its name in
    the file.
    """

    vertices: np.ndarray
    faces: np.ndarray
    name: str = ""
