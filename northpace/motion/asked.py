"""What is asked of every row: features, bands, regions, short loops and the first layer, under the
flow limit.

One pass over the rows: of millions of them every array between costs as much as the result.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numba
import numpy as np

from northpace.motion.speeds import (
    ACCELERATIONS,
    SPEEDS,
    accelerations,
    rising_speed,
    sayable,
    short_loops,
)
from northpace.moves import FEATURES, RETRACTION, TRAVEL
from northpace.paths.bead import compiled_area
from northpace.paths.travel.rows import Rows
from northpace.spec import ByLayer, PlanSpec

#: What is asked of features that no setting is about.
NOTHING_ASKED = 100.0
_sayable = numba.njit(sayable)


class Asked(NamedTuple):
    """What is asked of every row (M,)."""

    #: mm/s as the file says it, and whether the flow limit holds it
    speed: np.ndarray
    limited: np.ndarray
    #: mm/s² as the file says it
    acceleration: np.ndarray
    #: mm² of the bead
    section: np.ndarray
    #: mm fed; negative is pulled back
    filament: np.ndarray


class _Columns(NamedTuple):
    """Columns of the rows, for the kernel."""

    #: (M,) layer and code of the feature
    layer: np.ndarray
    feature: np.ndarray
    #: (M,) where it ends in mm
    x: np.ndarray
    y: np.ndarray
    z: np.ndarray
    #: (M,) of the bead in mm
    width: np.ndarray
    height: np.ndarray
    #: (M,) −1 for a retraction, +1 for its return, and what regions change there
    pull: np.ndarray
    region: np.ndarray
    #: (M,) whether it belongs to a short loop
    short: np.ndarray


class _Tables(NamedTuple):
    """What settings say, by layer (N) and feature (F), and where regions (C) say otherwise; NaN
    where they do not.
    """

    #: (N, F) mm/s and mm/s²
    speed: np.ndarray
    acceleration: np.ndarray
    #: (N,) flow correction in %, and the flow in mm³/s that is not exceeded
    flow: np.ndarray
    safe: np.ndarray
    #: (N,) mm of filament drawn back, and given back beyond that
    drawn: np.ndarray
    extra: np.ndarray
    #: (C, F), (C, F) and (C,) of regions
    region_speed: np.ndarray
    region_acceleration: np.ndarray
    region_flow: np.ndarray


class _Limits(NamedTuple):
    """What holds everywhere: mm/s at most in short loops and on the first layer, mm/s² on the first
    layer, mm/s of what only rises or falls, mm² of the filament.
    """

    short_loop: float
    first_speed: float
    first_acceleration: float
    rising: float
    filament: float


def asked(rows: Rows, spec: PlanSpec, local: ByLayer, safe: np.ndarray) -> Asked:
    """What is asked of rows; ``safe`` (N,) is the flow in mm³/s that no layer exceeds."""
    pace = spec.pace
    short = short_loops(rows.feature, rows.width > 0, rows.x, rows.y, pace.short_loop)
    columns = _Columns(
        np.asarray(rows.layer, np.int32),
        np.asarray(rows.feature, np.uint8),
        *(rows.x, rows.y, rows.z),
        np.asarray(rows.width, np.float32),
        np.asarray(rows.height, np.float32),
        np.asarray(rows.pull, np.int8),
        np.asarray(rows.region, np.int32),
        short,
    )
    limits = _Limits(
        float(pace.short_loop_speed),
        float(pace.first_layer_speed),
        float(pace.first_layer_acceleration),
        float(rising_speed(spec)),
        float(spec.material.section),
    )
    count = len(short)
    out = Asked(
        np.empty(count),
        np.empty(count, bool),
        np.empty(count, np.float32),
        np.empty(count),
        np.empty(count),
    )
    _ask(columns, _tables(rows.cases, spec, local, safe), limits, out)
    return out


def _tables(
    cases: tuple[dict[str, Any], ...], spec: PlanSpec, local: ByLayer, safe: np.ndarray
) -> _Tables:
    speed = np.full((local.count, len(FEATURES)), NOTHING_ASKED)
    acceleration = speed.copy()
    for code, name in SPEEDS.items():
        speed[:, code] = local.numbers(f"pace.{name}", 0.0)
        acceleration[:, code] = accelerations(local, code)
    quick, push = (np.full((len(cases), len(FEATURES)), np.nan) for _ in range(2))
    for number, changes in enumerate(cases):
        for code, name in SPEEDS.items():
            quick[number, code] = changes.get(f"pace.{name}", np.nan)
            push[number, code] = _pushed(code, changes, spec)
    return _Tables(
        speed,
        acceleration,
        local.numbers("material.flow", 100.0),
        np.asarray(safe, float),
        local.numbers("pace.retraction_length", 0.0),
        local.numbers("pace.restart_extra", 0.0),
        quick,
        push,
        np.array([changes.get("material.flow", np.nan) for changes in cases], float),
    )


def _pushed(code: int, changes: dict[str, Any], spec: PlanSpec) -> float:
    """The acceleration that a region's changes say for a feature; NaN where they do not."""
    own = ACCELERATIONS.get(code, "acceleration")
    # a feature that leaves its acceleration open follows the one of everything laid, also where a
    # region changes that
    follows = getattr(spec.pace, own) is None
    push = changes.get(f"pace.{own}", changes.get("pace.acceleration") if follows else None)
    return np.nan if push is None or code == RETRACTION else float(push)


@numba.njit(cache=True, nogil=True)
def _ask(rows, tables, limits, out):  # type: ignore[no-untyped-def]
    drawn = 0.0
    for m in range(len(rows.x)):
        n, f, r = max(rows.layer[m], 0), rows.feature[m], rows.region[m]
        before = max(m - 1, 0)
        dx, dy = rows.x[m] - rows.x[before], rows.y[m] - rows.y[before]
        dz = rows.z[m] - rows.z[before]
        v, a, flow = tables.speed[n, f], tables.acceleration[n, f], tables.flow[n]
        if not np.isnan(tables.region_speed[r, f]):
            v = tables.region_speed[r, f]
        if not np.isnan(tables.region_acceleration[r, f]):
            a = tables.region_acceleration[r, f]
        if not np.isnan(tables.region_flow[r]):
            flow = tables.region_flow[r]
        if rows.short[m]:
            v = min(v, limits.short_loop)
        section, most, laid = 0.0, np.inf, rows.width[m] > 0
        if laid:
            section = (
                compiled_area(np.float64(rows.width[m]), np.float64(rows.height[m])) * flow / 100.0
            )
            if section > 0.0:
                most = tables.safe[n] / section
            if rows.layer[m] == 0:
                v, a = min(v, limits.first_speed), limits.first_acceleration
        if f == TRAVEL and dz != 0.0 and dx == 0.0 and dy == 0.0:
            v = limits.rising
        fed = section * np.sqrt(dx * dx + dy * dy + dz * dz) / limits.filament
        if f == RETRACTION:
            # what is given back is what was taken, also where a band begins in between
            fed = drawn + tables.extra[n] if rows.pull[m] > 0 else -tables.drawn[n]
            drawn = tables.drawn[n]
        out.speed[m] = _sayable(min(v, most))
        out.limited[m] = laid and v > most + 1e-9
        out.acceleration[m] = a
        out.section[m] = section
        out.filament[m] = np.rint(fed * 1e5) / 1e5
