"""What is laid can be looked at while the rest is computed, and is what the plan has."""

import unittest
from unittest import mock

import manifold3d as m3
import numpy as np

from northpace.geometry import threads
from northpace.moves import INNER, OUTER, TRAVEL
from northpace.outlines import sections
from northpace.paths.walls import loops
from northpace.plan.pipeline import Cancelled, Pipeline
from northpace.plan.stages import heights
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import knob, source


def told(part, spec, corners=500):
    """A plan, and everything that was told of it while it was computed."""
    found = []
    with mock.patch.object(sections.Outlines.windows, "__defaults__", (corners,)):
        plan = Pipeline().plan(part, spec, laid=found.append)
    return plan, found


def two():
    """A knob and a cone that ends below it, so that islands come and go."""
    cone = m3.Manifold.cylinder(6, 4, 0.4, 24).translate((30, 0, 0))
    return source(knob() + cone)


class WhatIsLaid(unittest.TestCase):
    def test_from_the_bed_up_then_all_then_in_order(self):
        plan, found = told(two(), PlanSpec())
        reached = [one.upto for one in found]
        self.assertEqual(reached, sorted(reached))
        self.assertGreater(len(found), 5)
        self.assertIn("walls laid up to", found[0].words)
        self.assertEqual(found[-2].words, "laid, in no order yet")
        self.assertEqual(found[-1].words, "laid, not yet timed")
        for column in ("layer", "feature", "x", "y", "z", "width", "height", "cause"):
            np.testing.assert_array_equal(
                getattr(found[-1].moves(), column), getattr(plan.moves, column), column
            )

    def test_beads_in_no_order_hold_the_same_volume(self):
        plan, found = told(two(), PlanSpec())
        for one, features in ((found[-2], None), (found[-3], (OUTER, INNER))):
            moves = one.moves()
            self.assertTrue((moves.width[moves.feature == TRAVEL] == 0).all())
            for layer in (0, 7, len(plan.outlines.tops) - 1):
                length = [
                    table.lengths()[
                        (table.layer == layer)
                        & (table.width > 0)
                        & (np.isin(table.feature, features) if features else table.feature > TRAVEL)
                    ].sum()
                    for table in (moves, plan.moves)
                ]
                # walls are widened beside slivers later, which thins out their corners a little
                self.assertAlmostEqual(length[0], length[1], delta=0.003 * length[1] + 0.05)

    def test_windows_change_nothing(self):
        spec = with_settings(PlanSpec(), ["body.walls=4", "body.wall_order=outside-first"])
        whole = told(two(), spec, 10**9)[0]
        for corners in (60, 700):
            parts = told(two(), spec, corners)[0]
            self.assertEqual(parts.gcode, whole.gcode)
            self.assertEqual(
                {k: v for k, v in parts.report.items() if k != "elapsed_s"},
                {k: v for k, v in whole.report.items() if k != "elapsed_s"},
            )

    def test_windows_hold_every_island_once(self):
        pipeline, part = Pipeline(), two()
        outlines = pipeline._run(part, PlanSpec())(heights.outlines)
        for corners in (1, 60, 700, 10**9):
            windows = outlines.windows(corners)
            self.assertEqual([low for low, _ in windows], [0, *(high for _, high in windows[:-1])])
            self.assertEqual(windows[-1][1], len(outlines.tops))
            seen = [
                first + k
                for some, first in (outlines.within(*window) for window in windows)
                for k in range(len(some.islands))
            ]
            self.assertEqual(seen, list(range(len(outlines.islands))))

    def test_it_can_be_stopped_between_windows(self):
        done = []

        def walls(*args, walls=loops.walls):
            done.append(1)
            return walls(*args)

        with (
            mock.patch.object(loops, "walls", walls),
            mock.patch.object(sections.Outlines.windows, "__defaults__", (300,)),
            self.assertRaises(Cancelled),
        ):
            Pipeline().plan(two(), PlanSpec(), cancelled=lambda: len(done) >= 2)
        # one of them was being looked at, and nothing was begun but what each thread had under way
        self.assertGreaterEqual(len(done), 2)
        self.assertLessEqual(len(done), 1 + threads.THREADS)

    def test_with_a_raft_nothing_is_told_before_it_is_known_how_high_the_part_lies(self):
        plan, found = told(two(), with_settings(PlanSpec(), ["footing.raft_layers=2"]))
        self.assertEqual(len(found), 1)
        np.testing.assert_array_equal(found[0].moves().z, plan.moves.z)
