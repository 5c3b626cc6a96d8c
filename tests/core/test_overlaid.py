"""How much is laid over each other: at most a little, also where tops meet what is solid beside
them.
"""

import unittest

import manifold3d as m3
import numpy as np
import shapely

from northpace.moves import SOLID, TOP
from northpace.paths.fill.shown import shown
from northpace.paths.table import path_table
from northpace.plan.pipeline import Pipeline
from northpace.spec import PlanSpec
from tests.core.raster import Raster
from tests.core.shapes import source

#: What is laid within so far (mm) counts as laid in one place.
AROUND = 1.0


def stroke(points, width=1.2):
    line = shapely.LineString(points)
    return line.buffer(width / 2, cap_style="square", join_style="mitre")


def engraved(deep=1.0) -> m3.Manifold:
    """A plate, 40 × 24 × 3, with letters of straight, slanted and round strokes cut into it."""
    turn = np.linspace(0, 2 * np.pi, 40)
    strokes = (
        stroke([(-16, -7), (-16, 7), (-10, -7), (-10, 7)]),
        stroke([(-6, -7), (-2.5, 7), (1, -7)]),
        stroke([(-5, -2), (0, -2)]),
        stroke(np.column_stack([7 + 4 * np.cos(turn), 7 * np.sin(turn)])),
        stroke([(14, -7), (14, 7)]),
        stroke([(19, 7), (14, 0), (19, -7)]),
    )
    rings = [
        np.array(ring.coords)[:-1]
        for area in shapely.get_parts(shapely.union_all(strokes))
        for ring in (area.exterior, *area.interiors)
    ]
    letters = m3.CrossSection(rings, m3.FillRule.EvenOdd).extrude(deep + 0.01)
    plate = m3.Manifold.cube((40, 24, 3), True).translate((0, 0, 1.5))
    return plate - letters.translate((0, 0, 3 - deep))


class Overlaid(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.plan = Pipeline().plan(source(engraved()), PlanSpec())
        moves = cls.plan.moves
        (cls.floor,) = np.unique(moves.layer[(moves.feature == TOP) & (moves.z < 2.5)])
        cls.raster = Raster(cls.plan, without=("footing",))

    def over(self, raster, layer):
        """Share of what a layer covers that holds over 1.25 times its volume."""
        return float((raster.filled(layer, AROUND)[raster.image(layer) > 0] > 1.25).mean())

    def test_the_floor_of_engraved_letters(self):
        floor = self.floor
        # a slab of tops and what is solid around them, of infill, and of walls about the letters
        for layer in (floor, floor - 1, floor + 2, floor + 3):
            self.assertLess(self.over(self.raster, layer), 0.02, layer)

    def test_what_shows_is_laid_as_a_top(self):
        moves = self.plan.moves
        tops = (moves.feature == TOP) & (moves.z < 2.5)
        wide = float(np.median(moves.width[tops]))
        letters = 40 * 24 - engraved().slice(2.5).area()
        lane = wide - (1 - np.pi / 4) * 0.2
        # stretches shorter than a bead, in the corners, stay solid
        self.assertAlmostEqual(self.raster.laid(self.floor, "top") * lane / letters, 1, delta=0.08)


class Shown(unittest.TestCase):
    """Lines that go on from below a surface onto it."""

    def cut(self, points, starts, top, least=0.45):
        table = path_table(
            np.array(points, float),
            np.array(starts),
            layer=0,
            island=0,
            rank=1,
            feature=SOLID,
            width=np.linspace(0.4, 0.6, len(points)),
            height=0.2,
        )
        return shown(table, np.array([top], object), least)

    def test_a_line_is_cut_where_it_enters_and_leaves(self):
        found = self.cut([(0, 0), (10, 0), (10, 1), (0, 1)], [0, 4], shapely.box(2, -1, 6, 2))
        self.assertEqual(found.points[:, 0].tolist(), [0, 2, 6, 10, 10, 6, 2, 0])
        self.assertEqual(found.top.tolist(), [False, False, True, False, False, False, True, False])
        # the width goes on evenly
        self.assertAlmostEqual(found.width[1], 0.4 + 0.2 / 3 * 0.2)
        self.assertEqual(found.starts.tolist(), [0, 8])
        self.assertEqual(found.feature.tolist(), [SOLID])

    def test_what_lies_on_it_as_a_whole_is_a_top(self):
        points = [(0, 0), (4, 0), (4, 1), (9, 9), (8, 9), (-3, 0), (9, 0)]
        found = self.cut(points, [0, 3, 5, 7], shapely.box(-1, -1, 5, 2))
        self.assertEqual(found.feature.tolist(), [TOP, SOLID, SOLID])
        self.assertEqual(found.points[5:].tolist(), [[-3, 0], [-1, 0], [5, 0], [9, 0]])

    def test_a_short_stretch_stays_what_the_rest_is(self):
        found = self.cut([(0, 0), (10, 0)], [0, 2], shapely.box(2, -1, 2.3, 1))
        self.assertEqual(len(found.points), 2)
        self.assertFalse(found.top.any())

    def test_nothing_shows_on_other_islands(self):
        found = self.cut([(0, 0), (10, 0)], [0, 2], shapely.Polygon())
        self.assertFalse(found.top.any())
