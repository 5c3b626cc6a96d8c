"""Straight lines, turned by 90° from layer to layer."""

from __future__ import annotations

import numpy as np

from northpace.paths.scanline import Chains, fill_lines

JOIN = 1.6


def lines(polygons: np.ndarray, layer: np.ndarray, angle: float, pitch: float, inset: float) -> list[Chains]:
    """One direction a layer at the full pitch."""
    count = len(polygons)
    return [fill_lines(polygons, angle + 90.0 * (layer % 2), np.full(count, pitch), np.full(count, inset), False, JOIN)]
