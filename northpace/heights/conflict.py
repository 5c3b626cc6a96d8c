"""Why there is no stack: the height where it fails and the rules that contradict each
other there.
"""

from __future__ import annotations

import numpy as np

from northpace.errors import InputError
from northpace.heights.fit import HeightTask
from northpace.heights.rules import BAND, EDGE, FLAT, LIMIT, OVERHANG, PIN, TARGET
from northpace.heights.solve import reachable
from northpace.spec import PlanSpec
from northpace.spec.groups.surface import Surface

RULE_BITS = {
    PIN: "surface.pins",
    BAND: "surface.bands",
    EDGE: "surface.bands",
    FLAT: "surface.meet_flats",
    LIMIT: "surface.least_height",
    OVERHANG: "surface.overhang_rule",
    TARGET: "surface.worst_um",
}


#: Rules that are named when they leave no stack.
NAMED = (
    (PIN, "pin"),
    (BAND | EDGE, "band"),
    (FLAT, "flat"),
    (LIMIT, "limit"),
    (OVERHANG, "overhang"),
    (TARGET, "worst"),
)


def explain(task: HeightTask, spec: PlanSpec) -> InputError:
    """The refusal of a spec whose rules leave no stack: where, which rules, and what would do."""
    rules, q = task.rules, task.rules.z_step
    furthest = int(np.flatnonzero(_reach(task, 255)).max())
    z, top = furthest * q, task.table.steps * q
    # rules that stand at the place, and those whose absence alone would let a stack through
    alone = [(bits, name) for bits, name in NAMED if _reach(task, 255 & ~bits)[-1]]
    names = [_words(name, spec, z) for _, name in alone]
    if _reach(task, 255, step_limit=False)[-1]:
        names.append(f"the step limit of {spec.surface.step_limit:g}")
    where = next((RULE_BITS[bits & -bits] for bits, _ in alone), "surface.step_limit")
    low, high = rules.low * q, rules.heights[-1] * q
    if len(names) >= 2:
        return InputError(
            f"at {z:.2f} mm {names[0]} and {' and '.join(names[1:])} contradict each other; "
            "without one of them there is a stack",
            where,
        )
    if len(names) == 1:
        return InputError(
            f"at {z:.2f} mm {names[0]} and the machine limit of {low:g} to {high:g} mm leave no "
            f"way to the top at {top:.2f} mm",
            where,
        )
    if furthest <= rules.first:
        first = rules.first * q
        return InputError(
            f"no stack of layers reaches {top:.3f} mm: above the first layer of {first:g} mm the "
            f"next top lies between {(rules.first + rules.low) * q:g} and {first + high:g} mm; "
            "change the first layer height",
            "surface.first_layer_height",
        )
    return InputError(
        f"no stack of layers gets past {z:.2f} mm within the machine limit of {low:g} to {high:g} "
        "mm, the step limit and what pins and bands ask for",
        "surface.bands",
    )


def _reach(task: HeightTask, bits: int, step_limit: bool = True) -> np.ndarray:
    """(N + 1,) which z steps a stack can reach under some of the rules."""
    rules, count = task.rules, len(task.rules.heights)
    if not step_limit:
        rules = rules._replace(
            least=np.zeros(count, np.int64), most=np.full(count, count - 1, np.int64)
        )
    return reachable(rules, np.uint8(bits))


def _bound(surface: Surface, z: float) -> float:
    """The least step error in µm that the plan or a band bounds at a height."""
    here = [
        band.worst_um for band in surface.bands if band.from_mm <= z <= band.to_mm and band.worst_um
    ]
    return min([*here, surface.worst_um or np.inf])


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
        "worst": f"nothing above {_bound(surface, z):g} µm",
        "limit": f"this plan's own limit of {surface.least_height or 0:g} to "
        f"{surface.greatest_height or spec.machine.h_max:g} mm",
    }[name]
