"""Web and database on one machine, a worker on another, files in object storage: they share nothing
but the network, which is cut for a while.
"""

import os
import shutil
import subprocess
import tempfile
import threading
import unittest

from ops.steps import PYTHON, ROOT
from tests.faults.house import House, within
from tests.faults.objects import Objects
from tests.faults.person import Person
from tests.faults.relay import Relay

#: The other machine is a network namespace of its own, with one wire to here.
#: Names and addresses are of this process: what a killed run left behind is in nobody's way.
SPACE, NET = f"np{os.getpid()}", f"10.77.{os.getpid() % 250 + 1}"
HERE, THERE = f"{NET}.1", f"{NET}.2"
WIRE = (f"nh{os.getpid()}", f"nt{os.getpid()}")
SETTLE = """
from tests.service.base import make_workshop
make_workshop("Two hosts", "ann")
"""


def ip(*words):
    subprocess.run(["ip", *words], check=True, capture_output=True, text=True)


def can_part():
    """Whether this machine lets us make another one."""
    if os.geteuid() != 0 or not shutil.which("ip"):
        return False
    made = subprocess.run(["ip", "netns", "add", SPACE], capture_output=True).returncode == 0
    if made:
        ip("netns", "del", SPACE)
    return made


@unittest.skipUnless(can_part(), "network namespaces need root and iproute2")
class Hosts(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        ip("netns", "add", SPACE)
        cls.addClassCleanup(ip, "netns", "del", SPACE)
        ip("link", "add", WIRE[0], "type", "veth", "peer", "name", WIRE[1], "netns", SPACE)
        ip("addr", "add", f"{HERE}/24", "dev", WIRE[0])
        ip("link", "set", WIRE[0], "up")
        ip("-n", SPACE, "addr", "add", f"{THERE}/24", "dev", WIRE[1])
        ip("-n", SPACE, "link", "set", WIRE[1], "up")
        ip("-n", SPACE, "link", "set", "lo", "up")
        cls.objects = Objects(cls, HERE)
        settings = {
            "NORTHPACE_SECRET": "the same on all machines",
            "NORTHPACE_PROXIES": f"127.0.0.1,{NET}.0/24",
        }
        cls.house = House(cls, without=["worker"], **settings, **cls.objects.environment())
        cls.house.manage("shell", "-v0", "-c", SETTLE)
        # a database of one's own listens to the network; ours is on loopback alone
        relay = Relay(HERE, cls.house.cluster.port)
        cls.addClassCleanup(relay.close)
        place = tempfile.TemporaryDirectory(prefix="northpace-there-", ignore_cleanup_errors=True)
        cls.addClassCleanup(place.cleanup)
        env = {
            **cls.house.env,
            "NORTHPACE_DB_HOST": HERE,
            "NORTHPACE_DB_PORT": str(relay.port),
            "NORTHPACE_VAR": place.name,
        }
        cls.worker = subprocess.Popen(
            ["ip", "netns", "exec", SPACE, str(PYTHON), "manage.py", "work"],
            cwd=ROOT,
            env=env,
            stdout=subprocess.PIPE,
            text=True,
        )
        cls.addClassCleanup(cls.worker.stdout.close)
        cls.addClassCleanup(cls.worker.wait, 40)
        cls.addClassCleanup(cls.worker.terminate)
        assert cls.worker.stdout.readline() == "worker ready\n"
        cls.person = Person(cls.house.address, "ann", "plumb-line", threading.Event())

    def test_a_plan_of_one_machine_is_computed_on_another(self):
        part = self.person.take_in(1)
        self.person.wait(f"/api/parts/{part}", "ready")
        plan = self.person.plan(part)
        self.person.wait(f"/api/plans/{plan}/progress", "done")
        self.person.commit(plan)
        ((_, job),) = self.person.jobs.values()
        self.assertIn(b"G1 ", self.person.ask("GET", f"/api/jobs/{job}/file"))
        kinds = {key.rsplit(".", 1)[1] for key in self.objects.keys()}  # noqa: SIM118
        self.assertLessEqual({"stl", "gcode", "arrow"}, kinds)
        # nothing lies on this machine
        self.assertFalse(os.path.exists(os.path.join(self.house.env["NORTHPACE_VAR"], "files")))

    def test_a_proxy_that_is_named_says_where_somebody_comes_from(self):
        # the last that is no proxy of ours counts: what stands before it anybody may have written
        for number, (said, believed) in enumerate(
            {
                "203.0.113.9": "203.0.113.9",
                f"198.51.100.1, 203.0.113.7, {NET}.8": "203.0.113.7",
                "nonsense": None,
            }.items()
        ):
            headers = {"X-Forwarded-For": said, "User-Agent": f"browser {number}"}
            person = Person(self.house.address, "ann", "plumb-line", threading.Event(), **headers)
            places = person.ask("GET", "/api/session/places")
            here = next(place for place in places if place["here"])
            self.assertEqual(here["address"], believed)

    def test_a_wire_that_is_cut_for_a_while_loses_nothing(self):
        ip("link", "set", WIRE[0], "down")
        self.addCleanup(ip, "link", "set", WIRE[0], "up")
        part = self.person.take_in(2)
        with self.assertRaises(AssertionError):
            within(2, lambda: self.person.ask("GET", f"/api/parts/{part}")["state"] == "ready")
        ip("link", "set", WIRE[0], "up")
        self.person.wait(f"/api/parts/{part}", "ready")

    def test_a_store_that_is_away_is_said_and_waited_for(self):
        self.objects.process.kill()
        self.objects.process.wait()
        status, body = self.person.once("GET", "/api/parts")
        self.assertEqual(status, 200, body)
        status, body = self.person.once("POST", "/api/parts", *self.person.upload(3))
        self.assertEqual(status, 503)
        self.assertIn("files are kept does not answer", body["detail"])
        self.objects.start()
