"""What beds take, as ratios to copying the move table of the same bed once."""

from __future__ import annotations

import resource
from collections.abc import Callable

import manifold3d as m3
import numpy as np

from northpace.beds.arrange import arranged
from northpace.beds.bed import lay_bed
from northpace.beds.fit import filled
from northpace.beds.planning import Asked, Planned, Planner
from northpace.beds.report import bed_report
from northpace.beds.spec import BedSpec, Placing
from northpace.beds.write import write_bed
from northpace.moves import COLUMNS
from northpace.plan.pipeline import Pipeline
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import source

#: A part of 500 layers.
TALL = m3.Manifold.cylinder(40, 12, 9, 64)
PLACINGS = 20


def beds(timed: Callable[[Callable[[], object], int], float]) -> None:
    """Merging, timing, writing, arranging and the report of a bed of tall parts."""
    spec = with_settings(PlanSpec(), ["body.infill_density=5", "surface.layer_height=0.08"])
    planner = Planner(Pipeline(), {"part": Asked("part", source(TALL), spec)})
    empty = BedSpec(placings=tuple(Placing(plan="part") for _ in range(PLACINGS)))
    plans = planner.own(empty)
    bed, beside = arranged(empty, plans)
    assert not beside
    laid = lay_bed(bed, plans)
    moves = laid.laid.moves
    floor = timed(lambda: [np.array(getattr(moves, name)) for name in COLUMNS], 5)
    layers = len(plans["part"].tops)
    print(
        f"\na bed of {PLACINGS} parts of {layers} layers, {len(moves):,} moves; copying its table "
        f"{floor:.3f} s"
    )
    rows = [
        ("laid together", lambda: lay_bed(bed, plans)),
        ("laid in turn", lambda: lay_bed(bed.model_copy(update={"way": "in-turn"}), plans)),
        ("written", lambda: write_bed(laid.laid, {})),
        ("report", lambda: bed_report(laid, Planned(plans))),
        ("arranged", lambda: arranged(empty, plans)),
        ("filled", lambda: filled(empty.model_copy(update={"placings": ()}), "part", plans)),
    ]
    for name, run in rows:
        seconds = timed(run, 1)
        print(f"  {name:14} {seconds:7.3f} s  {seconds / floor:7.1f} × copying")
    print(f"most memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6:.2f} GB")
