"""Plans that the tests of beds lay, and how a bed is made of them."""

from __future__ import annotations

from functools import lru_cache

import manifold3d as m3

from northpace.beds.bed import Bed, lay_bed
from northpace.beds.bedplan import BedPlan, bed_plan, without_loops
from northpace.beds.spec import BedSpec, Placing
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import PIPELINE, knob, source

SOLIDS = {
    "ring": lambda: m3.Manifold.cylinder(6, 15, 15, 96) - m3.Manifold.cylinder(6, 10, 10, 96),
    "disc": lambda: m3.Manifold.cylinder(1, 15, 15, 128),
    "square": lambda: m3.Manifold.cube((40, 40, 1)),
    "angle": lambda: m3.Manifold.cube((40, 15, 1)) + m3.Manifold.cube((15, 40, 1)),
    "pin": lambda: m3.Manifold.cylinder(5, 3, 3, 48),
    "post": lambda: m3.Manifold.cube((8, 8, 45)),
    "mushroom": lambda: (
        m3.Manifold.cylinder(8, 4, 4, 48) + m3.Manifold.cylinder(4, 4, 12, 48).translate((0, 0, 8))
    ),
    "hat": lambda: m3.Manifold.cylinder(6.8, 12, 12, 48) + m3.Manifold.cylinder(20, 2, 2, 24),
    "bar": lambda: m3.Manifold.cube((30, 6, 12)),
    "posts": lambda: (
        m3.Manifold.cube((6, 6, 6)) + m3.Manifold.cube((6, 6, 6)).translate((30, 0, 0))
    ),
    "knob": knob,
}
#: Few beads, so that many beds are laid in a moment.
SPARSE = ("body.infill_density=0", "body.walls=1", "surface.layer_height=0.3")


@lru_cache(maxsize=64)
def plan(name: str, *pairs: str, loops: bool = False) -> BedPlan:
    spec = with_settings(PlanSpec(), list(pairs))
    own = spec if loops else without_loops(spec)
    return bed_plan(name, PIPELINE.plan(source(SOLIDS[name]()), own), spec.footing)


def at(name: str, x: float = 0.0, y: float = 0.0, turn: float = 0.0, **more: object) -> Placing:
    return Placing(plan=name, x=x, y=y, turn=turn, **more)


def bed_of(*placings: Placing, pairs: tuple[str, ...] = SPARSE, **said: object) -> Bed:
    plans = {p.plan: plan(p.plan, *pairs) for p in placings}
    return lay_bed(BedSpec(placings=placings, **{"loops": "own", **said}), plans)
