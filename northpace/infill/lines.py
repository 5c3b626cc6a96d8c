"""Straight lines, turned by 90° from layer to layer."""

from __future__ import annotations

import numpy as np

from northpace.geometry.scanline import Chains, fill_lines
from northpace.infill.patches import Patches
from northpace.infill.pattern import Pattern

#: Longest shift in spacings over which neighbours are joined along a wall.
JOIN = 1.6


def lines(patches: Patches, angle: float, pitch: float, inset: float) -> list[Chains]:
    """One direction a layer at the full pitch."""
    return [parallel(patches, angle + 90.0 * (patches.layer % 2), pitch, inset)]


def parallel(
    patches: Patches,
    angle: float | np.ndarray,
    pitch: float,
    inset: float,
    phase: float | np.ndarray = 0.5,
) -> Chains:
    """Lines of a lattice through the origin at ``angle`` degrees (one, or (P,)), ``pitch`` mm
    apart.
    """
    count = len(patches)
    return fill_lines(
        patches.polygons,
        np.broadcast_to(np.asarray(angle, np.float64), (count,)),
        np.full(count, pitch),
        np.full(count, inset),
        False,
        JOIN,
        phase,
    )


LINES = Pattern("lines", "one direction a layer, the quickest", lines)
