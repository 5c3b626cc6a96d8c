"""A chosen stack of layers, with what it does to the surface and why."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from northpace.figures import ByHand, CalmFigures, LayerChoices, Surface
from northpace.heights.above import above_target, share_over
from northpace.heights.measure import SurfaceError
from northpace.heights.surface import SurfaceTable
from northpace.spec import PlanSpec


@dataclass(frozen=True)
class Stack:
    """Chosen heights (n,) in mm with their surface error; ``gap`` to what nothing can beat;
    ``out_of_reach``: stretches (k, 2) mm where even the finest layer misses the target; ``rules``
    and steps by layer as plain lists for the report.
    """

    #: (n,) in mm
    heights: np.ndarray
    seconds: float
    error: SurfaceError
    gap: float
    reached: bool
    out_of_reach: np.ndarray
    layers: LayerChoices
    #: how often heights change, and what that was given for
    calm: CalmFigures
    #: what strokes of a hand made of it
    by_hand: ByHand | None = None

    def missed(self, spec: PlanSpec) -> str:
        """Where the target cannot be reached, and what that means for the measure, as a sentence;
        empty where it can.
        """
        surface, spans = spec.surface, self.out_of_reach
        if not len(spans) and (self.reached or not surface.has_target):
            return ""
        where = ""
        if len(spans):
            low, high = spans[int(np.argmax(np.ptp(spans, axis=1)))]
            others = len(spans) - 1
            more = f" and in {others} other stretch{'es' if others > 1 else ''}" if others else ""
            where = f" between {low:.2f} and {high:.2f} mm{more}"
        own = surface.least_height or 0
        finest = max(own, spec.machine.least_height)
        whose = "this plan's own limit of" if own > spec.machine.least_height else "this nozzle's"
        name = {"mean": "mean", "p95": "P95", "max": "max"}[
            "max" if surface.kind == "adaptive" else surface.measure
        ]
        best = 1000 * (
            self.error.max if surface.kind == "adaptive" else self.error.of(surface.measure)
        )
        outcome = (
            f"{name} allows for it"
            if self.reached
            else f"the target is not met, the best {name} is {best:.0f} µm"
        )
        first = 1000 * float(self.error.layer_max[0]) if len(self.error.layer_max) else 0.0
        if not self.reached and first > surface.target_um:
            outcome += f"; the first layer of {self.heights[0]:g} mm alone shows {first:.0f} µm"
        return (
            f"{surface.target_um:g} µm is out of reach{where} "
            f"with {whose} {finest:g} mm; {outcome}."
        )

    def figures(self, table: SurfaceTable, spec: PlanSpec) -> Surface:
        """The report's part about the surface, in µm; ``gap``: share of time (or error) by which no
        other stack could be better.
        """
        error, target = self.error, spec.surface.target_um / 1000
        return {
            "mean_um": 1000 * error.mean,
            "p95_um": 1000 * error.p95,
            "max_um": 1000 * error.max,
            "over_target": share_over(table, self.heights, error, target),
            "above": above_target(table, self.heights, error, spec),
            "gap": self.gap,
            "reached": self.reached,
            "out_of_reach_mm": [[round(float(v), 3) for v in span] for span in self.out_of_reach],
            "missed": self.missed(spec),
            "seen_mm2": table.seen,
            "hidden_mm2": table.hidden,
            "calm": self.calm,
            "by_hand": self.by_hand,
            "flats_mm": [round(float(z), 3) for z in np.unique(table.flat_z)],
        }

    @property
    def nbytes(self) -> int:
        return 64 * len(self.heights) + self.error.values.nbytes
