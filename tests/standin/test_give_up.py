"""A placing of a bed is given up while the simulated printer lays it; the rest goes on."""

import hashlib
import tempfile
import unittest
from pathlib import Path

import numpy as np

from northpace.beds.write import write_bed
from standin.limits import Limits
from standin.printer import Printer
from standin.tape import tape_of, without
from tests.beds.shapes import SPARSE, at, bed_of
from tests.standin.test_printer import RUN, Clock, PrinterCase

LABELS = (*SPARSE, "machine.object_labels=M486", "machine.extrusion=relative")
PLACES = [at("pin", -30), at("pin"), at("pin", 30)]


def bed(**said):
    return bed_of(*PLACES, pairs=LABELS, **said).laid


class GiveUp(PrinterCase):
    def begin_bed(self, **said):
        data = write_bed(bed(**said), {})
        self.printer.take(RUN, data, hashlib.sha256(data).hexdigest())
        return self.printer.start(RUN, "bed.gcode")

    def test_what_is_left_of_it_is_not_laid_and_the_others_are(self):
        total = self.begin_bed()["total_s"]
        laid = bed()
        fed = [float(laid.moves.filament[(laid.placing == k)].sum()) for k in range(3)]
        warm = float(laid.moves.seconds[0])
        half = self.after(warm + (total - warm) / 2)
        given = self.printer.give_up(RUN, 1)
        self.assertEqual(given["given_up"], [1])
        self.assertLess(given["total_s"], total)
        self.assertGreaterEqual(given["total_s"], half["seconds"])
        self.assertEqual(self.printer.give_up(RUN, 1)["total_s"], given["total_s"])
        self.after(total)
        done = self.printer.ended(RUN)
        self.assertEqual((done["phase"], done["layer"]), ("done", done["layers"]))
        # nearly half of the one is left out, nothing of the others
        missing = sum(fed) - done["extruded_mm"]
        self.assertGreater(missing, 0.3 * fed[1])
        self.assertLess(missing, 0.7 * fed[1])

    def test_given_up_in_turn_before_it_begins_it_takes_no_time(self):
        total = self.begin_bed(way="in-turn")["total_s"]
        order = [group[0] for group in bed_of(*PLACES, pairs=LABELS, way="in-turn").groups]
        self.after(total / 4)
        left = self.printer.give_up(RUN, order[-1])
        laid = bed(way="in-turn")
        last = float(laid.moves.seconds[laid.placing == order[-1]].sum())
        self.assertAlmostEqual(total - left["total_s"], last, delta=0.05 * last)
        self.after(total)
        self.assertEqual(self.printer.ended(RUN)["phase"], "done")

    def test_the_rest_goes_where_it_went(self):
        tape = tape_of(write_bed(bed(), {}).decode(), Limits(), 1.0, 0.0)
        at_s = float(tape.clock[-1]) / 3
        less = without(tape, 2, at_s, Limits(), 1.0, 0.0)
        ends = np.cumsum(tape.program.way[:, :3], axis=0)
        kept = (tape.program.thing != 2) | (np.r_[0, tape.clock[:-1]] <= at_s)
        np.testing.assert_allclose(
            np.cumsum(less.program.way[:, :3], axis=0), ends[kept], atol=1e-6
        )
        np.testing.assert_array_equal(less.program.thing, tape.program.thing[kept])
        # what was done stays as it was
        done = int(np.searchsorted(tape.clock, at_s))
        np.testing.assert_allclose(less.clock[:done], tape.clock[:done])

    def test_refused_where_it_makes_no_sense(self):
        self.refused(409, self.printer.give_up, RUN, 1)
        self.begin_bed()
        self.assertIn("no label 7", self.refused(422, self.printer.give_up, RUN, 7))

    def test_a_file_without_labels_says_so(self):
        with tempfile.TemporaryDirectory() as folder:
            printer = Printer(Path(folder), Limits(), "Bench", clock=Clock())
            data = write_bed(bed_of(*PLACES, pairs=SPARSE).laid, {})
            printer.take(RUN, data, hashlib.sha256(data).hexdigest())
            printer.start(RUN, "bed.gcode")
            self.assertIn("no label", self.refused(422, printer.give_up, RUN, 1))


if __name__ == "__main__":
    unittest.main()
