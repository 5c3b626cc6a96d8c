"""Regions and bodies with walls and top patterns of their own: beads where they are asked for, no
more and no less material than the part has room for.
"""

import unittest

import manifold3d as m3
import numpy as np

from northpace.errors import InputError
from northpace.moves import INNER, OUTER, TOP
from northpace.spec import PlanSpec, Region, with_settings
from tests.core.shapes import PIPELINE, arrays, source
from tests.intake.shapes import both, file_of, moved

BLOCK = source(m3.Manifold.cube((40, 30, 4)))
#: The right half of the block, well beyond its sides.
RIGHT = {"shape": "box", "x": 30, "y": 15, "z": 2, "size_x": 20, "size_y": 60, "size_z": 20}


def planned(part, region, *pairs):
    spec = with_settings(PlanSpec(), ["body.walls=2", *pairs])
    body = spec.body.model_copy(update={"regions": tuple(Region(**one) for one in region)})
    return PIPELINE.plan(part, spec.model_copy(update={"body": body}))


def lanes(plan, layer, x, feature=INNER):
    """How many beads of a feature cross the line of this x in a layer, on its lower half."""
    moves = plan.moves
    laid = np.flatnonzero((moves.layer == layer) & (moves.feature == feature) & (moves.width > 0))
    origin = plan.spec.machine.origin
    ax, bx = moves.x[laid - 1] - origin[0], moves.x[laid] - origin[0]
    y = (moves.y[laid - 1] + moves.y[laid]) / 2 - origin[1]
    return int(((np.minimum(ax, bx) < x) & (np.maximum(ax, bx) > x) & (y < 0)).sum())


class Walls(unittest.TestCase):
    def test_more_or_fewer_walls_in_a_region(self):
        for walls in (1, 3, 6):
            with self.subTest(walls=walls):
                plan = planned(BLOCK, [{**RIGHT, "changes": {"body.walls": walls}}])
                layer = len(plan.outlines.tops) // 2
                self.assertEqual(lanes(plan, layer, -10.3), 1)
                self.assertEqual(lanes(plan, layer, 10.3), walls - 1)
                self.assertEqual(lanes(plan, layer, 10.3, OUTER), 1)

    def test_none_at_all(self):
        plan = planned(BLOCK, [{**RIGHT, "changes": {"body.walls": 0}}])
        self.assertEqual(lanes(plan, 10, 10.3, OUTER), 0)
        self.assertEqual(lanes(plan, 10, -10.3, OUTER), 1)

    def test_a_thickness_means_walls(self):
        plan = planned(BLOCK, [{**RIGHT, "changes": {"body.wall_thickness": 2.1}}])
        self.assertEqual(lanes(plan, 10, 10.3), 4)

    def test_a_solid_block_holds_its_volume(self):
        whole = planned(BLOCK, [], "body.infill_density=100")
        for walls in (0, 1, 5):
            with self.subTest(walls=walls):
                plan = planned(
                    BLOCK,
                    [{**RIGHT, "changes": {"body.walls": walls}}],
                    "body.infill_density=100",
                )
                ratio = (
                    plan.report["filament"]["volume_mm3"] / whole.report["filament"]["volume_mm3"]
                )
                self.assertAlmostEqual(ratio, 1, delta=0.01)
                self.assertNotIn("stop", [finding.severity for finding in plan.findings])

    def test_a_region_that_says_what_holds_anyway_changes_nothing(self):
        whole = planned(BLOCK, [])
        plan = planned(BLOCK, [{**RIGHT, "changes": {"body.walls": 2}}])
        self.assertEqual(plan.report["time_s"]["total"], whole.report["time_s"]["total"])

    def test_a_top_pattern_of_its_own(self):
        plan = planned(BLOCK, [{**RIGHT, "changes": {"body.top_pattern": "concentric"}}])
        moves, origin = plan.moves, plan.spec.machine.origin
        laid = np.flatnonzero((moves.feature == TOP) & (moves.width > 0))
        dx, dy = (np.abs(column[laid] - column[laid - 1]) for column in (moves.x, moves.y))
        straight = np.minimum(dx, dy) < 1e-3
        right = (moves.x[laid] + moves.x[laid - 1]) / 2 - origin[0] > 0.5
        length = np.hypot(dx, dy)
        self.assertGreater(length[straight & right].sum() / length[right].sum(), 0.98)
        self.assertLess(length[straight & ~right].sum() / length[~right].sum(), 0.2)


class OneBody(unittest.TestCase):
    FILE = file_of(
        both(
            arrays(m3.Manifold.cube((12, 12, 3))),
            moved(arrays(m3.Manifold.cube((12, 12, 3))), 20, 0, 0),
        )
    )

    def test_a_body_has_settings_of_its_own(self):
        changes = {"body.walls": 5, "body.infill_density": 60}
        plan = planned(self.FILE, [{"shape": "body", "body": "body 2", "changes": changes}])
        self.assertEqual((lanes(plan, 6, -10.3), lanes(plan, 6, 10.3)), (1, 4))
        # it moves with its body
        plan = planned(
            self.FILE,
            [{"shape": "body", "body": "body 2", "changes": changes}],
            'mesh.bodies=[{"name":"body 2","shift_x":-40}]',
        )
        self.assertEqual((lanes(plan, 6, -10.3), lanes(plan, 6, 10.3)), (4, 1))

    def test_it_can_be_what_is_seen(self):
        spec = with_settings(PlanSpec(), ["surface.seen_weight=4"])
        seen = Region(shape="body", body="body 1", attention="seen")
        body = spec.body.model_copy(update={"regions": (seen,)})
        found = PIPELINE.facets(self.FILE, spec.model_copy(update={"body": body}))
        left = found.vertices[found.faces].mean(axis=1)[:, 0] < 0
        self.assertEqual(set(found.weights[left]), {4.0})
        self.assertEqual(set(found.weights[~left]), {1.0})

    def test_a_body_there_is_not(self):
        with self.assertRaisesRegex(InputError, "no such body in the part; there is 'body 1'"):
            planned(self.FILE, [{"shape": "body", "body": "lid", "changes": {"body.walls": 5}}])
        with self.assertRaisesRegex(ValueError, "needs the name of a body"):
            with_settings(PlanSpec(), ['body.regions=[{"shape":"body"}]'])
