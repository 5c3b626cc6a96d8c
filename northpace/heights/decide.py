"""What decides: the rule that keeps each layer from being taller, and what one z step more or less
would bring.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import get_args

import numpy as np

from northpace.figures import Rule
from northpace.heights.fit import HeightTask
from northpace.heights.rules import BAND, EDGE, FLAT, LIMIT, OVERHANG, PIN, TARGET, finest
from northpace.spec import Surface

#: Every rule that can decide.
RULES: tuple[Rule, ...] = get_args(Rule)


@dataclass(frozen=True)
class Decisions:
    """For each layer (n,): the rule; seconds and micrometres that one z step taller or lower would
    bring over its stretch.
    """

    rule: list[Rule]
    coarser_s: np.ndarray
    coarser_um: np.ndarray
    finer_s: np.ndarray
    finer_um: np.ndarray


def decide(task: HeightTask, surface: Surface, stack: np.ndarray, by_hand: np.ndarray) -> Decisions:
    """The binding rule of every layer of a stack (n,) in z steps; ``by_hand`` (n,) are those that
    strokes shaped.
    """
    rules, table, q = task.rules, task.table, task.rules.z_step
    n, m = len(stack), rules.broken.shape[1]
    j = np.clip(stack - rules.low, 0, m - 1)
    b = np.clip(np.cumsum(stack) - stack, 0, table.steps - 1)
    taller = np.minimum(j + 1, m - 1)
    ahead = rules.broken[b, taller]
    ahead = np.where(ahead == 255, 0, ahead)
    choices: list[tuple[np.ndarray, Rule]] = [(np.arange(n) == 0, "first-layer")]
    if surface.stack:
        choices.append((np.ones(n, bool), "given"))
    pinned = np.zeros(n, bool)
    for pin in surface.pins:
        pinned |= (b * q <= pin.z_mm + 1e-6) & (pin.z_mm < (b + stack) * q - 1e-6)
    choices += [(pinned | (ahead & PIN > 0), "pin"), (ahead & (BAND | EDGE) > 0, "band")]
    choices.append((by_hand, "by-hand"))
    if surface.kind == "even":
        choices += [
            (stack == round(surface.layer_height / q), "even"),
            (_against_neighbours(task, stack), "step-limit"),
            (np.ones(n, bool), "top"),
        ]
        return Decisions(_first(choices, n), *_steps(task, b, j))
    choices.append((j == m - 1, "machine-limit"))
    target = surface.target_um / 1000
    asked = surface.kind == "adaptive" or (
        surface.measure == "max" and surface.time_cap_min is None
    )
    meets = task.worst[b, j] <= target + 1e-9
    is_finest = j == finest(rules.broken)[b]
    if surface.time_cap_min is None:
        choices.append((is_finest & ~meets, "finest"))
    choices += [
        (ahead & OVERHANG > 0, "overhang"),
        (ahead & FLAT > 0, "flat"),
        (ahead & LIMIT > 0, "plan-limit"),
        (ahead & TARGET > 0, "target"),
    ]
    if asked:
        over = task.worst[b, taller] > target + 1e-9
        by_slope = table.steepest[b] * (stack + 1) * q > target + 1e-9
        choices += [(over & by_slope, "target"), (over, "curvature")]
    choices.append((_against_neighbours(task, stack), "step-limit"))
    flats = np.isin(b + stack, np.round(table.flat_z / q)) & (b + stack < table.steps)
    choices.append((flats & (stack != np.r_[stack[:1], stack[:-1]]), "flat"))
    choices.append(
        (
            np.ones(n, bool),
            "top" if asked else "time" if surface.time_cap_min is not None else "target",
        )
    )
    return Decisions(_first(choices, n), *_steps(task, b, j))


def _first(choices: list[tuple[np.ndarray, Rule]], n: int) -> list[Rule]:
    number = np.argmax(np.array([mask for mask, _ in choices]), axis=0)
    return [choices[k][1] for k in number[:n]]


def _against_neighbours(task: HeightTask, stack: np.ndarray) -> np.ndarray:
    """(n,) whether one z step more would break the step limit; the boundary above the first layer
    is exempt.
    """
    rules = task.rules
    j = stack - rules.low
    m = len(rules.least)
    taller = np.clip(j + 1, 0, m - 1)
    out = np.zeros(len(stack), bool)
    if len(stack) > 2:
        below, above = j[1:-1], j[2:]
        out[2:] |= rules.most[np.clip(below, 0, m - 1)] < taller[2:]
        out[1:-1] |= rules.least[taller[1:-1]] > above
    return out


def _steps(
    task: HeightTask, b: np.ndarray, j: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Seconds over the stretch of a layer when its height is one z step more or less, and the
    change of its greatest error.
    """
    heights, m = task.rules.heights, len(task.rules.heights)
    own = task.seconds[b, j]
    out = []
    for sign in (1, -1):
        k = np.clip(j + sign, 0, m - 1)
        out.append(heights[j] * task.seconds[b, k] / heights[k] - own)
        out.append(1000 * (task.worst[b, k] - task.worst[b, j]))
    return out[0], out[1], out[2], out[3]
