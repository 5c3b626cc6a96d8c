"""Booleans of areas that touch or cross themselves, and spans of patches in several pieces."""

import unittest

import numpy as np
import shapely

from northpace.errors import InputError
from northpace.geometry import polygons
from northpace.geometry.polygons import (
    GRIDS,
    Pieces,
    difference,
    intersection,
    offset,
    rounded,
    safely,
    together,
    union,
    united,
)
from northpace.paths.fill.skins import span_direction

#: Two triangles of 1 mm² that meet in a point, drawn in one go.
BOW = shapely.Polygon([(0, 0), (2, 2), (2, 0), (0, 2)])
#: Covers the lower half of both.
HALF = shapely.box(-1, -1, 3, 1)


def areas(*found):
    out = np.empty(len(found), object)
    out[:] = found
    return out


class CrossedOutlines(unittest.TestCase):
    def test_the_kernel_alone_refuses_them(self):
        with self.assertRaises(shapely.GEOSException):
            shapely.difference(BOW, HALF)

    def test_they_are_mended_and_the_others_are_exact(self):
        square = shapely.box(0, 0, 3, 3)
        for way, mended, exact in (
            (difference, 1.0, 6.0),
            (intersection, 1.0, 3.0),
            (union, 9.0, 14.0),
        ):
            found = way(areas(BOW, square), areas(HALF, HALF))
            self.assertTrue(shapely.is_valid(found).all(), way)
            self.assertAlmostEqual(found[0].area, mended, 5, way)
            self.assertAlmostEqual(found[1].area, exact, 12, way)

    def test_what_no_grid_but_the_last_helps_is_still_done(self):
        tried = []

        def stubborn(area, grid):
            tried.append(grid)
            if np.ndim(area) or grid != GRIDS[-1]:
                raise shapely.GEOSException("side location conflict")
            return area

        found = safely(stubborn, areas(BOW, HALF))
        self.assertEqual(tried, [None, *2 * [None, *GRIDS]])
        self.assertTrue(shapely.equals_exact(found, areas(BOW, HALF)).all())

    def test_what_no_grid_mends_is_refused_with_its_place(self):
        broken = shapely.Polygon([(0, 0), (np.nan, 2), (2, 0)])
        with self.assertRaisesRegex(InputError, r"near x 0.0, y 0.0 mm .* mend or thin the mesh"):
            polygons.safely(lambda area, grid: shapely.difference(area, BOW), areas(broken))


class OneOrMany(unittest.TestCase):
    def test_one_area_is_taken_with_each_of_many(self):
        square, many = shapely.box(0, 0, 2, 2), areas(HALF, shapely.box(1, 0, 5, 5))
        np.testing.assert_allclose(shapely.area(difference(many, square)), [6.0, 18.0])
        self.assertAlmostEqual(union(square, HALF).area, 10.0)
        self.assertAlmostEqual(intersection(square, HALF).area, 2.0)

    def test_what_overlaps_counts_once(self):
        pieces = areas(*(shapely.box(x, 0, x + 2, 1) for x in (0, 1, 10)))
        found = united(Pieces(pieces, np.array([2, 2, 0])), 4)
        np.testing.assert_allclose(shapely.area(found), [2.0, 0.0, 3.0, 0.0])
        self.assertAlmostEqual(together(pieces).area, 5.0)

    def test_around_lines_and_into_areas(self):
        line = shapely.LineString([(0, 0), (10, 0)])
        self.assertAlmostEqual(rounded(line, 1.0, 64).area, 20 + np.pi, 2)
        self.assertAlmostEqual(rounded(shapely.box(0, 0, 4, 4), -1.0).area, 4.0)

    def test_equal_areas_are_offset_alike(self):
        # some equal, some alike in size and place but for one corner
        one, other = (shapely.Polygon([(0, 0), (4, 0), (4, 4), (x, 2), (0, 4)]) for x in (1, 3))
        many = areas(one, other, one, shapely.Polygon(), other, shapely.Polygon())
        found = offset(many, np.array([-0.5, -0.5, -0.5, -0.5, -1.0, -0.5]))
        alone = [
            offset(areas(area), by)[0]
            for area, by in zip(many, (*4 * (-0.5,), -1.0, -0.5), strict=True)
        ]
        self.assertTrue(shapely.equals_exact(found, areas(*alone)).all())


class Spans(unittest.TestCase):
    def test_a_patch_in_two_pieces_spans_across_each(self):
        # lines between the pieces meet neither
        patch = shapely.union(shapely.box(0, 0, 4, 20), shapely.box(40, 0, 44, 20))
        below = shapely.union_all([shapely.box(x, 0, x + 4, 20) for x in (-4, 4, 36, 44)])
        turn, longest, share = span_direction(patch, below)
        self.assertEqual(turn, 0.0)
        self.assertAlmostEqual(longest, 4.0, 6)
        self.assertAlmostEqual(share, 1.0, 6)
