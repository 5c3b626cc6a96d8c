"""What is laid is what the outline encloses, layer by layer (computations §1)."""

import unittest

import manifold3d as m3
import numpy as np
import shapely

from northpace.geometry.polygons import offset
from northpace.moves import FOOTING, INFILL
from northpace.paths.bead import area, spacing
from northpace.plan.pipeline import Pipeline, Source
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import cube, stl, torus


def laid_per_layer(plan, layers):
    """(layers,) volume in mm³ of every layer, the footing left out, from the move table."""
    moves = plan.moves
    body = (moves.width > 0) & (moves.feature != FOOTING)
    volume = moves.filament * np.pi * plan.spec.material.diameter**2 / 4
    return np.bincount(moves.layer[body], volume[body], minlength=layers)


def expected_per_layer(plan):
    """Outline opened by half a bead, less the strip the rounded edge leaves open, times
    the height.
    """
    outlines, width = plan.outlines, plan.spec.body.outer_width
    edge = (width - spacing(width, outlines.heights)) / 2
    opened = offset(offset(outlines.areas, -width / 2), width / 2)
    return shapely.area(offset(opened, -edge)) * outlines.heights


def solid_plan(solid, *pairs):
    return Pipeline().plan(
        Source.of(stl(solid), "part.stl"),
        with_settings(PlanSpec(), ["body.infill_density=100", *pairs]),
    )


class Conservation(unittest.TestCase):
    def test_cube_lays_its_volume_in_every_layer(self):
        plan = solid_plan(cube())
        laid = laid_per_layer(plan, 100)
        self.assertEqual(len(laid), 100)
        np.testing.assert_allclose(laid, 80.0, rtol=0.02)
        self.assertAlmostEqual(laid.sum() / 8000, 1, delta=0.02)
        self.assertAlmostEqual(plan.report["filament"]["mass_g"] / 9.92, 1, delta=0.03)

    def test_other_beads_walls_and_angles(self):
        for pairs in (
            ["body.walls=0"],
            ["body.walls=1", "body.solid_angles=17,107"],
            ["body.walls=12"],
            [
                "body.outer_width=0.4",
                "body.inner_width=0.6",
                "body.solid_width=0.5",
                "surface.layer_height=0.3",
            ],
        ):
            plan = solid_plan(cube(), *pairs)
            wanted = (
                expected_per_layer(plan)
                if pairs != ["body.walls=0"]
                else shapely.area(plan.outlines.areas) * plan.outlines.heights
            )
            np.testing.assert_allclose(
                laid_per_layer(plan, len(wanted)), wanted, rtol=0.02, err_msg=str(pairs)
            )

    def test_round_shapes_layer_by_layer(self):
        cone = m3.Manifold.cylinder(20.0, 15.0, 3.0, 96)
        for name, solid in (
            ("sphere", m3.Manifold.sphere(12.0, 96)),
            ("cone", cone),
            ("torus", torus()),
        ):
            plan = solid_plan(solid)
            wanted = expected_per_layer(plan)
            laid = laid_per_layer(plan, len(wanted))
            big = wanted > 0.2 * 1.0  # a spot under 1 mm² is one dab of the nozzle
            np.testing.assert_allclose(laid[big], wanted[big], rtol=0.02, err_msg=name)
            self.assertAlmostEqual(laid.sum() / wanted.sum(), 1, delta=0.01, msg=name)

    def test_infill_density_is_laid_volume_of_enclosed_volume(self):
        for pattern in ("lines", "grid"):
            for density in (5, 15, 40, 80):
                plan = Pipeline().plan(
                    Source.of(stl(cube(40)), "p.stl"),
                    with_settings(
                        PlanSpec(),
                        [
                            f"body.infill_density={density}",
                            f"body.infill_pattern={pattern}",
                            "body.top_thickness=0",
                            "body.top_layers=0",
                            "body.bottom_thickness=0",
                            "body.bottom_layers=0",
                            "footing.skirt_loops=0",
                        ],
                    ),
                )
                moves = plan.moves
                infill = moves.feature == INFILL
                laid = float(moves.filament[infill].sum()) * np.pi * 1.75**2 / 4
                lane = spacing(0.45, 0.2)
                inside = (40 - 2 * ((0.45 - lane) / 2 + 3 * lane)) ** 2 * 40
                self.assertAlmostEqual(
                    100 * laid / inside / density, 1, delta=0.03, msg=f"{pattern} {density}"
                )

    def test_bead_section_of_every_move(self):
        plan = solid_plan(cube())
        moves = plan.moves
        laid = moves.width > 0
        section = area(moves.width[laid].astype(float), moves.height[laid].astype(float))
        fed = moves.filament[laid] * np.pi * 1.75**2 / 4
        np.testing.assert_allclose(fed, section * moves.lengths()[laid], atol=2e-5)
