"""Temperatures and fan along the height."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from northpace.spec import ByLayer, PlanSpec, resolve_heat


@dataclass(frozen=True)
class Heat:
    """Nozzle and bed in °C, fan and fan on bridges in % of every layer (N,): those of the first
    layer on the first only, none of the fan below the layer it starts at.
    """

    nozzle: np.ndarray
    bed: np.ndarray
    fan: np.ndarray
    bridge_fan: np.ndarray


def heat_by_layer(spec: PlanSpec, tops: np.ndarray, heights: np.ndarray) -> Heat:
    """Temperatures and fan layer by layer, as the plan and its bands say. ``tops`` and ``heights``
    are (N,), in mm.
    """
    local, heat = ByLayer(spec, tops, heights), resolve_heat(spec)
    nozzle, bed = (local.numbers(f"air.{name}", heat[name]) for name in ("nozzle_temp", "bed_temp"))
    fan = local.numbers("air.fan", _stages(spec, tops - heights, heat["fan"]))
    nozzle[0], bed[0] = heat["first_nozzle_temp"], heat["first_bed_temp"]
    fan[: spec.air.fan_off_layers] = 0.0
    return Heat(nozzle, bed, fan, local.numbers("air.bridge_fan", fan))


def _stages(spec: PlanSpec, bottoms: np.ndarray, plain: float) -> np.ndarray:
    """(N,) the material's fan of layers that begin at heights (N,): by its stages where it has
    some.
    """
    stages = sorted(spec.material.fan_stages, key=lambda stage: stage.above_mm)
    if not stages:
        return np.full(len(bottoms), plain)
    reached = np.searchsorted([stage.above_mm for stage in stages], bottoms + 1e-6, "right")
    return np.array([0.0, *(stage.fan for stage in stages)])[reached]
