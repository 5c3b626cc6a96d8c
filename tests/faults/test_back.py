"""Everything comes back by itself: processes that are killed, and a database that is restarted."""

import threading
import unittest

from tests.faults.house import BACK, SIGNS, House, within
from tests.faults.person import Person

SETTLE = """
from tests.service.base import make_workshop
make_workshop("Back again", "ann")
"""


class ComesBack(unittest.TestCase):
    """Web, worker and minder with a database of their own."""

    @classmethod
    def setUpClass(cls):
        cls.house = House(cls)

    def setUp(self):
        within(60, self.house.whole)

    def test_what_is_killed_is_there_again(self):
        for name in SIGNS:
            self.house.kill(name)
            within(BACK, self.house.ready)

    def test_nobody_is_believed_where_they_come_from(self):
        self.house.manage("shell", "-v0", "-c", SETTLE)
        forged = {"X-Forwarded-For": "203.0.113.9", "X-Forwarded-Proto": "https"}
        person = Person(self.house.address, "ann", "plumb-line", threading.Event(), **forged)
        (place,) = person.ask("GET", "/api/session/places")
        self.assertEqual(place["address"], "127.0.0.1")

    def test_a_database_that_is_restarted_is_waited_for(self):
        pids = {name: self.house.pid(name) for name in SIGNS}
        for how in ("fast", "immediate"):
            self.house.stop_database(how)
            within(BACK, self.house.ready)
        # nobody fell over
        self.assertEqual(pids, {name: self.house.pid(name) for name in pids})
