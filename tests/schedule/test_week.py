"""When somebody is there."""

import unittest
from datetime import UTC, datetime

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.errors import InputError
from northpace.schedule.week import HandHours, Presence, Week
from northpace.spec.validated import validated
from tests.schedule.made import HOUR, NOW, OFFICE


class Hours(unittest.TestCase):
    def setUp(self):
        self.there = Presence(OFFICE.spans(NOW))

    def test_the_rest_of_today_and_then_tomorrow(self):
        np.testing.assert_allclose(self.there.spans[:2], [[0, 7 * HOUR], [22 * HOUR, 31 * HOUR]])

    def test_work_that_is_not_finished_today_is_done_tomorrow(self):
        self.assertEqual(self.there.ready(6.9 * HOUR, 0.2 * HOUR), 22.2 * HOUR)
        self.assertEqual(self.there.ready(6.8 * HOUR, 0.2 * HOUR), 7 * HOUR)
        self.assertEqual(self.there.ready(12 * HOUR, 300), 22 * HOUR + 300)

    def test_what_needs_no_hand_waits_for_nobody(self):
        self.assertEqual(self.there.ready(12 * HOUR, 0), 12 * HOUR)

    def test_the_weekend_is_passed_over(self):
        friday_evening = (2 * 24 + 10) * HOUR
        self.assertEqual(self.there.ready(friday_evening, 60), (4 * 24 + 22) * HOUR + 60)

    def test_work_longer_than_any_day_begins_in_the_morning(self):
        self.assertEqual(self.there.ready(HOUR, 20 * HOUR), 42 * HOUR)

    def test_without_hours_somebody_is_always_there(self):
        always = Presence(Week().spans(NOW))
        self.assertTrue(always.always and always.there(1e9))
        self.assertEqual(always.ready(5.0, 10.0), 15.0)

    def test_nobody_ever(self):
        never = Presence(Week(hours=(HandHours(days=()),)).spans(NOW))
        self.assertEqual(never.ready(5.0, 10.0), np.inf)
        self.assertEqual(never.ready(5.0, 0.0), 5.0)

    def test_the_day_the_clocks_change_is_an_hour_longer(self):
        week = Week(hours=(HandHours(days=(6,), begin="00:00", end="24:00"),), zone="Europe/Oslo")
        eve = datetime(2026, 10, 24, 12, tzinfo=UTC)
        (begin, end), *_ = week.spans(eve)
        self.assertEqual((begin, end - begin), (10 * HOUR, 25 * HOUR))

    def test_what_is_wrong_is_said(self):
        for values, words in (
            ({"hours": [{"begin": "8", "end": "17:00"}]}, "write it as 08:30"),
            ({"hours": [{"begin": "17:00", "end": "08:00"}]}, "end before they begin"),
            ({"hours": [{"days": [7]}]}, "0 (Monday) to 6"),
            ({"zone": "Atlantis/North"}, "no time zone"),
        ):
            with self.assertRaises(InputError) as caught:
                validated(Week, values)
            self.assertIn(words, str(caught.exception))

    @settings(max_examples=60, deadline=None, derandomize=True)
    @given(st.lists(st.floats(0, 60 * 24 * HOUR), min_size=1), st.floats(0, 30 * HOUR))
    def test_many_at_once_are_those_one_by_one(self, moments, seconds):
        many = self.there.all_ready(np.array(moments), seconds)
        np.testing.assert_allclose(many, [self.there.ready(at, seconds) for at in moments])
