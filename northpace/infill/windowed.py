"""What a pattern lays, a window of patches at a time."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import shapely

from northpace.geometry.scanline import Chains
from northpace.geometry.threads import ahead
from northpace.infill.patches import Patches
from northpace.infill.pattern import Lay

#: Millimetres of lines in the boxes around the patches of a window, about: what is in between takes
#: hundreds of bytes for each.
WINDOW = 30_000.0


def lay_windowed(
    lay: Lay, patches: Patches, angle: float, pitch: float, inset: float
) -> list[Chains]:
    """What a pattern lays in patches, as ``lay`` does it in all of them at once."""
    x0, y0, x1, y1 = shapely.bounds(patches.polygons).T
    far = np.cumsum((x1 - x0) * (y1 - y0)) / pitch
    ends = np.flatnonzero(np.diff(np.floor(far / WINDOW))) + 1
    cuts = np.r_[0, ends, len(patches)]
    if len(cuts) == 2:
        return lay(patches, angle, pitch, inset)

    def some(window: tuple[int, int]) -> list[Chains]:
        return lay(patches.some(np.arange(*window)), angle, pitch, inset)

    found = list(ahead(some, pairwise(cuts.tolist())))
    parts = list(zip(found, cuts[:-1].tolist(), strict=True))
    return [
        _joined(
            [(chains[k], at) for chains, at in parts if k < len(chains)],
            len(patches),
        )
        for k in range(max(len(chains) for chains in found))
    ]


def without(found: list[Chains], gone: np.ndarray) -> list[Chains]:
    """Chains without those of patches (P,) that are gone."""
    return [_without(chains, gone) for chains in found]


def _joined(found: list[tuple[Chains, int]], count: int) -> Chains:
    """Chains of stretches of patches, each with the number of its first, as chains of all."""
    spacing, length, shift, starts = np.zeros(count), np.zeros(count), 0, [np.zeros(1, np.int64)]
    for chains, at in found:
        mine = slice(at, at + len(chains.length))
        spacing[mine], length[mine] = chains.spacing, chains.length
        starts.append(chains.starts[1:] + shift)
        shift += len(chains.points)
    return Chains(
        np.concatenate([chains.points for chains, _ in found]),
        np.concatenate(starts),
        np.concatenate([chains.polygon + at for chains, at in found]),
        spacing,
        length,
    )


def _without(chains: Chains, gone: np.ndarray) -> Chains:
    stays = ~gone[chains.polygon]
    count = np.diff(chains.starts)
    return Chains(
        chains.points[np.repeat(stays, count)],
        np.r_[0, np.cumsum(count[stays])],
        chains.polygon[stays],
        np.where(gone, 0.0, chains.spacing),
        np.where(gone, 0.0, chains.length),
    )
