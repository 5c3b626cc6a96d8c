"""Cubic: cubes standing on a corner, so that every line leans with the height and all three
directions hold alike.
"""

from __future__ import annotations

import numpy as np

from northpace.geometry.scanline import Chains
from northpace.infill.lines import parallel
from northpace.infill.patches import Patches
from northpace.infill.pattern import Pattern


def cubic(patches: Patches, angle: float, pitch: float, inset: float) -> list[Chains]:
    """Sections of three families of planes at right angles to each other.

    A plane of a cube on its corner stands at cos β = 1/√3 to the axis: its line in a layer shifts
    by z · cot β = z / √2.
    """
    lane = 3 * pitch
    return [
        parallel(patches, angle + turn, lane, inset, np.mod(patches.z / np.sqrt(2.0) / lane, 1.0))
        for turn in (0.0, 120.0, 240.0)
    ]


CUBIC = Pattern(
    "cubic",
    "cubes on a corner, whose lines lean with the height",
    cubic,
    straight_from=0.45,
    directions=3.0,
    straight=(0.0, 28.0),
)
