"""Triangles: three directions in every layer."""

from __future__ import annotations

from northpace.geometry.scanline import Chains
from northpace.infill.lines import parallel
from northpace.infill.patches import Patches
from northpace.infill.pattern import Pattern


def triangles(patches: Patches, angle: float, pitch: float, inset: float) -> list[Chains]:
    """Three directions a layer, each at three times the pitch; the third is shifted by half, so
    that no three lines meet in a point.
    """
    return [
        parallel(patches, angle + turn, 3 * pitch, inset, phase)
        for turn, phase in ((0.0, 0.5), (60.0, 0.5), (120.0, 0.0))
    ]


TRIANGLES = Pattern(
    "triangles",
    "three ways in every layer",
    triangles,
    straight_from=0.45,
    directions=3.0,
    straight=(0.0, 28.0),
)
