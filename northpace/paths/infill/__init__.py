"""Infill patterns, one file each, behind one interface.

A pattern is a function ``lay(patches, angle, pitch, inset) -> list[Chains]``: polygons with their
layer and height, the angle in degrees, the pitch in mm that a one-direction pattern of the density
would have, and how far line ends stay off the border (half a bead). `docs/adding.md` says how to
add one.
"""

from __future__ import annotations

from collections.abc import Callable

from northpace.paths.infill.concentric import concentric
from northpace.paths.infill.cubic import cubic
from northpace.paths.infill.grid import grid
from northpace.paths.infill.gyroid import gyroid
from northpace.paths.infill.hilbert import hilbert
from northpace.paths.infill.honeycomb import honeycomb
from northpace.paths.infill.lines import lines
from northpace.paths.infill.triangles import triangles
from northpace.paths.infill.vault import vault
from northpace.paths.patches import Patches
from northpace.paths.scanline import Chains

Pattern = Callable[[Patches, float, float, float], list[Chains]]

PATTERNS: dict[str, Pattern] = {
    "lines": lines,
    "grid": grid,
    "triangles": triangles,
    "honeycomb": honeycomb,
    "gyroid": gyroid,
    "cubic": cubic,
    "concentric": concentric,
    "hilbert": hilbert,
    "vault": vault,
}
#: Density (share) from which a pattern becomes straight lines: it would lay twice where it crosses
#: itself and leave holes elsewhere.
STRAIGHT_FROM = {
    "grid": 0.55,
    "triangles": 0.45,
    "honeycomb": 0.5,
    "gyroid": 0.55,
    "cubic": 0.45,
    "hilbert": 0.7,
    "vault": 0.55,
}
