"""A grid: both directions in every layer."""

from __future__ import annotations

from northpace.paths.infill.lines import parallel
from northpace.paths.patches import Patches
from northpace.paths.scanline import Chains


def grid(patches: Patches, angle: float, pitch: float, inset: float) -> list[Chains]:
    """Two directions a layer, each at twice the pitch."""
    return [parallel(patches, angle + turn, 2 * pitch, inset) for turn in (0.0, 90.0)]
