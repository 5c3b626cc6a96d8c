"""A grid: both directions in every layer."""

from __future__ import annotations

import numpy as np

from northpace.paths.infill.lines import JOIN
from northpace.paths.scanline import Chains, fill_lines


def grid(polygons: np.ndarray, layer: np.ndarray, angle: float, pitch: float, inset: float) -> list[Chains]:
    """Two directions a layer, each at twice the pitch."""
    count = len(polygons)
    return [fill_lines(polygons, np.full(count, angle + turn), np.full(count, 2 * pitch), np.full(count, inset), False, JOIN)
            for turn in (0.0, 90.0)]
