"""Findings about layer heights: what the surface target leaves, jumps between layers, tall layers
where the part leans out.
"""

from __future__ import annotations

import numpy as np

from northpace.checks.finding import Finding, some
from northpace.layers.limits import overhang_limit, spans, within_step_limit
from northpace.layers.stack import Stack
from northpace.layers.surface import SurfaceTable
from northpace.spec import PlanSpec, Surface


def height_findings(stack: Stack, table: SurfaceTable, spec: PlanSpec) -> list[Finding]:
    """Where the target is out of reach, where neighbours jump, and where a bead hangs more than
    half over the one below.
    """
    surface, q = spec.surface, table.z_step
    found: list[Finding] = []
    if missed := stack.missed(spec):
        widest = stack.out_of_reach[int(np.argmax(np.ptp(stack.out_of_reach, axis=1)))]
        found.append(
            Finding(
                "target-out-of-reach",
                "note" if stack.reached else "look",
                missed,
                float(widest.mean()),
            )
        )
    found.extend(_above(stack, surface))
    steps = np.round(stack.heights / q).astype(np.int64)
    jumps = (
        np.flatnonzero(~within_step_limit(steps[1:-1], steps[2:], surface.step_limit)) + 1
        if len(steps) > 2
        else np.empty(0, np.int64)
    )
    if len(jumps):
        k = int(jumps[0])
        z = float(stack.heights[: k + 1].sum())
        found.append(
            Finding(
                "height-jump",
                "note",
                f"{some(len(jumps), 'jump', 'jumps')} between layers above the step limit of "
                f"{surface.step_limit:g}, the first at {z:.2f} mm from {stack.heights[k]:.2f} to "
                f"{stack.heights[k + 1]:.2f} mm.",
                z,
            )
        )
    found.extend(_leaning(stack, table, spec, steps))
    return found


def _above(stack: Stack, surface: Surface) -> list[Finding]:
    """Where the part of the surface lies that a percentile or a mean lets go above the target."""
    target = surface.target_um / 1000
    over = stack.error.layer_max > 1.15 * target
    if (
        surface.kind != "best-fit"
        or surface.time_cap_min is not None
        or surface.measure == "max"
        or surface.stack
        or not over.any()
    ):
        return []
    k = int(np.argmax(stack.error.layer_max))
    tops = np.cumsum(stack.heights)
    same = np.flatnonzero(~over)
    start = int(same[same < k].max(initial=-1)) + 1
    end = int(same[same > k].min(initial=len(over))) - 1
    return [
        Finding(
            "above-target",
            "note",
            f"{100 * stack.error.over(target):.1f} % of the surface is above the target of "
            f"{surface.target_um:g} µm, as the "
            f"{'95th percentile' if surface.measure == 'p95' else 'mean'} allows: up to "
            f"{1000 * stack.error.max:.0f} µm, between {tops[start] - stack.heights[start]:.2f} "
            f"and {tops[end]:.2f} mm. 'Nothing above' bounds it.",
            float(tops[k]),
        )
    ]


def _leaning(stack: Stack, table: SurfaceTable, spec: PlanSpec, steps: np.ndarray) -> list[Finding]:
    start = np.clip(np.cumsum(steps) - steps, 0, table.steps - 1)
    kinds, which = np.unique(steps, return_inverse=True)
    most = overhang_limit(spans(table.leaning, kinds)[start, which], spec.body.outer_width)
    # only where a lower layer would help: steeper than that is a matter of support
    over = (
        (stack.heights > most + 1e-9)
        & (most >= spec.machine.least_height)
        & (np.arange(len(steps)) > 0)
    )
    if not over.any():
        return []
    at = np.flatnonzero(over)
    k = int(at[np.argmax((stack.heights - most)[at])])
    tops = np.cumsum(stack.heights)
    return [
        Finding(
            "tall-overhang",
            "look",
            f"{some(len(at), 'layer leaves its bead', 'layers leave their bead')} hanging more "
            f"than half over the one below where the part leans out, most at {tops[k]:.2f} mm: "
            f"{stack.heights[k]:.2f} mm tall, {most[k]:.2f} would hold. 'Lower layers where it "
            "leans out' keeps them down.",
            float(tops[k]),
        )
    ]
