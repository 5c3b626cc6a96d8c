"""How far spools reach: over how many copies, and where in which copy one runs out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class RunsOut:
    """A spool that ends: which one, in which copy and layer (both from 1), how many seconds after
    the start of the first copy, and the height of the part by then in layers of that copy.
    """

    spool: int
    copy: int
    layer: int
    seconds: float


@dataclass(frozen=True)
class Reach:
    """What spools come to: whole copies, what is left over on the last one used (g), where spools
    end before the copies are done, what is missing for all of them (g), and how long all of them
    take (s).
    """

    copies: int
    left_over_g: float
    runs_out: tuple[RunsOut, ...]
    missing_g: float
    seconds: float


def reach(
    mass_by_layer: np.ndarray,
    seconds_by_layer: np.ndarray,
    start_s: float,
    usable: list[float],
    copies: int,
    between_s: float = 0.0,
) -> Reach:
    """Lay ``copies`` parts from spools with ``usable`` grams, one spool after the other.

    ``mass_by_layer``, ``seconds_by_layer`` (N,) of one part; ``start_s`` is its heating,
    ``between_s`` what a change of bed takes. A spool is changed where it ends, also within a part.
    """
    each, whole = float(mass_by_layer.sum()), np.cumsum(mass_by_layer)
    per_copy = start_s + float(seconds_by_layer.sum())
    clock = start_s + np.r_[0.0, np.cumsum(seconds_by_layer)]
    ends = np.cumsum(usable)
    total = float(ends[-1]) if len(ends) else 0.0
    out = []
    for number, end in enumerate(ends):
        if each <= 0 or end >= copies * each - 1e-9:
            break
        copy = int(end / each + 1e-12)
        inside = end - copy * each
        layer = int(min(np.searchsorted(whole, inside + 1e-12, "right"), len(whole) - 1))
        before = whole[layer - 1] if layer else 0.0
        share = (inside - before) / max(mass_by_layer[layer], 1e-12)
        at = (
            copy * (per_copy + between_s)
            + clock[layer]
            + float(np.clip(share, 0, 1)) * seconds_by_layer[layer]
        )
        out.append(RunsOut(number, copy + 1, layer + 1, float(at)))
    done = min(copies, int(total / each + 1e-9)) if each > 0 else copies
    return Reach(
        done,
        max(total - done * each, 0.0),
        tuple(out),
        max(copies * each - total, 0.0),
        copies * per_copy + max(copies - 1, 0) * between_s,
    )
