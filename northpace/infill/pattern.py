"""What an infill pattern is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from northpace.geometry.polygons import Pieces
from northpace.geometry.scanline import Chains
from northpace.infill.patches import Patches

#: Lay patches: ``lay(patches, angle, pitch, inset)`` with the angle in degrees, the pitch in mm
#: that a one-direction pattern of the density would have, and how far line ends stay off the
#: border (half a bead, mm).
Lay = Callable[[Patches, float, float, float], list[Chains]]
#: What of the pieces has to be there: ``bears(pieces, layer (P,), heights (N,) in mm)``.
Bears = Callable[[Pieces, np.ndarray, np.ndarray], Pieces]


@dataclass(frozen=True)
class Pattern:
    """A way to lay infill; one file each in this folder, listed in `northpace.infill`."""

    #: as settings and screens call it
    name: str
    #: what it is good for, as the second half of a sentence
    help: str
    lay: Lay
    #: density (share) from which it becomes straight lines, because it would lay twice where it
    #: crosses itself and leave holes elsewhere
    straight_from: float | None = None
    #: in how many directions a layer is laid: lines of one direction are so many times further
    #: apart than those of plain lines
    directions: float = 1.0
    #: what of the room inside it fills, where that is not all of it
    bears: Bears | None = None
    #: how far the head goes straight before it slows down for a turn: this many times the pitch of
    #: plain lines, plus so many mm; measured on cubes and on the sample parts at 10 to 40 %
    straight: tuple[float, float] = (0.0, 18.0)
