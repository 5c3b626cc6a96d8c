"""One dial from precise to quick: every speed and acceleration goes from one set to another.

The two sets are kept with the material, for one machine or for all of them; what is left open in a
set follows from limits. Whatever the sets say, a dialled speed keeps to the safe flow, and what
shows is never quicker than what lies behind it.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from northpace.figures import PaceDial
from northpace.motion.from_limits import (
    PUSHES,
    RUNS,
    Aim,
    from_limits,
    in_order,
    reference_height,
    sections,
    tidy,
)
from northpace.motion.speeds import safe_flow
from northpace.spec import PlanSpec
from northpace.spec.groups.material import PaceEnd

#: What is asked of the limits at either end, where nothing is typed.
PRECISE = Aim(flow_share=40, outer_share=30, flow_step=60, calm_share=60)
QUICK = Aim(flow_share=100, outer_share=70, flow_step=100, calm_share=150)
#: Whatever goes with the dial.
DIALLED = (*RUNS, *PUSHES)


class Ends(NamedTuple):
    """Speeds (mm/s) and accelerations (mm/s²) by setting at the two ends, and those typed there."""

    precise: dict[str, float]
    quick: dict[str, float]
    typed_precise: frozenset[str]
    typed_quick: frozenset[str]


def ends(spec: PlanSpec) -> Ends:
    """The two sets that hold for the plan's machine and material."""
    machine = spec.machine.name
    typed_precise = _typed(spec.material.precise, machine)
    typed_quick = _typed(spec.material.quick, machine)
    return Ends(
        _filled(spec, PRECISE, typed_precise),
        _filled(spec, QUICK, typed_quick),
        frozenset(typed_precise),
        frozenset(typed_quick),
    )


def _filled(spec: PlanSpec, aim: Aim, typed: dict[str, float]) -> dict[str, float]:
    """A whole set: what is typed, and the rest as limits say."""
    values = {**from_limits(spec, aim), **typed}
    return {name: values[name] for name in DIALLED}


def _typed(sets: tuple[PaceEnd, ...], machine: str) -> dict[str, float]:
    """What is typed for a machine: its own set, else the one for any machine."""
    for wanted in (machine, ""):
        for one in sets:
            if one.machine.strip() == wanted:
                return {name: value for name in DIALLED if (value := getattr(one, name)) > 0}
    return {}


def dial_figures(spec: PlanSpec) -> PaceDial | None:
    """Both sets by setting, as a report says them; nothing while the dial is off."""
    if spec.pace.dial is None:
        return None
    both = ends(spec)

    def named(values: dict[str, float]) -> dict[str, float]:
        return {f"pace.{name}": value for name, value in values.items()}

    return {
        "precise": named(both.precise),
        "quick": named(both.quick),
        "typed_precise": sorted(f"pace.{name}" for name in both.typed_precise),
        "typed_quick": sorted(f"pace.{name}" for name in both.typed_quick),
    }


def dialled(spec: PlanSpec, share: float) -> dict[str, float]:
    """Every speed and acceleration that is not set by hand, at ``share`` % of the way from precise
    to quick.
    """
    both, by_hand = ends(spec), spec.pace.by_hand
    section, safe = sections(spec, reference_height(spec)), safe_flow(spec)
    values: dict[str, float] = {}
    for name in DIALLED:
        if name in by_hand:
            continue
        low, high = both.precise[name], both.quick[name]
        value = low + (high - low) * share / 100
        if name in section:
            value = tidy(min(value, safe / section[name], spec.machine.max_speed_xy))
        else:
            value = float(np.clip(round(value / 10) * 10, 10, 50000))
        values[name] = value
    return in_order(spec, values)
