"""Plates with so many copies of one plan."""

import unittest

from northpace.beds.plates import plates
from northpace.beds.spec import BedSpec
from northpace.errors import InputError
from tests.beds.shapes import SPARSE, at, bed_of, plan


class Plates(unittest.TestCase):
    def test_times_are_those_of_real_beds_and_lie_between_them(self):
        ring = plan("ring", *SPARSE)
        found = plates(BedSpec(loops="own"), "ring", ring, 91)
        self.assertGreaterEqual(found.holds, 39)
        rest = 91 % found.holds
        one = bed_of(at("ring")).laid.seconds
        self.assertAlmostEqual(found.takes(1), one, delta=3)
        self.assertIn(rest, found.counts)
        times = [found.takes(k) for k in range(1, found.holds + 1)]
        self.assertEqual(times, sorted(times))
        # what was not asked for is nearly what its bed takes
        places = [at("ring", 35 * k - 70) for k in range(4)]
        self.assertAlmostEqual(found.takes(4), bed_of(*places).laid.seconds, delta=0.02 * times[3])
        few = plates(BedSpec(loops="own"), "ring", ring, 7)
        self.assertEqual((few.holds, few.for_all(7)), (7, [few.takes(7)]))
        # two full ones and the rest
        more = found.for_all(91)
        self.assertEqual(more, [times[-1], times[-1], times[rest - 1]])
        self.assertEqual(found.for_all(found.holds), [times[-1]])

    def test_what_fits_nowhere_is_said(self):
        wide = plan("square", *SPARSE, "machine.size_x=30")
        with self.assertRaisesRegex(InputError, "not one copy fits"):
            plates(BedSpec(loops="own"), "square", wide, 2)


if __name__ == "__main__":
    unittest.main()
