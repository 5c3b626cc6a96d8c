"""Triangles: three directions in every layer."""

from __future__ import annotations

from northpace.paths.infill.lines import parallel
from northpace.paths.patches import Patches
from northpace.paths.scanline import Chains


def triangles(patches: Patches, angle: float, pitch: float, inset: float) -> list[Chains]:
    """Three directions a layer, each at three times the pitch; the third is shifted by half, so
    that no three lines meet in a point.
    """
    return [
        parallel(patches, angle + turn, 3 * pitch, inset, phase)
        for turn, phase in ((0.0, 0.5), (60.0, 0.5), (120.0, 0.0))
    ]
