"""Booleans of areas that touch or cross themselves, and spans of patches in several pieces."""

import unittest

import numpy as np
import shapely

from northpace.geometry.polygons import difference, intersection, union
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


class Spans(unittest.TestCase):
    def test_a_patch_in_two_pieces_spans_across_each(self):
        # lines between the pieces meet neither
        patch = shapely.union(shapely.box(0, 0, 4, 20), shapely.box(40, 0, 44, 20))
        below = shapely.union_all([shapely.box(x, 0, x + 4, 20) for x in (-4, 4, 36, 44)])
        turn, longest, share = span_direction(patch, below)
        self.assertEqual(turn, 0.0)
        self.assertAlmostEqual(longest, 4.0, 6)
        self.assertAlmostEqual(share, 1.0, 6)
