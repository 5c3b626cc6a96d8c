"""Plates with so many copies of one plan."""

import unittest
from unittest import mock

from northpace.beds import plates as module
from northpace.beds.plates import plate_figures, plates
from northpace.beds.spec import BedSpec
from northpace.errors import InputError
from tests.beds.shapes import SPARSE, at, bed_of, plan

OWN = BedSpec(loops="own")


class Plates(unittest.TestCase):
    def test_times_are_those_of_real_beds(self):
        ring = plan("ring", *SPARSE)
        few = plates(OWN, "ring", ring, 4)
        self.assertEqual((few.holds, few.exact), (4, True))
        places = [at("ring", 35 * k - 70) for k in range(4)]
        # but for the ways between them
        beside = bed_of(*places).laid.seconds
        self.assertAlmostEqual(few.seconds[0], beside, delta=0.02 * beside)
        more = plates(OWN, "ring", ring, 91)
        self.assertGreaterEqual(more.holds, 39)
        full, again, rest = more.seconds
        self.assertEqual(full, again)
        self.assertEqual(rest, plates(OWN, "ring", ring, 91 - 2 * more.holds).seconds[0])

    def test_many_moves_are_gone_on_with_straight(self):
        ring = plan("ring", *SPARSE)
        exact = plates(OWN, "ring", ring, 30)
        self.assertTrue(exact.exact)
        with mock.patch.object(module, "MOST_MOVES", 8 * len(ring.paced.rows.layer)):
            rough = plates(OWN, "ring", ring, 30)
        self.assertFalse(rough.exact)
        self.assertAlmostEqual(rough.seconds[0], exact.seconds[0], delta=0.02 * exact.seconds[0])

    def test_figures_of_several_numbers_of_copies(self):
        ring = plan("ring", *SPARSE)
        found = plate_figures(OWN, "ring", ring)
        holds = found.copies[-1]
        self.assertGreaterEqual(holds, 39)
        self.assertEqual(found.copies[:6], (1, 2, 4, 8, 16, 32))
        self.assertEqual(found.seconds[-1], plates(OWN, "ring", ring, holds).seconds[0])
        self.assertEqual(found.seconds, tuple(sorted(found.seconds)))
        for copies, grams in zip(found.copies, found.grams, strict=True):
            self.assertAlmostEqual(grams, copies * found.grams[0], delta=1e-3 * grams)

    def test_what_fits_nowhere_is_said(self):
        wide = plan("square", *SPARSE, "machine.size_x=30")
        with self.assertRaisesRegex(InputError, "not one copy fits"):
            plates(OWN, "square", wide, 2)


if __name__ == "__main__":
    unittest.main()
