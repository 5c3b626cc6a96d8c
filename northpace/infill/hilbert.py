"""Hilbert: one line that visits every place without ever crossing itself."""

from __future__ import annotations

import numba
import numpy as np

from northpace.geometry.clip import clip_curves
from northpace.geometry.scanline import Chains
from northpace.infill.lattice import lattice
from northpace.infill.lines import JOIN
from northpace.infill.patches import Patches
from northpace.infill.pattern import Pattern

#: Cells along the whole curve: 2 to this power.
ORDER = 14


def hilbert(patches: Patches, angle: float, pitch: float, inset: float) -> list[Chains]:
    """The curve over cells of one pitch, turned by 90° from layer to layer.

    References
    ----------
    Hilbert, "Ueber die stetige Abbildung einer Linie auf ein Flächenstück", Mathematische Annalen
    38, 1891.
    """
    cells = lattice(patches.polygons, angle + 90.0 * (patches.layer % 2), pitch, pitch, pitch)
    i, j = cells.along, cells.row[cells.curve]
    of = cells.of[cells.curve]
    place = np.empty(len(i), np.int64)
    _place(i + (1 << ORDER - 1), j + (1 << ORDER - 1), place)
    order = np.lexsort((place, of))
    place, of = place[order], of[order]
    points = cells.points((i + 0.5) * pitch, (j + 0.5) * pitch)[order]
    begins = np.r_[True, (np.diff(place) != 1) | (np.diff(of) != 0)]
    starts = np.r_[np.flatnonzero(begins), len(points)]
    return [clip_curves(patches.polygons, points, starts, of[starts[:-1]], inset, JOIN * pitch)]


@numba.njit(cache=True, nogil=True)
def _place(x, y, out):  # type: ignore[no-untyped-def]
    """Number of each cell along the curve."""
    for k in range(len(x)):
        a, b, d = x[k], y[k], 0
        s = 1 << (ORDER - 1)
        while s > 0:
            rx, ry = 1 if a & s else 0, 1 if b & s else 0
            d += s * s * ((3 * rx) ^ ry)
            if ry == 0:
                if rx == 1:
                    a, b = (2 * s - 1) - (a & (2 * s - 1)), (2 * s - 1) - (b & (2 * s - 1))
                a, b = b, a
            a &= s - 1
            b &= s - 1
            s >>= 1
        out[k] = d


HILBERT = Pattern(
    "hilbert",
    "one line that fills the layer without crossing itself",
    hilbert,
    straight_from=0.7,
    straight=(1.1, 0.2),
)
