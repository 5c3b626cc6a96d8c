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

    windows = [np.arange(*ends) for ends in pairwise(cuts.tolist())]
    found = list(ahead(lambda mine: lay(patches.some(mine), angle, pitch, inset), windows))
    parts = list(zip(found, windows, strict=True))
    return [
        of_all([(chains[k], mine) for chains, mine in parts if k < len(chains)], len(patches))
        for k in range(max(len(chains) for chains in found))
    ]


def without(found: list[Chains], gone: np.ndarray) -> list[Chains]:
    """Chains without those of patches (P,) that are gone."""
    return [_without(chains, gone) for chains in found]


def of_all(found: list[tuple[Chains, np.ndarray]], count: int) -> Chains:
    """Chains of some patches, each with the numbers (n,) of its own, as chains of ``count``."""
    spacing, length, shift, starts = np.zeros(count), np.zeros(count), 0, [np.zeros(1, np.int64)]
    for chains, mine in found:
        spacing[mine], length[mine] = chains.spacing, chains.length
        starts.append(chains.starts[1:] + shift)
        shift += len(chains.points)
    return Chains(
        np.concatenate([chains.points for chains, _ in found]),
        np.concatenate(starts),
        np.concatenate([mine[chains.polygon] for chains, mine in found]),
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
