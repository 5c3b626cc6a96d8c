"""The report of a plan: every figure a screen shows, traced to the move table."""

from __future__ import annotations

from typing import Any

import numpy as np

from northpace.checks.finding import Finding
from northpace.layers.stack import Stack
from northpace.layers.surface import SurfaceTable
from northpace.material.amounts import amounts, parts_per_spool
from northpace.motion.pace import Timed, safe_flow
from northpace.moves import FEATURES, GAP, TRAVEL
from northpace.outlines.sections import Outlines
from northpace.part.solid import Part, Placed
from northpace.paths.lay import Rows
from northpace.spec import PlanSpec


def report(part: Part, placed: Placed, outlines: Outlines, rows: Rows, timed: Timed, findings: list[Finding],
           spec: PlanSpec, stack: Stack, table: SurfaceTable) -> dict[str, Any]:
    """Figures of a plan as plain numbers, keys as the command line documents them."""
    moves = timed.moves
    laid = moves.width > 0
    length = float(moves.filament[laid].sum())
    seconds = float(moves.seconds.sum())
    by_time = np.bincount(moves.feature, moves.seconds, minlength=len(FEATURES))
    by_mass = np.bincount(moves.feature[laid], moves.filament[laid], minlength=len(FEATURES))
    stuff = amounts(length, seconds, spec.material, spec.machine)
    usable = spec.material.usable_mass
    share = parts_per_spool(usable, stuff.mass_g) if usable is not None else None
    travel = moves.feature == TRAVEL
    lengths = moves.lengths()
    layer_length = np.bincount(moves.layer[laid], moves.filament[laid], minlength=len(outlines.tops))
    layer_mass = layer_length / max(length, 1e-12) * stuff.mass_g
    gap_area = float((lengths * moves.width)[moves.feature == GAP].sum())
    return {
        "part": {"triangles": part.triangles_in_file, "volume_mm3": placed.volume, "size_mm": list(placed.size),
                 "closed": not part.doubtful, "bodies": len(part.bodies), "mended": list(part.mended),
                 "widest_opening_mm": part.widest_opening, "added_volume_mm3": part.added_volume},
        "layers": {"count": len(outlines.tops), "tops_mm": _plain(outlines.tops), "heights_mm": _plain(outlines.heights),
                   "seconds": _plain(timed.layer_seconds), "slowed": _plain(timed.slowed), "mass_g": _plain(layer_mass),
                   **stack.layers},
        "surface": stack.figures(table, spec),
        "time_s": {"total": seconds, "by_feature": {FEATURES[k]: float(v) for k, v in enumerate(by_time) if v > 0},
                   "flow_floor": stuff.volume_mm3 / safe_flow(spec)},
        "filament": {"volume_mm3": stuff.volume_mm3, "length_mm": stuff.length_mm, "mass_g": stuff.mass_g, "cost": stuff.cost,
                     "cost_shares": {"material": stuff.cost_material, "machine": stuff.cost_machine, "power": stuff.cost_power,
                                     "failed": stuff.cost_failed},
                     "by_feature_mm": {FEATURES[k]: float(v) for k, v in enumerate(by_mass) if v > 0},
                     "spool": None if share is None else {"parts": share.parts, "left_over_g": share.left_over_g,
                                                          "lighter_for_one_more_g": share.lighter_for_one_more_g}},
        "paths": {"moves": len(moves), "travel_mm": float(lengths[travel].sum()),
                  "retractions": int((rows.pull < 0).sum()),
                  "gap_fill_area_mm2": gap_area, "outer_wall_crossings": rows.crossings},
        "findings": [finding.as_dict() for finding in findings],
    }


def _plain(values: np.ndarray) -> list[float]:
    return [round(float(v), 6) for v in values]
