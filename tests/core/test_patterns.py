"""Infill: what every pattern lays against what was asked for, and how it lies."""

import unittest
from unittest import mock

import manifold3d as m3
import numpy as np
import shapely

from northpace.infill import PATTERNS, windowed
from northpace.infill.patches import Patches
from northpace.moves import INFILL
from northpace.spec import PlanSpec, with_settings
from tests.core.paths import lay_out
from tests.core.shapes import PIPELINE, cube, source

#: No solid layers: the whole inside is infill.
OPEN = (
    "body.top_thickness=0",
    "body.top_layers=0",
    "body.bottom_thickness=0",
    "body.bottom_layers=0",
    "footing.skirt_loops=0",
)


def enclosed(laid) -> float:
    """Volume inside the border of the infill in mm³."""
    sparse = laid.areas.sparse
    return float(
        (
            shapely.area(sparse.polygons)
            * laid.outlines.heights[laid.outlines.islands.owner[sparse.owner]]
        ).sum()
    )


class Density(unittest.TestCase):
    def test_every_pattern_lays_what_is_asked(self):
        for pattern in PATTERNS:
            if PATTERNS[pattern].bears:
                continue  # lays less by design, see below
            for density in (5, 15, 45, 95):
                laid = lay_out(
                    cube(40),
                    *OPEN,
                    "surface.layer_height=0.3",
                    "body.walls=2",
                    f"body.infill_density={density}",
                    f"body.infill_pattern={pattern}",
                )
                share = 100 * laid.volume(INFILL) / enclosed(laid)
                self.assertAlmostEqual(
                    share / density, 1, delta=0.03, msg=f"{pattern} at {density} %"
                )

    def test_a_patch_with_a_neck_narrower_than_a_bead_is_filled_on_both_sides_of_it(self):
        # a hole 0.3 mm beside the border: half a bead off both, the patch falls into two
        room = shapely.box(-18, -8, 6, 8)
        necked = room.difference(shapely.Point(-14, -4).buffer(3.7))
        split = necked.buffer(-0.2)
        self.assertEqual(split.geom_type, "MultiPolygon")
        both = Patches(np.array([necked, room], object), np.full(2, 5), np.full(2, 5.0))
        for pattern in PATTERNS.values():
            found = pattern.lay(both, 45.0, 3.0, 0.2)
            of_necked, of_room = sum(chains.length for chains in found)
            self.assertAlmostEqual(
                of_necked / of_room, necked.area / room.area, delta=0.15, msg=pattern.name
            )

    def test_a_window_of_patches_at_a_time_it_is_the_same(self):
        # a wide room, a narrow one, and one with a hole: some patches get lines of their own
        block = m3.Manifold.cube((30, 20, 6)) - m3.Manifold.cylinder(9, 5, 5).translate((9, 9, -1))
        block += m3.Manifold.cube((30, 3.4, 6)).translate((0, 24, 0))
        for pattern in PATTERNS:
            found = []
            for window in (np.inf, 60.0):
                with mock.patch.object(windowed, "WINDOW", window):
                    found.append(lay_out(block, *OPEN, f"body.infill_pattern={pattern}").rows)
            self.assertGreater((found[0].feature == INFILL).sum(), 200)
            for column in ("layer", "feature", "x", "y", "width"):
                np.testing.assert_array_equal(*(getattr(rows, column) for rows in found), pattern)

    def test_a_hundred_is_solid_and_nothing_is_hollow(self):
        for pattern in PATTERNS:
            full = lay_out(
                cube(20),
                "body.infill_density=100",
                f"body.infill_pattern={pattern}",
                "footing.skirt_loops=0",
            )
            self.assertEqual(len(full.areas.sparse), 0, pattern)
            everything = full.volume(*range(len(full.rows.feature)))
            self.assertAlmostEqual(everything / 8000, 1, delta=0.02, msg=pattern)
            self.assertEqual(
                lay_out(
                    cube(20), *OPEN, "body.infill_density=0", f"body.infill_pattern={pattern}"
                ).volume(INFILL),
                0.0,
            )

    def test_a_pattern_that_crosses_itself_becomes_lines(self):
        crowded = [(p.name, p.straight_from) for p in PATTERNS.values() if p.straight_from]
        for pattern, above in crowded:
            if PATTERNS[pattern].bears:
                continue  # lines too, but only where it bears something
            rows = lay_out(
                cube(20),
                *OPEN,
                f"body.infill_density={100 * above + 1}",
                f"body.infill_pattern={pattern}",
            ).rows
            plain = lay_out(cube(20), *OPEN, f"body.infill_density={100 * above + 1}").rows
            np.testing.assert_allclose(
                [rows.x[rows.feature == INFILL], rows.y[rows.feature == INFILL]],
                [plain.x[plain.feature == INFILL], plain.y[plain.feature == INFILL]],
                err_msg=pattern,
            )

    def test_vault_bears_the_roof_and_thins_out_below(self):
        solid = m3.Manifold.cube((30.0, 30.0, 30.0))
        laid = lay_out(
            solid, "body.infill_pattern=vault", "body.infill_density=20", "footing.skirt_loops=0"
        )
        rows, lengths = laid.rows, laid.lengths()
        by_layer = np.bincount(
            rows.layer[rows.feature == INFILL],
            lengths[rows.feature == INFILL],
            len(laid.outlines.tops),
        )
        full = lay_out(solid, "body.infill_density=20", "footing.skirt_loops=0").volume(INFILL)
        self.assertLess(laid.volume(INFILL), 0.7 * full)
        # 12 mm below the roof a hollow of 45° leaves 41 % of the 27.6 mm square, with lines joined
        # around it, and 25 mm below nothing
        high = np.flatnonzero(by_layer)[-8:].mean()
        roof, low, bed = (
            by_layer[int(high - depth / 0.2) - 4 : int(high - depth / 0.2) + 4].mean()
            for depth in (0, 12, 25)
        )
        self.assertGreater(low / roof, 0.38)
        self.assertLess(low / roof, 0.6)
        self.assertEqual(bed, 0)

    def test_every_pattern_stays_inside(self):
        star = m3.Manifold.extrude(
            m3.CrossSection(
                [
                    [
                        (np.cos(t) * r, np.sin(t) * r)
                        for k in range(12)
                        for t, r in [(np.pi * k / 6, 16 if k % 2 else 9)]
                    ]
                ]
            ),
            4.0,
        )
        for pattern in PATTERNS:
            laid = (
                lay_out(
                    star,
                    *OPEN[:2],
                    "body.bottom_thickness=0",
                    "body.bottom_layers=0",
                    f"body.infill_pattern={pattern}",
                    "body.infill_density=25",
                )
                if not PATTERNS[pattern].bears
                else lay_out(star, "body.infill_pattern=vault")
            )
            chosen = np.flatnonzero(laid.rows.feature == INFILL)
            if not PATTERNS[pattern].bears:
                self.assertGreater(len(chosen), 0, pattern)
            inside = shapely.buffer(laid.outlines.areas[laid.rows.layer[chosen]], 1e-3)
            self.assertTrue(shapely.contains(inside, laid.lines(chosen)).all(), pattern)

    def test_angle_turns_the_lines(self):
        for angle in (0, 30, 90):
            laid = lay_out(cube(30), *OPEN, f"body.infill_angle={angle}")
            chosen = np.flatnonzero((laid.rows.feature == INFILL) & (laid.rows.layer == 0))
            steps = np.diff(laid.ends(), axis=0)[chosen - 1]
            long = np.hypot(*steps.T) > 5
            turn = np.degrees(np.arctan2(steps[long, 1], steps[long, 0]))
            self.assertLess(np.abs((turn - angle + 45) % 90 - 45).max(), 0.1)


class EveryFewLayers(unittest.TestCase):
    def test_taller_beads_every_third_layer_lay_the_same(self):
        settings = (*OPEN, "surface.layer_height=0.1", "body.infill_density=20")
        each, third = (
            lay_out(cube(20), *settings),
            lay_out(cube(20), *settings, "body.infill_every=3"),
        )
        rows = third.rows
        mine = rows.feature == INFILL
        layers = np.unique(rows.layer[mine])
        self.assertAlmostEqual(float(np.median(np.diff(layers))), 3)
        self.assertAlmostEqual(float(rows.height[mine].max()), 0.3, 5)
        self.assertAlmostEqual(third.volume(INFILL) / each.volume(INFILL), 1, delta=0.03)

    def test_never_taller_than_nozzle_and_bead_allow(self):
        laid = lay_out(cube(20), *OPEN, "surface.layer_height=0.15", "body.infill_every=5")
        mine = laid.rows.feature == INFILL
        most = min(with_settings(PlanSpec(), []).machine.h_max, 0.45)
        self.assertLessEqual(float(laid.rows.height[mine].max()), most + 1e-6)
        self.assertGreater(float(laid.rows.height[mine].max()), 0.15)


class NarrowIslands(unittest.TestCase):
    def test_every_island_has_the_density_asked_for(self):
        for width in (4.2, 5.0, 7.0):
            for pattern in (
                "lines",
                "grid",
                "triangles",
                "concentric",
                "cubic",
                "gyroid",
                "hilbert",
            ):
                with self.subTest(width=width, pattern=pattern):
                    plan = PIPELINE.plan(
                        source(m3.Manifold.cube((40.0, width, 3.0))),
                        with_settings(
                            PlanSpec(),
                            [*OPEN, "body.infill_density=15", f"body.infill_pattern={pattern}"],
                        ),
                    )
                    moves, outlines = plan.moves, plan.outlines
                    count = len(outlines.tops)
                    mine = moves.feature == INFILL
                    laid = np.bincount(moves.layer[mine], moves.filament[mine], count)
                    laid *= np.pi / 4 * plan.spec.material.diameter**2
                    sparse = plan.facts.areas.sparse
                    layer = outlines.islands.owner[sparse.owner]
                    room = np.bincount(layer, shapely.area(sparse.polygons), count)
                    density = laid / (room * outlines.heights)
                    self.assertGreater(density.min(), 0.135)
                    self.assertLess(density.max(), 0.165)
