"""The stretches of layers that are laid as one spiral."""

from __future__ import annotations

import numpy as np

from northpace.errors import InputError
from northpace.outlines.edges import foot_layers
from northpace.outlines.sections import Outlines
from northpace.paths.spiral.path import spiral_path, spiral_rows
from northpace.paths.spiral.rim import rim_path
from northpace.paths.spiral.rules import SHUTS, breaks, rules_kept
from northpace.paths.travel.rows import Rows
from northpace.spec import ByLayer, PlanSpec


def spirals(local: ByLayer, outlines: Outlines) -> list[tuple[int, int]]:
    """First layer and end of every stretch that is laid as one spiral: above the solid foot, or as
    bands say.
    """
    build = local["body.build"]
    turning = build == "spiral"
    if not turning.any():
        return []
    foot = min(foot_layers(outlines.tops, local.spec), max(len(outlines.tops) - 1, 1))
    turning[:foot] &= local.band[:foot] >= 0
    turning[0] = False
    edges = np.flatnonzero(np.diff(np.r_[False, turning, False].astype(np.int8))).reshape(-1, 2)
    return [(int(begin), int(end)) for begin, end in edges]


def laid_as_spirals(
    rows: Rows,
    outlines: Outlines,
    turns: tuple[tuple[int, int], ...],
    spec: PlanSpec,
    widths: np.ndarray,
    raised: float,
) -> Rows:
    """Rows with stretches of layers laid as spirals, their beads ``widths`` (N,) mm wide and
    ``raised`` mm by a raft. Raises `InputError` where a stretch cannot be one, with height and
    reason.
    """
    if len(outlines.tops) < 2:
        raise InputError("a spiral needs a part of more than one layer", "body.build")
    origin = spec.machine.origin
    for begin, end in turns:
        width, ends = float(widths[begin]), end
        found = breaks(
            outlines, rules_kept(outlines, width), begin, end, spec.body.outer_contour_only
        )
        shut = (
            spec.body.rim != "top"
            and end == len(outlines.tops)
            and bool(found)
            and found[0].rule in SHUTS
        )
        if shut:
            ends = int(np.searchsorted(outlines.tops, found[0].z - 1e-9))
        if found and (not shut or ends <= begin):
            raise InputError(
                f"the part cannot be one spiral: at {found[0].z:.2f} mm {found[0].reason}; "
                "the vase check proposes what can",
                "body.build",
            )
        bearing = spec.surface.seam_bearing
        path = (
            rim_path(outlines, begin, width, bearing, spec.machine.least_height)
            if shut and spec.body.rim == "follow"
            else spiral_path(outlines, begin, ends, width, bearing)
        )
        rows = spiral_rows(rows, path, begin, end, width, origin, raised)
    return rows
