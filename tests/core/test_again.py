"""What did not change is not computed again, and what is put together from before and now is what
it is when all is computed.
"""

from __future__ import annotations

import json
import random
import unittest
from typing import Any
from unittest.mock import patch

import manifold3d as m3
import numpy as np

from northpace.plan import again
from northpace.plan.pipeline import Pipeline, Plan
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import source

#: Columns of the move table that a file comes from, and what is told of them.
COLUMNS = ("layer", "feature", "x", "y", "z", "width", "height", "filament", "seconds", "cause")


def shelves() -> m3.Manifold:
    """The same on both sides of two planes, which gives every tie there is: a tube with a mast in
    it, shelves, a leaning rim, and pins of less than two beads; and a drop that begins in mid-air.
    """
    tube = m3.Manifold.cylinder(30, 9, 7, 48) - m3.Manifold.cylinder(32, 7, 5, 48).translate(
        (0, 0, -1)
    )
    mast = m3.Manifold.cylinder(30, 2.2, 2.2, 24)
    cross = [m3.Manifold.cube((wide, deep, 3), True) for wide, deep in ((15, 3), (3, 15))]
    arms = [bar.translate((0, 0, z)) for bar in cross for z in (6, 15, 24)]
    pins = [
        m3.Manifold.cube((size, 1.3, 30)).translate((x - size / 2, y - 0.65, 0))
        for size, x, y in ((0.7, 14, 0), (0.7, -14, 0), (1.1, 0, 14), (1.1, 0, -14))
    ]
    foot = m3.Manifold.cube((32, 32, 1.6)).translate((-16, -16, 0))
    drop = m3.Manifold.cube((1.4, 1.4, 5)).translate((3, -0.7, 18))
    return m3.Manifold.batch_boolean([tube, mast, *arms, *pins, foot, drop], m3.OpType.Add)


PART = source(shelves())


def band(low: float, high: float, **changes: Any) -> str:
    entry = {"from_mm": low, "to_mm": high, "changes": _named(changes)}
    return "surface.bands=" + json.dumps([entry])


def region(z: float, tall: float, **changes: Any) -> str:
    size = {"size_x": 14, "size_y": 9, "size_z": tall, "x": 3, "y": 2}
    entry = {"shape": "box", "z": z, **size, "changes": _named(changes)}
    return "body.regions=" + json.dumps([entry])


def _named(changes: dict[str, Any]) -> dict[str, Any]:
    return {name.replace("__", "."): value for name, value in changes.items()}


class Again(unittest.TestCase):
    def test_a_change_computes_the_layers_it_touches(self):
        pipeline = Pipeline()
        self.touched(pipeline)
        # 20 layers of 150; a bottom depends on what the layer below leaves open
        found = self.touched(pipeline, band(10, 14, body__walls=1))
        self.assertEqual({20}, {found["walls"], found["gaps"], found["split"]})
        self.assertLessEqual(found["skins"], 22)
        # from there to elsewhere: the layers it left and entered
        found = self.touched(pipeline, band(20, 24, body__walls=1))
        self.assertEqual({40}, {found["walls"], found["gaps"], found["split"]})
        found = self.touched(pipeline, region(5, 4, body__walls=5))
        self.assertEqual(40, found["walls"])
        found = self.touched(pipeline, region(7, 4, body__walls=5))
        self.assertEqual(20, found["walls"])
        # what changes nothing of what is laid computes nothing of it
        self.assertEqual(
            {}, self.touched(pipeline, region(7, 4, body__walls=5), "pace.outer_wall_speed=31")
        )

    def test_most_of_it_is_all_of_it(self):
        pipeline = Pipeline()
        self.touched(pipeline)
        found = self.touched(pipeline, band(4, 26, body__walls=1))
        self.assertEqual(110, found["walls"])

    def test_change_after_change_comes_to_what_all_at_once_does(self):
        rng, warm = random.Random(7), Pipeline()
        kinds = (
            {"body__walls": 1},
            {"body__walls": 6},
            {"body__infill_density": 45},
            {"body__infill_density": 0},
            {"body__infill_density": 100},
            {"body__infill_pattern": "gyroid"},
            {"body__top_thickness": 1.6},
            {"body__solid_pattern": "concentric"},
            {"body__outer_width": 0.5},
            {"body__solid_width": 0.55},
        )
        here = ({}, {}, {}, {"supports.enabled=true": 1}, {"body.walls=2": 1})
        for step in range(16):
            place, changes = rng.choice((band, region)), rng.choice(kinds)
            if place is region and not changes.keys() - {"body__outer_width", "body__solid_width"}:
                place = band
            low, tall = rng.choice((2.0, 5.0, 14.0, 21.0)), rng.choice((1.0, 3.0, 6.0))
            pairs = [place(low, low + tall if place is band else tall, **changes)]
            pairs += rng.choice(here)
            with self.subTest(step=step, pairs=pairs):
                self.same(self.plan(warm, *pairs), self.plan(Pipeline(), *pairs))

    def same(self, one: Plan, two: Plan) -> None:
        for name in COLUMNS:
            np.testing.assert_array_equal(getattr(one.moves, name), getattr(two.moves, name), name)
        told = [json.dumps({**plan.report, "elapsed_s": 0}, sort_keys=True) for plan in (one, two)]
        self.assertEqual(*told)

    def plan(self, pipeline: Pipeline, *pairs: str) -> Plan:
        return pipeline.plan(PART, with_settings(PlanSpec(), list(pairs)))

    def touched(self, pipeline: Pipeline, *pairs: str) -> dict[str, int]:
        """How many layers each stage computed that went on from what it came to before."""
        found: dict[str, int] = {}
        real = again._touched

        def counted(before, now, apart):
            touched = real(before, now, apart)
            found[now.stage.name] = int(touched.sum())
            return touched

        with patch.object(again, "_touched", counted):
            self.plan(pipeline, *pairs)
        return found
