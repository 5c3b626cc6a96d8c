"""The bead: section and spacing of what the nozzle lays (`docs/computations.md` §1).

A laid bead of width w and height h has the section of a stadium, a rectangle with half-round ends.
"""

from __future__ import annotations

from typing import TypeVar

import numba
import numpy as np

Number = TypeVar("Number", float, np.ndarray)
_ROUND = 1.0 - np.pi / 4.0


def area(width: Number, height: Number) -> Number:
    """Section in mm² of a bead of the given width and height in mm.

    >>> round(area(0.45, 0.20), 6)
    0.081416
    """
    return (width - height) * height + np.pi * height * height / 4.0


#: The same for kernels.
compiled_area = numba.njit(area)


def spacing(width: Number, height: Number) -> Number:
    """Distance in mm between the centres of touching beads: area / spacing is the height exactly.

    >>> round(spacing(0.45, 0.20), 6)
    0.40708
    """
    return width - height * _ROUND


def width_for(spacing: Number, height: Number) -> Number:
    """Width in mm of the bead that fills a lane of the given spacing exactly."""
    return spacing + height * _ROUND


def filament_length(volume: Number, diameter: float) -> Number:
    """Filament in mm that holds a volume in mm³; ``diameter`` as measured."""
    return volume / (np.pi * diameter * diameter / 4.0)
