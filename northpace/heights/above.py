"""Where a percentile or a mean lets the surface go above its target, stretch by stretch."""

from __future__ import annotations

import numpy as np

from northpace.figures import Above
from northpace.heights.measure import SurfaceError, flat_errors
from northpace.heights.surface import SurfaceTable
from northpace.spec import PlanSpec

#: Stretches with so few layers between them are told as one.
APART = 3


def above_target(
    table: SurfaceTable, heights: np.ndarray, error: SurfaceError, spec: PlanSpec
) -> list[Above]:
    """Stretches of layers of ``heights`` (n,) mm with steps above the target of a best fit, from
    the bed up; none where the largest step is what is bounded anyway.
    """
    surface = spec.surface
    if surface.kind != "best-fit" or not surface.has_target or surface.measure == "max":
        return []
    target = surface.target_um / 1000
    over = np.flatnonzero(error.layer_max > target + 1e-9)
    if not len(over):
        return []
    areas = over_by_layer(table, heights, error, target)
    everything = max(float(error.areas.sum()), 1e-12)
    tops = np.cumsum(heights)
    found: list[Above] = []
    for run in np.split(over, np.flatnonzero(np.diff(over) > APART) + 1):
        first, last = int(run[0]), int(run[-1])
        share = float(areas[first : last + 1].sum()) / everything
        if share <= 0:
            continue
        found.append(
            {
                "from_mm": round(float(tops[first] - heights[first]), 6),
                "to_mm": round(float(tops[last]), 6),
                "share": share,
                "max_um": 1000 * float(error.layer_max[first : last + 1].max()),
            }
        )
    return found


def share_over(
    table: SurfaceTable, heights: np.ndarray, error: SurfaceError, target: float
) -> float:
    """Share of the surface with an error above a target in mm, of layers of ``heights`` (n,) mm."""
    over = over_by_layer(table, heights, error, target).sum()
    return float(over / max(error.areas.sum(), 1e-12))


def over_by_layer(
    table: SurfaceTable, heights: np.ndarray, error: SurfaceError, target: float
) -> np.ndarray:
    """(n,) weighted area in mm² with an error above a target in mm, of layers of ``heights`` mm."""
    stack = np.rint(heights / table.z_step).astype(np.int64)
    bounds = np.clip(np.r_[0, np.cumsum(stack)], 0, table.steps)
    bounds[-1] = table.steps
    by_layer = np.diff(table.below[bounds], axis=0)
    # the first class of steepness whose middle stands out by more than the target
    middle = (target + 1e-9) * table.classes / (stack * table.z_step) - 0.5
    first = np.clip(np.floor(middle).astype(np.int64) + 1, 0, table.classes)
    areas = by_layer[np.arange(len(stack)), first]
    layer, flat = flat_errors(table, bounds)
    out: np.ndarray = areas + np.bincount(
        layer, table.flat_area * (flat > target + 1e-9), minlength=len(stack)
    )
    # a class of steepness stands for all in it: what keeps the target as a whole has nothing above
    return np.where(error.layer_max > target + 1e-9, np.maximum(out, 0.0), 0.0)
