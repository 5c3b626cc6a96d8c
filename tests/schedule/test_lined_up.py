"""The queue of one machine along the clock."""

import unittest

import numpy as np

from northpace.schedule.lined_up import Print, Turnover, lined_up
from northpace.schedule.week import Presence
from tests.schedule.made import HOUR

ALWAYS = Presence(np.array([[0.0, np.inf]]))
#: Until two hours from now, then from 14 to 24 h.
DAYS = Presence(np.array([[0.0, 2 * HOUR], [14 * HOUR, 24 * HOUR]]))
BY_HAND = Turnover(600, 300)


class LinedUp(unittest.TestCase):
    def times(self, *prints, presence=ALWAYS, turnover=BY_HAND, hangs=1):
        found = lined_up(prints, turnover, presence, hangs)
        return [(one.begin, one.end) for one in found]

    def test_bed_and_spool_changes_lie_between_prints(self):
        found = self.times(
            Print(500, 1, running=True), Print(3600, 1), Print(3600, 2), Print(60, None)
        )
        self.assertEqual(
            found, [(0, 500), (1100, 4700), (4700 + 900, 9200), (9200 + 600, 9200 + 660)]
        )

    def test_hands_wait_for_the_morning(self):
        found = self.times(Print(3 * HOUR, 1), Print(HOUR, 1), presence=DAYS)
        self.assertEqual(found[1], (14 * HOUR + 600, 15 * HOUR + 600))

    def test_a_machine_that_clears_itself_needs_hands_for_spools_only(self):
        own = Turnover(600, 300, clears_itself=True)
        found = self.times(
            *(Print(3 * HOUR, 1), Print(HOUR, 1), Print(HOUR, 2)), presence=DAYS, turnover=own
        )
        self.assertEqual(found[1], (3 * HOUR + 600, 4 * HOUR + 600))
        self.assertEqual(found[2][0], 14 * HOUR + 300)

    def test_nobody_ever_comes(self):
        found = self.times(Print(60, 1), Print(60, 1), presence=Presence(np.zeros((0, 2))))
        self.assertEqual(found[0], (0, 60))
        self.assertEqual(found[1][0], np.inf)


if __name__ == "__main__":
    unittest.main()
