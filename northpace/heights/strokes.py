"""Heights shaped by hand: strokes that make layers finer or taller where they pass, or even them
out, always within what the rules of the plan allow.
"""

from __future__ import annotations

import numpy as np
import scipy.ndimage

from northpace.heights.fit import HeightTask
from northpace.heights.solve import solve
from northpace.spec import HeightStroke

#: The soft edge of a stroke, as a share of its length on either side.
EDGE = 0.25
#: How wide one pass of evening out looks around, as a share of the stroke's length.
AROUND = 0.06
#: A layer is of a stroke where its weight is at least this in its middle.
TOUCHED = 0.05
#: What a change of height costs, in steps of height over a layer: little flutter is not followed.
FLUTTER = 3.0


def stroked(
    task: HeightTask, strokes: tuple[HeightStroke, ...], base: np.ndarray
) -> tuple[np.ndarray, np.ndarray]:
    """A stack (n,) in z steps with strokes drawn over it one after the other, and which layers (n,)
    they shaped.

    What is wanted at every height is the height of the base there, changed; the stack that keeps
    all rules and is nearest to it is found by the same programme as any other. The sum stays exact,
    because the programme knows no other stacks.
    """
    rules, q = task.rules, task.table.z_step
    wanted = np.repeat(base, base).astype(np.float64)[: rules.steps]
    # the first layer is set apart
    wanted[: rules.first] = base[min(1, len(base) - 1)]
    middle = (np.arange(len(wanted)) + 0.5) * q
    shaped = np.zeros(len(wanted))
    for stroke in strokes:
        weight = _weight(middle, stroke)
        shaped = np.maximum(shaped, weight)
        if stroke.kind == "even-out":
            wide = AROUND * (stroke.to_mm - stroke.from_mm) / q * np.sqrt(stroke.times)
            smooth = scipy.ndimage.gaussian_filter1d(wanted, max(wide, 1e-3), mode="nearest")
            wanted = wanted + weight * (smooth - wanted)
        else:
            wanted = wanted * (1 + stroke.by / 100 * weight)
    stack = solve(rules, _away(wanted, rules.heights), task.seconds, 0.0, change=FLUTTER)
    if not len(stack):
        return base, np.zeros(len(base), bool)
    at = np.clip(np.cumsum(stack) - (stack + 1) // 2, 0, len(shaped) - 1)
    touched = shaped[at] >= TOUCHED
    touched[0] = False
    return stack, touched


def _weight(z: np.ndarray, stroke: HeightStroke) -> np.ndarray:
    """(N,) how much of a stroke there is at heights (N,) in mm: whole in its middle, falling to
    nothing at its ends.
    """
    long = stroke.to_mm - stroke.from_mm
    inside = np.minimum(z - stroke.from_mm, stroke.to_mm - z) / max(EDGE * long, 1e-9)
    t = np.clip(inside, 0, 1)
    return np.asarray(t * t * (3 - 2 * t))


def _away(wanted: np.ndarray, heights: np.ndarray) -> np.ndarray:
    """(N, m) how far layers that start at a z step with a height (m,) are from what is wanted (N,)
    over them, in z steps squared.
    """
    run = np.concatenate([[0.0], np.cumsum(wanted)])
    start = np.arange(len(wanted))[:, None]
    end = np.minimum(start + heights, len(wanted))
    mean = (run[end] - run[start]) / np.maximum(end - start, 1)
    return np.asarray(np.abs(mean - heights) * heights, np.float32)
