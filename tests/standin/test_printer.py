"""The simulated printer by itself, with a clock that only moves when told."""

import hashlib
import json
import tempfile
import unittest
from pathlib import Path

import numpy as np

from northpace.plan.pipeline import Pipeline
from northpace.spec import PlanSpec
from standin.limits import Limits
from standin.printer import Printer, Refused
from standin.tape import tape_of
from tests.core.shapes import cube, source

PLAN = Pipeline().plan(source(cube(6)), PlanSpec())
RUN, OTHER = "a" * 32, "b" * 32


class Clock:
    now = 0.0

    def __call__(self):
        return self.now


class PrinterCase(unittest.TestCase):
    def setUp(self):
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        self.clock = Clock()
        self.printer = self.make()

    def make(self, **options):
        return Printer(Path(self.folder.name), Limits(), "Bench", clock=self.clock, **options)

    def begin(self, run=RUN):
        self.printer.take(run, PLAN.gcode, hashlib.sha256(PLAN.gcode).hexdigest())
        return self.printer.start(run, f"{run[0]}.gcode")

    def after(self, seconds):
        self.clock.now += seconds
        return self.printer.state()

    def refused(self, status, act, *args):
        with self.assertRaises(Refused) as caught:
            act(*args)
        self.assertEqual(caught.exception.status, status)
        return str(caught.exception)


class Running(PrinterCase):
    def test_heats_prints_and_ends(self):
        total = PLAN.report["time_s"]["total"]
        self.assertEqual(self.begin()["phase"], "heating")
        warm = self.after(60)
        self.assertEqual((warm["phase"], warm["layer"]), ("heating", 0))
        self.assertAlmostEqual(warm["bed"], 20 + 60 * 0.6, 1)
        half = self.after(total / 2 + 60)
        self.assertEqual(half["phase"], "printing")
        self.assertAlmostEqual(half["seconds"] + half["left_s"], total, delta=0.02 * total)
        self.assertGreater(half["nozzle"], 190)
        done = self.after(total)
        self.assertEqual((done["phase"], done["layer"]), ("done", 30))
        self.assertAlmostEqual(done["extruded_mm"], PLAN.report["filament"]["length_mm"], 3)
        self.assertEqual(done["nozzle"], 20)

    def test_filament_comes_with_the_moves(self):
        tape = tape_of(PLAN.gcode.decode(), Limits(), 1.0, 0.0)
        for t in (170.0, 250.0, float(tape.clock[-1])):
            self.assertLessEqual(tape.when_fed(tape.fed_at(t)), t + 1e-6)
            self.assertAlmostEqual(tape.fed_at(tape.when_fed(tape.fed_at(t))), tape.fed_at(t), 9)
        self.assertTrue((np.diff(tape.fed) >= 0).all())
        self.assertEqual(tape.when_fed(1e9), float("inf"))
        self.assertAlmostEqual(tape.fed_at(1e9), PLAN.report["filament"]["length_mm"], 3)

    def test_it_fails_what_is_for_another_filament(self):
        self.printer.set_spool(1e6, "ASA")
        failed = self.begin()
        self.assertEqual(failed["phase"], "failed")
        self.assertEqual(failed["reason"], "ASA hangs here; the file is for PLA")
        self.assertEqual(failed["extruded_mm"], 0)
        self.printer.clear()
        self.printer.set_spool(1e6, "PLA")
        self.assertEqual(self.begin(OTHER)["phase"], "heating")

    def test_a_run_begins_once(self):
        self.begin()
        self.after(100)
        again = self.printer.start(RUN, "a.gcode")
        self.assertGreater(again["seconds"], 99)
        self.after(1e5)
        self.assertEqual(self.printer.start(RUN, "a.gcode")["phase"], "done")
        self.printer.clear()
        self.assertEqual(self.printer.start(RUN, "a.gcode")["phase"], "idle")
        self.assertEqual(self.printer.ended(RUN)["phase"], "done")

    def test_one_at_a_time_and_a_clear_bed(self):
        self.begin()
        self.printer.take(OTHER, PLAN.gcode, hashlib.sha256(PLAN.gcode).hexdigest())
        self.assertIn("busy", self.refused(409, self.printer.start, OTHER, "b.gcode"))
        self.refused(409, self.printer.clear)
        self.after(1e5)
        self.assertIn(
            "still lies on the bed", self.refused(409, self.printer.start, OTHER, "b.gcode")
        )
        self.printer.clear()
        self.assertEqual(self.printer.start(OTHER, "b.gcode")["phase"], "heating")

    def test_damaged_unknown_and_empty_files(self):
        self.refused(422, self.printer.take, RUN, PLAN.gcode, "0" * 64)
        self.refused(404, self.printer.start, RUN, "a.gcode")
        self.refused(404, self.printer.ended, RUN)
        empty = b"; nothing\n"
        self.printer.take(RUN, empty, hashlib.sha256(empty).hexdigest())
        self.refused(422, self.printer.start, RUN, "a.gcode")

    def test_pause_stops_time_and_filament(self):
        self.begin()
        self.after(200)
        paused = self.printer.pause(RUN)
        self.assertEqual(self.after(500)["seconds"], paused["seconds"])
        self.refused(409, self.printer.pause, RUN)
        self.printer.resume(RUN)
        self.assertAlmostEqual(self.after(10)["seconds"], paused["seconds"] + 10, 6)
        self.assertEqual(self.printer.cancel(RUN)["phase"], "cancelled")
        self.assertGreater(self.printer.ended(RUN)["extruded_mm"], 0)

    def test_slower_where_it_is_weak(self):
        weak = tape_of(PLAN.gcode.decode(), Limits(), 0.7, 0.0).clock[-1]
        late = tape_of(PLAN.gcode.decode(), Limits(), 1.0, 0.5).clock[-1]
        strong = tape_of(PLAN.gcode.decode(), Limits(), 1.0, 0.0).clock[-1]
        self.assertGreater(weak, strong + 1)
        self.assertAlmostEqual(late, strong + 30 * 0.5, 6)


class Troubles(PrinterCase):
    def test_the_spool_ends_to_the_millimetre(self):
        self.printer.set_spool(50.0)
        self.begin()
        ended = self.after(1e5)
        self.assertEqual((ended["phase"], ended["reason"]), ("paused", "the spool is empty"))
        self.assertAlmostEqual(ended["extruded_mm"], 50.0, 3)
        self.refused(409, self.printer.resume, RUN)
        self.printer.set_spool(1e6)
        self.printer.resume(RUN)
        self.assertEqual(self.after(1e5)["phase"], "done")

    def test_faults_happen_at_their_layer(self):
        self.printer.set_fault({"kind": "jam", "layer": 4})
        self.printer.set_fault({"kind": "thermal", "layer": 9})
        self.refused(422, self.printer.set_fault, {"kind": "boredom"})
        self.begin()
        self.assertEqual((self.after(1e5)["phase"], self.printer.state()["layer"]), ("paused", 4))
        self.printer.resume(RUN)
        failed = self.after(1e5)
        self.assertEqual((failed["phase"], failed["layer"]), ("failed", 9))
        self.assertEqual(self.printer.ended(RUN)["reason"], failed["reason"])

    def test_lost_connection_and_full_storage(self):
        self.printer.set_fault({"kind": "lost-connection", "layer": 2, "for_s": 3})
        self.begin()
        self.after(1e4)
        self.assertTrue(self.printer.silent)
        self.clock.now += 4
        self.assertFalse(self.printer.silent)
        self.printer.set_fault({"kind": "full-storage"})
        self.refused(507, self.printer.take, OTHER, b"G28\n", hashlib.sha256(b"G28\n").hexdigest())
        self.assertEqual(self.printer.state()["free_bytes"], 0)

    def test_what_is_on_disk_is_what_happened(self):
        self.begin()
        before = self.after(250)
        self.clock.now += 1000  # nothing of this was done when the process was killed
        again = self.make()
        state = again.state()
        self.assertEqual(state["phase"], "failed")
        self.assertIn(f"power was lost at layer {before['layer']}", state["reason"])
        self.assertEqual(state["extruded_mm"], before["extruded_mm"])
        self.assertEqual(
            json.loads((Path(self.folder.name) / "state.json").read_text())["phase"], "failed"
        )
