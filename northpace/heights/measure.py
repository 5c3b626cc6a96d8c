"""The surface error of a stack: mean, 95th percentile, max and share above the target, and layer by
layer (`docs/computations.md` §3).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from northpace.heights.surface import SurfaceTable

#: The share of the surface that a 95th percentile leaves out.
TAIL = 0.05
MEASURES = ("mean", "p95", "max")


@dataclass(frozen=True)
class SurfaceError:
    """Of a stack in mm: mean, 95th percentile and max over the weighted area; ``layer_max`` and
    ``layer_mean`` (n,) by layer; the weighted areas by class of error they were taken from (values,
    areas).
    """

    mean: float
    p95: float
    max: float
    layer_max: np.ndarray
    layer_mean: np.ndarray
    values: np.ndarray
    areas: np.ndarray

    def of(self, measure: str) -> float:
        """One of the `MEASURES`, in mm."""
        return float(getattr(self, measure))


def measure(table: SurfaceTable, stack: np.ndarray) -> SurfaceError:
    """Surface error of layers of ``stack`` (n,) z steps from the bed up."""
    bounds = np.clip(np.r_[0, np.cumsum(stack)], 0, table.steps)
    bounds[-1] = table.steps
    q, classes = table.z_step, table.classes
    heights = stack * q
    start = bounds[:-1]
    # an even stack for a part lower than its first layer has one layer; reduceat needs every start
    # inside
    layer_max = np.maximum.reduceat(table.steepest, np.minimum(start, table.steps - 1)) * heights
    weighted = np.diff(table.slope[bounds]) * heights
    laid = np.diff(table.above[0, bounds])
    flat_layer, flat_error = flat_errors(table, bounds)
    weighted = weighted + np.bincount(
        flat_layer, table.flat_area * flat_error, minlength=len(stack)
    )
    laid = laid + np.bincount(flat_layer, table.flat_area, minlength=len(stack))
    np.maximum.at(layer_max, flat_layer, flat_error)
    # by distinct height: classes of steepness become classes of error
    kinds, which = np.unique(stack, return_inverse=True)
    by_layer = np.diff(table.below[bounds], axis=0)
    one = np.zeros((len(kinds), len(stack)))
    one[which, np.arange(len(stack))] = 1.0
    least = one @ by_layer
    area = np.maximum(least[:, :-1] - least[:, 1:], 0.0)
    value = (kinds * q)[:, None] * (np.arange(classes) + 0.5) / classes
    values, areas = np.r_[value.ravel(), flat_error], np.r_[area.ravel(), table.flat_area]
    rest = max(table.total - areas.sum(), 0.0)
    values, areas = np.r_[values, 0.0], np.r_[areas, rest]
    highest = float(layer_max.max(initial=0.0))
    everything = areas.sum()
    mean = float(weighted.sum() / everything) if everything > 0 else 0.0
    return SurfaceError(
        mean,
        min(_upper(values, areas), highest),
        highest,
        layer_max,
        weighted / np.maximum(laid, 1e-12),
        values,
        areas,
    )


def combined(errors: Sequence[SurfaceError], counts: Sequence[int]) -> SurfaceError:
    """The step error over the surfaces of so many copies of several parts together; that of single
    layers is left out.
    """
    values = np.concatenate([error.values for error in errors])
    areas = np.concatenate([c * error.areas for error, c in zip(errors, counts, strict=True)])
    sums = np.array([error.areas.sum() for error in errors]) * counts
    means = np.array([error.mean for error in errors])
    highest = max(error.max for error in errors)
    none = np.empty(0)
    return SurfaceError(
        float((means * sums).sum() / max(sums.sum(), 1e-12)),
        min(_upper(values, areas), highest),
        highest,
        none,
        none,
        values,
        areas,
    )


def _upper(values: np.ndarray, areas: np.ndarray) -> float:
    """The least value that at most 5 % of the area exceed."""
    order = np.argsort(-values)
    beyond = np.cumsum(areas[order])
    k = int(np.searchsorted(beyond, TAIL * beyond[-1] * (1 + 1e-9), "right"))
    return float(values[order[min(k, len(order) - 1)]])


def flat_errors(table: SurfaceTable, bounds: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Of every flat (M,): the layer it lies in and its distance in mm to the nearest boundary (n +
    1,) in z steps.
    """
    at = table.flat_z / table.z_step
    layer = np.clip(np.searchsorted(bounds, at, "left") - 1, 0, len(bounds) - 2)
    error = np.minimum(np.abs(at - bounds[layer]), np.abs(bounds[layer + 1] - at)) * table.z_step
    return layer, error


def mean_cost(table: SurfaceTable, heights: np.ndarray) -> np.ndarray:
    """(N, m) weighted area times error in mm³ of a layer that starts at a step with a height (m,)
    in z steps.
    """
    steps = table.steps
    end = np.minimum(np.arange(steps)[:, None] + heights, steps)
    cost = (table.slope[end] - table.slope[:-1, None]) * (heights * table.z_step)
    b, j, error, area = flat_cells(table, heights)
    np.add.at(cost, (b, j), error * area)
    return cost


def area_above(
    table: SurfaceTable, heights: np.ndarray, target: float, flats: tuple[np.ndarray, ...]
) -> np.ndarray:
    """(N, m) weighted area in mm² whose error is above ``target`` mm; ``flats`` from
    `flat_cells`.
    """
    steps, classes = table.steps, table.classes
    cost = np.empty((steps, len(heights)))
    for n, h in enumerate(heights):  # one pass over the z steps for each height
        k = int(
            np.clip(np.floor((target + 1e-9) * classes / (h * table.z_step) - 0.5) + 1, 0, classes)
        )
        row = table.above[k]
        cost[:, n] = row[np.minimum(np.arange(steps) + h, steps)] - row[:-1]
    b, j, error, area = flats
    over = error > target + 1e-9
    np.add.at(cost, (b[over], j[over]), area[over])
    return cost


def worst_error(
    table: SurfaceTable, heights: np.ndarray, steepest: np.ndarray, flats: tuple[np.ndarray, ...]
) -> np.ndarray:
    """(N, m) greatest error in mm; ``steepest`` (N, m) is the largest |n_z| over each layer."""
    worst = steepest * heights * table.z_step
    b, j, error, _ = flats
    np.maximum.at(worst, (b, j), error)
    return worst


def flat_cells(
    table: SurfaceTable, heights: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """For every flat and every layer that could contain it: starting step, height index, distance
    to its nearer boundary in mm, area.
    """
    steps, at = table.steps, table.flat_z / table.z_step
    if not len(at):
        return np.empty(0, np.int64), np.empty(0, np.int64), np.empty(0), np.empty(0)
    tallest = int(heights[-1])
    # a flat on a boundary belongs to the layer below it, whose error there is nothing
    back = np.arange(1, tallest + 1)
    start = np.ceil(at - 1e-9).astype(np.int64)[:, None] - back
    f, n, j = np.broadcast_arrays(
        np.arange(len(at))[:, None, None], start[:, :, None], np.arange(len(heights))
    )
    keep = (n >= 0) & (n < steps) & (n + heights[j] >= at[f] - 1e-9)
    f, n, j = f[keep], n[keep], j[keep]
    error = np.minimum(np.abs(at[f] - n), np.abs(n + heights[j] - at[f])) * table.z_step
    return n, j, error, table.flat_area[f]
