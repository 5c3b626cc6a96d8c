"""Regions: volumes of the part with settings of their own, and everything outside them as
it was.
"""

import json
import unittest

import manifold3d as m3
import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from demo.shapes import gauge_body
from northpace.errors import InputError
from northpace.moves import INFILL, OUTER, SOLID
from northpace.outlines.volumes import volume_sections
from northpace.part.place import place
from northpace.part.solid import load_part
from northpace.plan.pipeline import Pipeline, Source
from northpace.spec import Placement, PlanSpec, Region, with_settings
from tests.core.shapes import cube, source, stl

PIPELINE = Pipeline()


def regions(*entries) -> str:
    return "body.regions=" + json.dumps(list(entries))


def plan(solid, *pairs):
    return PIPELINE.plan(source(solid), with_settings(PlanSpec(), list(pairs)))


def laid(found, feature):
    """Middles (K, 3) in mm from the middle of the bed, and volumes (K,) of the beads of a
    feature.
    """
    moves = found.moves
    k = np.flatnonzero((moves.feature == feature) & (moves.width > 0))
    middle = np.stack(
        [(getattr(moves, axis)[k - 1] + getattr(moves, axis)[k]) / 2 for axis in "xyz"], axis=1
    ) - (110, 110, 0)
    return middle, moves.filament[k] * np.pi * 1.75**2 / 4


class Volumes(unittest.TestCase):
    def volume(self, solid, region, **placement):
        placed = place(load_part(stl(solid), "a.stl"), Placement(**placement))
        levels = np.arange(-2, placed.height + 12, 0.1) + 0.05
        return float(shapely.area(volume_sections(region, placed, levels)).sum() * 0.1)

    def test_exact_volumes(self):
        table = m3.Manifold.cube((20, 10, 4), True).translate((0, 0, 8)) + m3.Manifold.cube(
            (4, 4, 10), True
        ).translate((0, 0, 5))
        for region, exact in (
            (Region(shape="box", size_x=4, size_y=5, size_z=6, z=5), 120),
            (Region(shape="ball", reach=3, z=5), 4 / 3 * np.pi * 27),
            (Region(shape="cylinder", reach=3, size_z=4, z=5), np.pi * 9 * 4),
            (Region(shape="outline", points=((0, 0, 5), (6, 0, 5), (0, 6, 5)), size_z=4), 18 * 4),
            (Region(shape="under", z=10, reach=3), 200 * 3),
            (Region(shape="over", z=10, reach=2), 200 * 2),
            (Region(shape="under", x=8, z=6, reach=2), (200 - 16) * 2),
        ):
            self.assertAlmostEqual(
                self.volume(table, region) / exact, 1, delta=0.01, msg=region.shape
            )

    def test_within_a_distance_of_a_level_face(self):
        # a square of 10 grown by 2: slab, quarter cylinders along the edges, eighths of a ball at
        # the corners
        exact = 100 * 4 + 40 * np.pi * 4 / 2 + 4 / 3 * np.pi * 8
        self.assertAlmostEqual(
            self.volume(cube(10), Region(shape="near", x=5, y=5, z=10, reach=2)) / exact,
            1,
            delta=0.03,
        )

    def test_it_moves_turns_and_scales_with_the_part(self):
        region = Region(shape="under", x=5, y=5, z=10, reach=3)
        self.assertAlmostEqual(
            self.volume(cube(10), region, scale_x=200, scale_y=200, scale_z=200) / (400 * 6),
            1,
            delta=0.01,
        )
        self.assertAlmostEqual(
            self.volume(
                cube(10),
                Region(shape="box", x=5, y=5, z=5, size_x=2, size_y=4, size_z=8),
                turn_x=90,
                scale_y=300,
            )
            / 192,
            1,
            delta=0.02,
        )

    def test_what_has_no_volume_is_refused(self):
        for region, words in (
            (Region(shape="under", x=10, y=5, z=5, reach=3, spread=5), "upright face"),
        ):
            with self.assertRaises(InputError) as caught:
                self.volume(cube(10), region)
            self.assertIn(words, str(caught.exception))
        for entry, words in (
            ({"shape": "outline", "points": [[0, 0, 0], [1, 0, 0]]}, "at least three"),
            ({"shape": "ball"}, "radius"),
            ({"shape": "box", "changes": {"body.outer_width": 0.5}}, "by a band, not by a region"),
        ):
            with self.assertRaises(InputError) as caught:
                with_settings(PlanSpec(), [regions(entry)])
            self.assertIn(words, str(caught.exception))


class Inside(unittest.TestCase):
    def test_density_holds_inside_only(self):
        box = {
            "shape": "box",
            "x": 10,
            "y": 10,
            "z": 10,
            "size_x": 8,
            "size_y": 8,
            "size_z": 8,
            "changes": {"body.infill_density": 60},
        }
        middle, volume = laid(plan(cube(20), "body.infill_density=10", regions(box)), INFILL)
        inside = (np.abs(middle - (0, 0, 10)) < 4).all(axis=1)
        self.assertAlmostEqual(volume[inside].sum() / 8**3, 0.6, delta=0.03)
        outside = ~inside & (middle[:, 2] > 6.1) & (middle[:, 2] < 14)
        self.assertAlmostEqual(
            volume[outside].sum() / (((20 - 0.9 - 2 * 0.814 - 0.1) ** 2 - 64) * 7.9),
            0.1,
            delta=0.02,
        )

    def test_solid_inside(self):
        box = {
            "shape": "box",
            "x": 10,
            "y": 10,
            "z": 10,
            "size_x": 8,
            "size_y": 8,
            "size_z": 4,
            "changes": {"body.infill_density": 100},
        }
        middle, volume = laid(plan(cube(20), "body.infill_density=0", regions(box)), SOLID)
        inside = (np.abs(middle[:, 2] - 10.1) < 2) & (np.abs(middle[:, :2]) < 4.4).all(axis=1)
        self.assertAlmostEqual(volume[inside].sum() / 256, 1, delta=0.05)

    def test_speed_changes_at_the_border(self):
        box = {
            "shape": "box",
            "x": 0,
            "y": 10,
            "z": 10,
            "size_x": 10,
            "size_y": 40,
            "size_z": 6,
            "changes": {"pace.outer_wall_speed": 20, "material.flow": 90},
        }
        plain, found = plan(cube(20)), plan(cube(20), regions(box))
        moves = found.moves
        k = np.flatnonzero((moves.feature == OUTER) & (moves.layer == 50))
        x = (moves.x[k - 1] + moves.x[k]) / 2 - 110
        self.assertLessEqual(moves.speed[k][x < -5].max(), 20)
        self.assertEqual(moves.speed[k][x > -5].min(), 50)
        # the wall is as long as before, and no move lies on both sides
        ends = np.stack([moves.x[k - 1], moves.x[k]]) - 110 + 5
        self.assertFalse(((ends.min(axis=0) < -2e-3) & (ends.max(axis=0) > 2e-3)).any())
        other = plain.moves
        j = np.flatnonzero((other.feature == OUTER) & (other.layer == 50))
        self.assertAlmostEqual(moves.lengths()[k].sum(), other.lengths()[j].sum(), delta=0.01)
        section = moves.filament[k] / moves.lengths()[k]
        self.assertAlmostEqual(section[x < -5].mean() / section[x > -5].mean(), 0.9, delta=0.002)

    def test_the_later_has_the_last_word_setting_by_setting(self):
        one = {
            "shape": "box",
            "x": 10,
            "y": 10,
            "z": 10,
            "size_x": 12,
            "size_y": 12,
            "size_z": 12,
            "changes": {"body.infill_density": 40, "pace.infill_speed": 40},
        }
        two = {
            "shape": "box",
            "x": 10,
            "y": 10,
            "z": 10,
            "size_x": 6,
            "size_y": 6,
            "size_z": 12,
            "changes": {"body.infill_density": 80},
        }
        found = plan(cube(20), regions(one, two))
        middle, volume = laid(found, INFILL)
        inner = (np.abs(middle - (0, 0, 10)) < (3, 3, 5.9)).all(axis=1)
        self.assertAlmostEqual(volume[inner].sum() / (36 * 11.8), 0.8, delta=0.05)
        speed = found.moves.speed[(found.moves.feature == INFILL) & (found.moves.width > 0)]
        self.assertLessEqual(speed[inner].max(), 40)

    def test_the_seam_goes_where_a_region_attracts_it(self):
        ball = {
            "shape": "cylinder",
            "x": 20,
            "y": 0,
            "z": 10,
            "reach": 2,
            "size_z": 30,
            "seam": "attract",
        }
        for region, corner in ((None, (-10, 10)), (ball, (10, -10))):
            found = plan(cube(20), "surface.seam=corner", *([regions(region)] if region else []))
            moves = found.moves
            starts = np.flatnonzero(
                (moves.feature[1:] == OUTER) & (moves.feature[:-1] != OUTER) & (moves.layer[1:] > 3)
            )
            spot = np.stack([moves.x[starts], moves.y[starts]], 1) - 110
            self.assertLess(np.abs(spot - np.sign(corner) * 9.775).max() if region else 0, 0.1)

    def test_support_is_asked_for_and_forbidden(self):
        flare = m3.Manifold.cylinder(6.0, 4.0, 12.0, 64)

        def mass(*pairs):
            found = plan(flare, "supports.enabled=true", *pairs)
            return found.report["filament"]["by_feature_mm"].get("support", 0.0)

        half = {"shape": "box", "x": -10, "y": 0, "z": 3, "size_x": 20, "size_y": 40, "size_z": 8}
        everywhere = mass("supports.angle=30")
        self.assertAlmostEqual(
            mass("supports.angle=30", regions({**half, "support": "forbid"})) / everywhere,
            0.5,
            delta=0.12,
        )
        self.assertEqual(mass("supports.angle=70"), 0)
        self.assertAlmostEqual(
            mass("supports.angle=70", regions({**half, "support": "ask"})) / everywhere,
            0.5,
            delta=0.15,
        )

    def test_attention_of_a_region(self):
        ball = {"shape": "ball", "x": 0, "y": 0, "z": 12, "reach": 7, "attention": "hidden"}
        dome = m3.Manifold.sphere(12.0, 96).trim_by_plane((0.0, 0.0, 1.0), 0.0)
        plain, found = plan(dome), plan(dome, regions(ball))
        self.assertGreater(found.report["surface"]["hidden_mm2"], 100)
        self.assertLess(found.report["surface"]["max_um"], plain.report["surface"]["max_um"])

    def test_attention_of_a_region_on_a_large_facet(self):
        # each side of the block is two triangles; half of one, and a strip of its neighbours, lies
        # in the box
        box = {
            "shape": "box",
            "x": 20,
            "y": 10,
            "z": 5,
            "size_x": 2,
            "size_y": 40,
            "size_z": 10,
            "attention": "seen",
        }
        found = plan(cube(20), regions(box))
        self.assertAlmostEqual(
            found.report["surface"]["seen_mm2"] / (20 * 10 + 2 * 10), 1, delta=0.15
        )


class Gauge(unittest.TestCase):
    def test_infill_only_under_the_floor_and_under_the_rim(self):
        """The double-walled gauge body: two regions fill what bears something, the rest of the
        jacket stays hollow.
        """
        data = stl(gauge_body())
        under = {
            "shape": "under",
            "x": 0,
            "y": 0,
            "z": 24.0,
            "changes": {"body.infill_density": 15},
        }
        rim = {
            "shape": "under",
            "x": 20.0,
            "y": 0,
            "z": 60.0,
            "reach": 6,
            "changes": {"body.infill_density": 15},
        }
        found = PIPELINE.plan(
            Source.of(data, "g.stl"),
            with_settings(PlanSpec(), ["body.infill_density=0", regions(under, rim)]),
        )
        plain = PIPELINE.plan(Source.of(data, "g.stl"), with_settings(PlanSpec(), []))
        middle, _ = laid(found, INFILL)
        radius = np.hypot(middle[:, 0], middle[:, 1])
        self.assertTrue((((middle[:, 2] < 24.1) & (radius < 17.7)) | (middle[:, 2] > 53.9)).all())
        self.assertLess(found.report["time_s"]["total"], plain.report["time_s"]["total"])
        self.assertLess(found.report["filament"]["mass_g"], plain.report["filament"]["mass_g"])


class Properties(unittest.TestCase):
    @settings(max_examples=8)
    @given(
        st.sampled_from(["box", "ball", "cylinder"]),
        st.floats(40, 90),
        st.floats(1, 12),
        st.sampled_from(
            [
                {"body.infill_density": 80},
                {"pace.outer_wall_speed": 20},
                {"body.top_thickness": 0},
                {"material.flow": 80},
            ]
        ),
    )
    def test_a_region_outside_the_part_changes_nothing(self, shape, far, size, change):
        outside = {
            "shape": shape,
            "x": far,
            "z": 3,
            "reach": size,
            "size_x": size,
            "size_y": size,
            "size_z": size,
            "changes": change,
            "seam": "attract",
        }
        plain, found = plan(cube(8)), plan(cube(8), regions(outside))
        for column in ("x", "y", "z", "speed", "filament"):
            self.assertTrue(
                np.array_equal(getattr(plain.moves, column), getattr(found.moves, column)), column
            )
