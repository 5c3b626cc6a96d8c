"""The simulated printer knows its head: it fails a job whose head meets what is laid, and runs a
bed in the time that was estimated.
"""

import unittest

import numpy as np

from northpace.beds.write import write_bed
from standin.drive import drive
from standin.head import first_hit
from standin.limits import Limits
from standin.tape import tape_of
from standin.text import read
from tests.beds.shapes import SPARSE, at, bed_of
from tests.beds.test_clearance import PAIRS

HEAD = (
    (6, 6, 22, 4, 2, "Duct"),
    (14, 9, 12, 16, 7, "Block"),
    (1e4, 1e4, 10, 16, 30, "Gantry"),
)


class Head(unittest.TestCase):
    def tape(self, *places, **said):
        laid = bed_of(*places, pairs=PAIRS, **said).laid
        return tape_of(write_bed(laid, {}).decode(), Limits(head=HEAD), 1.0, 0.0)

    def test_an_order_that_is_given_runs_to_its_end(self):
        places = [at("pin", 0, 0), at("post", 0, 25), at("mushroom", 60, -40), at("bar", -60, -50)]
        self.assertEqual(self.tape(*places, way="in-turn").hit, float("inf"))

    def test_a_wrong_order_ends_where_the_head_meets_what_is_finished(self):
        places = [at("pin", 0, 0), at("post", 0, 25)]
        good = bed_of(*places, pairs=PAIRS, way="in-turn")
        first = good.groups[0][0]
        wrong = self.tape(*places, way="in-turn", order=(2 - first, 1 + first))
        self.assertTrue(0 < wrong.hit < wrong.clock[-1])
        self.assertIn(wrong.hits_with, ("Duct", "Block"))

    def test_what_is_laid_together_never_meets_the_head(self):
        places = [at("pin", 0, 0), at("post", 0, 12), at("bar", 0, -12)]
        self.assertEqual(self.tape(*places).hit, float("inf"))

    def test_a_bar_reaches_over_the_whole_bed(self):
        # a wall 20 mm tall at the left; then a line at 1 mm at the far right in the same row
        way = np.array(
            [[5, 50, 20, 0], [0, 10, 0, 1], [0, 0, -19, 0], [150, 0, 0, 0], [0, 5, 0, 1]], float
        )
        bar = np.array([[1e4, 1e4, 5, 5, 10.0]])
        self.assertEqual(first_hit(way, bar)[1], 0)
        self.assertEqual(first_hit(way, bar + [0, 0, 0, 0, 15]), (-1, -1))


class Time(unittest.TestCase):
    def test_nine_rings_take_as_long_as_was_said(self):
        places = [at("ring", 61 * (k % 3) - 61, 61 * (k // 3) - 61) for k in range(9)]
        for way in ("together", "in-turn"):
            laid = bed_of(*places, pairs=SPARSE, way=way).laid
            took = drive(read(write_bed(laid, {}).decode(), Limits()), Limits()).sum()
            with self.subTest(way=way):
                self.assertAlmostEqual(took / laid.seconds, 1.0, delta=0.02)


if __name__ == "__main__":
    unittest.main()
