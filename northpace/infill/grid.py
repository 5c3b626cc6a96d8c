"""A grid: both directions in every layer."""

from __future__ import annotations

from northpace.geometry.scanline import Chains
from northpace.infill.lines import parallel
from northpace.infill.patches import Patches
from northpace.infill.pattern import Pattern


def grid(patches: Patches, angle: float, pitch: float, inset: float) -> list[Chains]:
    """Two directions a layer, each at twice the pitch."""
    return [parallel(patches, angle + turn, 2 * pitch, inset) for turn in (0.0, 90.0)]


GRID = Pattern("grid", "two ways in every layer", grid, straight_from=0.55, directions=2.0)
