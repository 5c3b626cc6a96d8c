"""Every bead of a support rests on something, supports keep their clearance from the part, and
whatever would begin in mid-air is held.
"""

import unittest

import manifold3d as m3
import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.moves import FOOTING, ROOF, SUPPORT
from northpace.paths.resting import resting
from northpace.paths.supports.held import from_hold_to_hold
from northpace.paths.table import path_table
from northpace.spec import PlanSpec, with_settings
from tests.core.paths import lay_out
from tests.core.shapes import PIPELINE, source
from tests.core.test_findings import box, table

ON = "supports.enabled=true"
ARCH = box(50, 16, 26) - m3.Manifold.cylinder(40, 19, 19, 96).rotate((90, 0, 0)).translate(
    (25, 30, 4)
)
TEE = box(60, 12, 4, (0, 0, 20)) + box(12, 12, 20, (24, 0, 0))
#: A first layer of another height than those above it.
KINDS = (
    ("surface.layer_height=0.27",),
    ("surface.kind=adaptive", "surface.target_um=130"),
    ("surface.kind=best-fit", "surface.target_um=150"),
)


def findings(solid, *pairs):
    """Findings by their code."""
    plan = PIPELINE.plan(source(solid), with_settings(PlanSpec(), list(pairs)))
    return {finding.code: finding for finding in plan.findings}


class EveryBeadIsHeld(unittest.TestCase):
    def in_the_air(self, solid, *pairs):
        """Lengths in mm of beads of supports and skirts that hang: of those held at both ends, and
        of the others. And how many pieces of them begin on nothing.
        """
        laid = lay_out(solid, *pairs)
        found = resting(laid.rows, laid.spec.supports.gap_top, laid.spec.supports.gap_bottom)
        mine = np.isin(laid.rows.feature[found.runs], (SUPPORT, ROOF, FOOTING))
        begins = np.isin(laid.rows.feature[found.begins], (SUPPORT, ROOF, FOOTING))
        length = found.length[mine]
        return length[found.held[mine]], length[~found.held[mine]], int(begins.sum())

    def test_lines_stand_on_lines_whatever_the_heights(self):
        for heights in KINDS:
            held, loose, begins = self.in_the_air(ARCH, ON, *heights)
            self.assertEqual(begins, 0, heights)
            self.assertLess(loose.max(initial=0), 2.0, heights)
            self.assertLess(held.max(initial=0), 9.0, heights)

    def test_roofs_over_branches_go_from_hold_to_hold(self):
        for solid in (TEE, table(40)):
            for apart in (4, 5, 9):
                held, loose, begins = self.in_the_air(
                    solid,
                    ON,
                    "supports.kind=branching",
                    "supports.spare_bridges=0",
                    f"supports.branch_apart={apart}",
                )
                self.assertEqual(begins, 0, apart)
                self.assertLess(loose.max(initial=0), 2.0, apart)
                self.assertLess(held.max(initial=0), 2.2 * apart + 1.5, apart)

    def test_branches_carry_a_whole_roof(self):
        laid = lay_out(TEE, ON, "supports.kind=branching")
        top = int(laid.rows.layer[laid.rows.feature == ROOF].max())
        mine = np.flatnonzero(
            (laid.rows.feature == ROOF) & (laid.rows.width > 0) & (laid.rows.layer == top)
        )
        beads = shapely.union_all(shapely.buffer(laid.lines(mine), 0.24))
        # two arms of 24 × 12 mm, less the clearance beside the post
        self.assertGreater(beads.area, 0.95 * 2 * 23.2 * 12)

    def test_loops_beside_a_raft_stand_on_the_bed(self):
        for layers in (1, 3, 4, 6):
            _, loose, begins = self.in_the_air(
                box(12, 12, 4), "footing.raft_layers=3", f"footing.skirt_height={layers}"
            )
            self.assertEqual((begins, len(loose)), (0, 0), layers)

    @settings(max_examples=6)
    @given(st.integers(0, 400), st.sampled_from(["light", "ordinary", "strong"]))
    def test_over_boards_that_lie_anyhow(self, seed, strength):
        rng = np.random.default_rng(seed)
        solid = box(6, 6, 26)
        for _ in range(3):
            x, y, z = rng.uniform(0, 12), rng.uniform(0, 12), rng.uniform(5, 24)
            solid = solid + box(*rng.uniform(3, 16, 2), 2, (x - 6, y - 6, z)).rotate(
                (rng.uniform(-25, 25), 0, rng.uniform(0, 90))
            )
        solid = solid ^ box(90, 90, 40, (-45, -45, 0))
        _, loose, begins = self.in_the_air(solid, ON, f"supports.strength={strength}")
        self.assertEqual(begins, 0)
        self.assertLess(loose.max(initial=0), 2.0)


class Clearance(unittest.TestCase):
    def test_it_is_kept_beside_walls_and_under_slopes(self):
        slope = m3.Manifold.cylinder(14.0, 4.0, 4.0 + 14 * np.tan(np.radians(58)), 64)
        for solid in (ARCH, slope):
            for heights in (("surface.layer_height=0.2",), KINDS[1]):
                laid = lay_out(solid, ON, *heights)
                rows = laid.rows
                held = np.flatnonzero(np.isin(rows.feature, (SUPPORT, ROOF)) & (rows.width > 0))
                beads = shapely.buffer(laid.lines(held), rows.width[held].astype(float) / 2)
                away = shapely.distance(beads, laid.outlines.areas[rows.layer[held]])
                self.assertGreater(float(away.min()), 0.57, heights)
                self.assertGreater(sum(shapely.area(laid.stands.held)), 20)


class Starts(unittest.TestCase):
    def test_every_start_larger_than_a_bead_is_held(self):
        # a pin of 0.8 mm that hangs from a board, and a pyramid that begins as a tip
        board = box(30, 8, 3, (0, 0, 12)) + box(8, 8, 12)
        pin = box(0.8, 0.8, 6, (20, 4, 6))
        tip = m3.Manifold.cylinder(5.0, 0.01, 2.0, 4).translate((25, 4, 7))
        for solid in (board + pin, board + tip):
            bare = findings(solid, "supports.angle=89")["starts-in-air"]
            self.assertEqual(bare.severity, "stop")
            for kind in ("straight", "branching"):
                held = findings(solid, ON, "supports.least_area=20", f"supports.kind={kind}")
                self.assertNotIn("starts-in-air", held)

    def test_what_lies_a_layer_above_another_rests_on_it(self):
        # a plate over a slot of half a layer: it sinks by a layer and lies there
        slot = box(10, 10, 3) + box(8, 8, 3, (1, 1, 3.21))
        self.assertNotIn("starts-in-air", findings(slot))
        wide = box(10, 10, 3) + box(8, 8, 3, (1, 1, 4.2))
        self.assertEqual(findings(wide)["starts-in-air"].severity, "stop")

    def test_what_is_lost_decides_how_much_it_matters(self):
        def severity(size):
            crumb = box(size, size, 0.4, (20, 0, 5)) + box(10, 10, 6)
            return findings(crumb)["starts-in-air"].severity

        self.assertEqual([severity(size) for size in (0.7, 1.6, 6)], ["note", "look", "stop"])
        # a small tip that carries much: it is not the tip that is lost
        hook = (
            m3.Manifold.cylinder(9.0, 0.3, 6.0, 32).translate((20, 0, 4))
            + box(30, 6, 2, (0, -3, 12))
            + box(6, 6, 12, (0, -3, 0))
        )
        said = findings(hook)["starts-in-air"]
        self.assertEqual(said.severity, "stop")
        self.assertIn("supports.enabled", said.change)


class FromHoldToHold(unittest.TestCase):
    """Two bars along y, 4 mm apart, and lines across them in the layer above."""

    def cut(self, low, high, most=6.0):
        bars = [(0, 0, 0, 10), (4, 0, 4, 10), (20, 0, 20, 10)]
        points = np.array([[x, y] for a, b, c, d in bars for x, y in ((a, b), (c, d))])
        points = np.concatenate([points, [[low, 5.0], [high, 5.0]]]).astype(float)
        paths = path_table(
            points,
            np.arange(0, 9, 2),
            layer=[0, 0, 0, 1],
            rank=0,
            feature=SUPPORT,
            width=0.45,
            height=0.2,
        )
        none = np.full(2, shapely.Polygon(), object)
        found = from_hold_to_hold(paths, none, most)
        above = np.flatnonzero(found.layer == 1)
        return [
            tuple(found.points[found.starts[k] : found.starts[k + 1], 0].round(1).tolist())
            for k in above
        ]

    def test_spans_stay_and_free_ends_go(self):
        ((first, last),) = self.cut(-3, 7)
        self.assertAlmostEqual(first, -0.35, delta=0.15)
        self.assertAlmostEqual(last, 4.35, delta=0.15)

    def test_what_is_too_far_from_the_next_hold_is_cut(self):
        self.assertEqual(len(self.cut(0, 20)), 2)
        self.assertEqual(self.cut(0, 20, 20.0), [(0.0, 20.0)])

    def test_what_nothing_holds_goes(self):
        self.assertEqual(self.cut(8, 15), [])
