"""What the beads cover: no more and no less than the outline, thin parts and sharp corners
included; slots between walls.
"""

import unittest

import manifold3d as m3
import numpy as np
import shapely

from demo.shapes import letters
from northpace.geometry.polygons import offset
from northpace.moves import GAP, INNER, OUTER, TOP
from northpace.moves import SOLID as SOLID_BEAD
from northpace.plan.pipeline import Pipeline
from northpace.spec import PlanSpec, with_settings
from tests.core.paths import lay_out
from tests.core.shapes import cube, source

SOLID = ("body.infill_density=100", "footing.skirt_loops=0")


def plate(points, height=1.0) -> m3.Manifold:
    return m3.Manifold.extrude(m3.CrossSection([points]), height)


def ribs(thick, length=12.0, height=1.0) -> m3.Manifold:
    """Ribs of growing thickness on one spine."""
    spine = m3.Manifold.cube((2.0, 4.0 * len(thick) + 4, height)).translate((-2, -2, 0))
    return sum(
        (
            m3.Manifold.cube((length, t, height)).translate((-0.1, 4.0 * k, 0))
            for k, t in enumerate(thick)
        ),
        spine,
    )


SHAPES = {
    "square": cube(20).trim_by_plane((0.0, 0.0, 1.0), 19.0).translate((0, 0, -19)),
    "star": plate(
        [
            (np.cos(t) * r, np.sin(t) * r)
            for k in range(12)
            for t, r in [(np.pi * k / 6, 5 if k % 2 else 12)]
        ]
    ),
    "wedge": plate([(0, 0), (30, 0), (0, 6)]),
    "disc": m3.Manifold.cylinder(1.0, 10.0, 10.0, 96),
    "ring": m3.Manifold.cylinder(1.0, 6.0, 6.0, 96) - m3.Manifold.cylinder(1.0, 4.9, 4.9, 96),
    "ribs": ribs([0.3, 0.5, 0.7, 0.9, 1.1, 1.3, 1.5, 1.8, 2.1, 2.5, 3.1]),
    "letters": letters().scale((1.0, 1.0, 1.0)),
    "small letters": letters().scale((0.4, 0.4, 1.0)),
}


class Coverage(unittest.TestCase):
    def test_nothing_is_left_open_in_solid_layers(self):
        for name, solid in SHAPES.items():
            laid = lay_out(solid, *SOLID)
            for layer in (2, 3):
                outline = laid.outlines.areas[layer]
                # a round bead leaves every sharp corner a little open
                half = (
                    max(
                        0.45,
                        float(
                            laid.rows.width[
                                (laid.rows.layer == layer) & (laid.rows.feature == OUTER)
                            ].max()
                        ),
                    )
                    / 2
                )
                reachable = offset(offset(np.array([outline]), -half), half)[0]
                left = shapely.area(shapely.difference(reachable, laid.beads(layer)))
                self.assertLess(left / shapely.area(outline), 0.005, name)

    def test_nothing_is_laid_outside(self):
        for name, solid in SHAPES.items():
            laid = lay_out(solid, *SOLID)
            outline = laid.outlines.areas[2]
            beyond = shapely.area(shapely.difference(laid.beads(2), shapely.buffer(outline, 0.02)))
            self.assertLess(beyond / shapely.area(outline), 0.005, name)

    def test_ribs_of_every_thickness_are_laid(self):
        # from 0.6 of a bead on no thickness is without a rule
        for thick in np.arange(0.28, 2.9, 0.145):
            laid = lay_out(m3.Manifold.cube((15.0, float(thick), 1.0)), *SOLID)
            share = shapely.area(laid.beads(2)) / (15 * thick)
            self.assertGreater(share, 0.96, f"{thick:.3f} mm")
            self.assertLess(share, 1.03, f"{thick:.3f} mm")
            # but for the corners of its ends nothing is missing
            self.assertLess(shapely.area(laid.missing.polygons).max(initial=0), 0.05)

    def test_without_thin_beads_thin_parts_are_missing(self):
        solid = ribs([0.4, 3.0])
        missing = [
            shapely.area(lay_out(solid, *SOLID, f"body.thin_beads={fit}").missing.polygons).sum()
            for fit in ("true", "false")
        ]
        self.assertLess(missing[0], 0.1)
        self.assertAlmostEqual(missing[1], 5 * 0.4 * 12, delta=4)

    def test_every_solid_bead_says_why(self):
        for solid in (SHAPES["ribs"], SHAPES["wedge"]):
            for pattern in ("lines", "concentric"):
                laid = lay_out(
                    solid,
                    "footing.skirt_loops=0",
                    "body.walls=1",
                    f"body.solid_pattern={pattern}",
                    "body.infill_density=0",
                )
                mine = np.isin(laid.rows.feature, (SOLID_BEAD, TOP)) & (laid.rows.width > 0)
                self.assertTrue(mine.any())
                self.assertGreaterEqual(int(laid.rows.cause[mine].min()), 0)

    def test_widths_stay_between_0_6_and_1_8(self):
        for solid in (SHAPES["ribs"], SHAPES["wedge"], SHAPES["small letters"]):
            rows = lay_out(solid, *SOLID).rows
            walls = np.isin(rows.feature, (OUTER, INNER, GAP)) & (rows.width > 0)
            self.assertGreaterEqual(float(rows.width[walls].min()), 0.6 * 0.45 - 1e-3)
            self.assertLessEqual(float(rows.width[walls].max()), 1.8 * 0.45 + 1e-3)


class Slot(unittest.TestCase):
    """A wall whose thickness no whole number of beads fills."""

    #: Three lanes on each side of a 2.6 mm wall: 0.45 + 4 · 0.40708 + 0.45 = 2.528 mm, so 0.072
    #: stay open.
    THICK, OPEN = 2.6, 2.6 - (0.45 + 4 * 0.4070796 + 0.45)

    def found(self, *pairs):
        solid = m3.Manifold.cube((30.0, self.THICK, 4.0))
        plan = Pipeline().plan(
            source(solid),
            with_settings(
                PlanSpec(),
                [
                    "body.fill_gaps=false",
                    "body.thin_beads=false",
                    "body.infill_density=100",
                    *pairs,
                ],
            ),
        )
        return plan, [f for f in plan.findings if f.code == "gap"]

    def test_measured_and_closed_by_the_width_that_is_proposed(self):
        plan, found = self.found()
        self.assertEqual(len(found), 1)
        said = float(found[0].message.split("up to ")[1].split(" mm")[0])
        self.assertAlmostEqual(said, self.OPEN, delta=0.02)
        ((name, width),) = found[0].change.items()
        closed, left = self.found(f"{name}={width}")
        self.assertEqual(left, [])

        # the measures of the part are those of its outer walls
        def outer(plan):
            mine = plan.moves.feature == OUTER
            return [
                f(axis[mine]) for axis in (plan.moves.x, plan.moves.y) for f in (np.min, np.max)
            ]

        np.testing.assert_allclose(outer(closed), outer(plan), atol=1e-6)
        self.assertEqual(closed.report["paths"]["walls"], plan.report["paths"]["walls"])

    def test_filled_gaps_leave_none(self):
        plan, found = self.found("body.fill_gaps=true")
        self.assertEqual(found, [])
        self.assertLess(plan.report["paths"]["gap_area_mm2"], 0.5)
