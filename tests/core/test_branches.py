"""Stands that branch: they hold what has to be held, grow from the bed up without a gap, keep clear
of the part, and take less where few feet carry much.
"""

import unittest

import manifold3d as m3
import numpy as np
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st

from northpace.moves import ROOF, SUPPORT
from northpace.spec import PlanSpec, with_settings
from tests.core.paths import lay_out
from tests.core.shapes import PIPELINE, source
from tests.core.test_findings import box

ON = ("supports.enabled=true", "supports.spare_bridges=0")
BRANCHING = (*ON, "supports.kind=branching")
#: A board of 60 × 60 mm on a post, 40 mm above the bed; and the same over a foot as wide.
BOARD = box(60, 60, 3, (0, 0, 40)) + box(6, 6, 40, (27, 27, 0))
OVER_FOOT = BOARD + box(60, 60, 3)


class Branches(unittest.TestCase):
    def grown(self, solid, *pairs):
        """What is laid, with every piece of it seen to grow on something."""
        laid = lay_out(solid, *BRANCHING, *pairs)
        areas, part = laid.stands.areas, laid.outlines.areas
        for k in range(1, len(areas)):
            under = shapely.union(areas[k - 1], shapely.buffer(part[max(k - 2, 0)], 0.1))
            for piece in shapely.get_parts(areas[k])[: 0 if areas[k].is_empty else None]:
                self.assertGreater(shapely.area(shapely.intersection(piece, under)), 0.02, k)
        return laid

    def test_they_hold_all_of_a_level_face(self):
        laid = self.grown(BOARD)
        held = max(float(shapely.area(area)) for area in laid.stands.held)
        self.assertGreater(held, 0.97 * (60 * 60 - 36))
        # many points above, few feet below
        tips = max(len(shapely.get_parts(area)) for area in laid.stands.areas)
        feet = len(shapely.get_parts(laid.stands.areas[0]))
        self.assertGreater(tips, 60)
        self.assertLess(feet, tips / 4)

    def test_they_take_less_where_few_feet_carry_much(self):
        straight, branching = (lay_out(BOARD, *pairs) for pairs in (ON, BRANCHING))
        both = [laid.volume(SUPPORT, ROOF) for laid in (straight, branching)]
        self.assertLess(both[1], 0.6 * both[0])

    def test_they_keep_clear_of_the_part(self):
        laid = self.grown(OVER_FOOT, "supports.clearance=0.8")
        for k in range(20, 190, 17):
            clear = shapely.buffer(laid.outlines.areas[k], 0.75)
            self.assertLess(shapely.area(shapely.intersection(laid.stands.areas[k], clear)), 0.01)

    def test_on_the_bed_only_they_lean_around_the_foot(self):
        laid = self.grown(OVER_FOOT, "supports.origin=bed")
        self.assertFalse(laid.stands.on_part.any())
        foot = shapely.box(-30, -30, 30, 30)
        self.assertLess(shapely.area(shapely.intersection(laid.stands.areas[2], foot)), 0.01)
        self.assertGreater(max(float(shapely.area(area)) for area in laid.stands.held), 3000)
        # where they cannot lean so far they leave what they do not reach, and it is said
        spec = with_settings(
            PlanSpec(), [*BRANCHING, "supports.origin=bed", "supports.branch_lean=10"]
        )
        plan = PIPELINE.plan(source(OVER_FOOT), spec)
        said = {finding.code: finding for finding in plan.findings}
        # the middle hangs from what is held around it, and its lines are no longer than that
        self.assertRegex(said["long-bridge"].message, r"bridge lines cross .* the longest 4\d mm")
        self.assertIn("not on the bed only", said["long-bridge"].help)
        self.assertEqual(said["long-bridge"].change, {"supports.origin": "anywhere"})

    def test_a_plan_with_them_would_print(self):
        for solid in (BOARD, OVER_FOOT):
            plan = PIPELINE.plan(source(solid), with_settings(PlanSpec(), list(BRANCHING)))
            self.assertNotIn("stop", [finding.severity for finding in plan.findings])
            self.assertGreater(len(plan.report["stands"]), 0)

    @settings(max_examples=4)
    @example(263, 15.0, 8.0)  # one that finds no way between two boards
    @given(st.integers(0, 500), st.floats(15, 55), st.floats(2.5, 12))
    def test_over_boards_that_lie_anyhow(self, seed, lean, apart):
        rng = np.random.default_rng(seed)
        solid = box(6, 6, 26)
        for _ in range(3):
            x, y, z = rng.uniform(0, 12), rng.uniform(0, 12), rng.uniform(5, 24)
            solid = solid + box(*rng.uniform(3, 16, 2), 2, (x - 6, y - 6, z))
        solid = m3.Manifold.batch_boolean([solid, box(6, 6, 26)], m3.OpType.Add)
        self.grown(solid, f"supports.branch_lean={lean}", f"supports.branch_apart={apart}")
