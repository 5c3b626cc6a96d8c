"""Infill patterns, one file each, behind one interface.

A pattern is a function ``lay(polygons, layer, angle, pitch, inset) -> list[Chains]``: polygons (P,) of the layers (P,), the
angle in degrees, the pitch in mm that a one-direction pattern of the density would have, and how far line ends stay
off the border. `docs/adding.md` says how to add one.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from northpace.paths.infill.grid import grid
from northpace.paths.infill.lines import lines
from northpace.paths.scanline import Chains

Pattern = Callable[[np.ndarray, np.ndarray, float, float, float], list[Chains]]

PATTERNS: dict[str, Pattern] = {"lines": lines, "grid": grid}
