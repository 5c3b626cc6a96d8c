"""Why there is no stack: the height where it fails and the rules that contradict each
other there.
"""

from __future__ import annotations

import numpy as np

from northpace.errors import InputError
from northpace.heights.fit import HeightTask
from northpace.heights.limits import BAND, EDGE, FLAT, LIMIT, OVERHANG, PIN, TARGET
from northpace.heights.solve import reachable
from northpace.spec import PlanSpec

RULE_BITS = {
    PIN: "surface.pins",
    BAND: "surface.bands",
    EDGE: "surface.bands",
    FLAT: "surface.meet_flats",
    LIMIT: "surface.least_height",
    OVERHANG: "surface.overhang_rule",
    TARGET: "surface.worst_um",
}


def explain(task: HeightTask, spec: PlanSpec) -> InputError:
    """The refusal of a spec whose rules leave no stack: where, which rules, and what would do."""
    rules, q = task.rules, task.rules.z_step
    count = len(rules.heights)
    free_least, free_most = np.zeros(count, np.int64), np.full(count, count - 1)

    def reach(bits: int, step_limit: bool) -> np.ndarray:
        return reachable(
            rules.broken,
            np.uint8(bits),
            rules.first,
            rules.low,
            rules.least if step_limit else free_least,
            rules.most if step_limit else free_most,
        )

    furthest = int(np.flatnonzero(reach(255, True)).max())
    z = furthest * q
    # rules that stand at the place, and those whose absence alone would let a stack through
    alone = [
        (bits, name)
        for bits, name in (
            (PIN, "pin"),
            (BAND | EDGE, "band"),
            (FLAT, "flat"),
            (LIMIT, "limit"),
            (OVERHANG, "overhang"),
            (TARGET, "worst"),
        )
        if reach(255 & ~bits, True)[-1]
    ]
    names = [_words(name, spec, z) for _, name in alone]
    if reach(255, False)[-1]:
        names.append(f"the step limit of {spec.surface.step_limit:g}")
    if len(names) >= 2:
        where = next((RULE_BITS[bits & -bits] for bits, _ in alone), "surface.step_limit")
        return InputError(
            f"at {z:.2f} mm {names[0]} and {' and '.join(names[1:])} contradict each other; "
            "without one of them there is a stack",
            where,
        )
    low, high = rules.low * q, rules.heights[-1] * q
    if len(names) == 1:
        where = RULE_BITS[alone[0][0] & -alone[0][0]] if alone else "surface.step_limit"
        return InputError(
            f"at {z:.2f} mm {names[0]} and the machine limit of {low:g} to {high:g} mm leave no "
            f"way to the top at {task.table.steps * q:.2f} mm",
            where,
        )
    if furthest <= rules.first:
        return InputError(
            f"no stack of layers reaches {task.table.steps * q:.3f} mm: above the first layer of "
            f"{rules.first * q:g} mm the next top lies between {(rules.first + rules.low) * q:g} "
            f"and {rules.first * q + high:g} mm; change the first layer height",
            "surface.first_layer_height",
        )
    return InputError(
        f"no stack of layers gets past {z:.2f} mm within the machine limit of {low:g} to {high:g} "
        "mm, the step limit and what pins and bands ask for",
        "surface.bands",
    )


def _words(name: str, spec: PlanSpec, z: float) -> str:
    """A rule as the maker set it, the one nearest to a height."""
    surface = spec.surface
    if name == "pin":
        number, pin = min(enumerate(surface.pins, 1), key=lambda entry: abs(entry[1].z_mm - z))
        return f"pin {number} ({pin.height_mm:g} mm at {pin.z_mm:g} mm)"
    if name == "band":
        band = min(
            surface.bands, key=lambda entry: min(abs(entry.from_mm - z), abs(entry.to_mm - z))
        )
        low, high = (
            band.least_mm or spec.machine.least_height,
            band.greatest_mm or spec.machine.h_max,
        )
        asked = (
            f"{band.height_mm:g} mm" if band.height_mm is not None else f"{low:g} to {high:g} mm"
        )
        return f"{band.title} ({asked} from {band.from_mm:g} to {band.to_mm:g} mm)"
    return {
        "flat": "a boundary at every level face",
        "overhang": "the overhang rule",
        "worst": f"nothing above {surface.worst_um} µm",
        "limit": f"this plan's own limit of {surface.least_height or 0:g} to "
        f"{surface.greatest_height or spec.machine.h_max:g} mm",
    }[name]
