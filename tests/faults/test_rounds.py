"""Round after round something of the house falls while people work in it: nothing that was answered
is lost, nothing is there twice, and everything is back.

`NORTHPACE_FAULT_ROUNDS=20 ./test tests.faults.test_rounds` says how long each took to come back.
"""

import json
import os
import threading
import unittest
from functools import partial

from tests.faults.house import BACK, House, within
from tests.faults.person import Person
from tests.standin.process import PrinterProcess

ROUNDS = int(os.environ.get("NORTHPACE_FAULT_ROUNDS", "7"))
#: How long people who work get to finish one thing more (s).
GOES_ON = 120
PEOPLE = ("ann", "bo")
LAID = {"printing", "done"}

#: A workshop for each person, with a machine that is simulated.
SETTLE = """
import json, sys
from tests.service.base import make_workshop
for name, address in json.loads({!r}).items():
    machine = make_workshop(f"Workshop of {{name}}", name).machines.get()
    machine.connection, machine.clears_itself = {{"kind": "printer", "address": address}}, True
    machine.save()
"""
#: What the database holds in the end, by workshop.
COUNT = """
import json
from service.files import fetch
from service.jobs.models import Job
from service.workshop.models import Workshop
from procrastinate.contrib.django.models import ProcrastinateJob
found = {}
for workshop in Workshop.objects.all():
    jobs = Job.objects.filter(workshop=workshop)
    found[workshop.name] = {
        "jobs": {job.pk: [job.state, len(fetch(job.file_key)), job.figures["mass_g"],
                          -sum(entry.grams for entry in job.entries.all()), job.commit_key]
                 for job in jobs},
    }
found["tasks"] = list(ProcrastinateJob.objects.exclude(status__in=("succeeded", "cancelled"))
                      .exclude(queue_name="watch")
                      .values_list("task_name", "status", "attempts", "args", "worker_id"))
print(json.dumps(found))
"""


class Rounds(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.house = House(cls, careless=False)
        cls.printers = {name: PrinterProcess(factor=1e5) for name in PEOPLE}
        for printer in cls.printers.values():
            cls.addClassCleanup(printer.stop)
        addresses = {name: printer.address for name, printer in cls.printers.items()}
        cls.house.manage("shell", "-v0", "-c", SETTLE.format(json.dumps(addresses)))
        cls.stop = threading.Event()
        cls.people = [Person(cls.house.address, name, "plumb-line", cls.stop) for name in PEOPLE]

    def falls(self):
        """What can fall, one after the other."""
        house = self.house
        return [
            ("worker", lambda: house.kill("worker")),
            ("database, fast", lambda: house.stop_database("fast")),
            ("web", lambda: house.kill("web")),
            ("what computes for the worker", lambda: house.kill_hand("worker")),
            ("database, at once", lambda: house.stop_database("immediate")),
            ("minder", lambda: house.kill("minder")),
            ("what computes for the web", lambda: house.kill_hand("web")),
        ]

    def wait(self, seconds, condition):
        """Wait for a condition while people work; what stopped one of them is told."""

        def so():
            for person in self.people:
                if person.wrong:
                    raise AssertionError(f"somebody was stopped: {person.wrong}")
            return condition()

        return within(seconds, so)

    def all_went_on(self, before):
        """Whether everybody has finished more than before."""
        return all(one.done > was for one, was in zip(self.people, before, strict=True))

    def test_nothing_is_lost_or_there_twice(self):
        for person in self.people:
            person.start()
        self.addCleanup(self.stop.set)
        falls = self.falls()
        for number in range(ROUNDS):
            name, fall = falls[number % len(falls)]
            before = [person.done for person in self.people]
            fall()
            back = self.wait(BACK, self.house.whole)
            on = self.wait(GOES_ON, partial(self.all_went_on, before))
            print(f"{name}: back after {back:.1f} s, everybody went on after {back + on:.1f} s")
        self.stop.set()
        for person in self.people:
            person.join(GOES_ON)
            self.assertFalse(person.is_alive())
            self.assertIsNone(person.wrong)
        within(GOES_ON, self.nothing_waits)
        for person, name in zip(self.people, PEOPLE, strict=True):
            self.look_at(person)
            within(GOES_ON, lambda: self.all_done(name))  # noqa: B023
            self.look_at_jobs(person, self.count()[f"Workshop of {name}"])

    def count(self):
        return json.loads(self.house.manage("shell", "-v0", "-c", COUNT))

    def nothing_waits(self):
        """Whether the queue is empty; what was given up stays in it."""
        tasks = self.count()["tasks"]
        self.assertNotIn("failed", {task[1] for task in tasks}, tasks)
        return not tasks

    def all_done(self, name):
        """Whether every job of a workshop was laid to its end."""
        jobs = self.count()[f"Workshop of {name}"]["jobs"].values()
        self.assertLessEqual({state for state, *_ in jobs}, {"queued", "sending", "heating"} | LAID)
        return {state for state, *_ in jobs} <= {"done"}

    def look_at(self, person):
        """Every part and plan that somebody got an answer for is there, as it was left."""
        for part in person.parts:
            self.assertEqual(person.ask("GET", f"/api/parts/{part}")["state"], "ready")
        for plan, height in person.plans.items():
            found = person.ask("GET", f"/api/plans/{plan}")
            self.assertEqual(found["latest"]["state"], "done")
            self.assertEqual(found["latest"]["settings"]["surface"]["layer_height"], height)

    def look_at_jobs(self, person, counted):
        """Every press committed once, whatever became of its first answer; what was laid was taken
        off the spool once.
        """
        keys = [key for *_, key in counted["jobs"].values()]
        self.assertCountEqual(person.jobs, keys)
        for body, job in person.jobs.values():
            (again,) = person.ask("POST", "/api/jobs", body)
            self.assertEqual(again["id"], job)
            self.assertGreater(counted["jobs"][str(job)][1], 1000)
        for _, _, grams, taken, _ in counted["jobs"].values():
            self.assertAlmostEqual(taken, grams, delta=0.05 * grams)
