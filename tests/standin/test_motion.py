"""The estimate against the simulated printer, which reads the file and moves by code of its own."""

import unittest

import manifold3d as m3
import numpy as np

from demo.shapes import SHAPES, sample_stl
from northpace.errors import InputError
from northpace.gcode.read import read_gcode
from northpace.motion.learn import Done, learn, retimed
from northpace.plan.source import Source
from northpace.spec import PlanSpec, with_settings
from standin.drive import drive, motor_way
from standin.limits import Limits
from standin.text import read
from tests.core.shapes import PIPELINE, cube, knob, source

#: The plain machine as it states itself.
PLAIN = Limits()
WAYS = (
    ("surface.kind=even",),
    ("surface.kind=adaptive", "surface.target_um=120"),
    ("body.build=spiral", "body.rim=level", "body.outer_contour_only=true"),
)


class AgainstTheEstimate(unittest.TestCase):
    def test_every_sample_even_adaptive_and_spiral(self):
        off, spirals = [], 0
        for name in SHAPES:
            for pairs in WAYS:
                try:
                    plan = PIPELINE.plan(
                        Source.of(sample_stl(name), "a.stl"), with_settings(PlanSpec(), list(pairs))
                    )
                except InputError as refused:
                    self.assertIn("cannot be one spiral", str(refused))
                    continue
                spirals += "body.build=spiral" in pairs
                program = read(plan.gcode.decode(), PLAIN)
                seconds = drive(program, PLAIN)
                off.append(plan.report["time_s"]["total"] / seconds.sum() - 1)
                # layer by layer too, the first with its start and the last with its end apart
                layers = np.bincount(
                    program.layer[program.layer > 0],
                    seconds[program.layer > 0],
                    len(plan.outlines.tops),
                )[1:]
                known = np.array(plan.report["layers"]["seconds"])[1:]
                shown = (known > 1) & (np.arange(len(known)) < np.flatnonzero(known)[-1])
                self.assertLess(np.abs(layers[shown] / known[shown] - 1).max(), 0.05, name)
        self.assertGreaterEqual(spirals, 3)
        self.assertLess(np.abs(off).max(), 0.02)

    def test_machines_whose_axes_are_not_x_y_z(self):
        for axes in ("crossed-belts", "three-columns"):
            limits = Limits(
                axes=axes,
                speed_motor=90,
                push_motor=1200,
                speed_z=120,
                push_z=3000,
                column_radius=110,
                arm=200,
            )
            plain = Limits(speed_z=120, push_z=3000)
            pairs = [
                "machine.bed=round",
                "machine.max_speed_z=120",
                "machine.max_acceleration_z=3000",
                "machine.motor_speed=90",
                "machine.motor_acceleration=1200",
                "machine.column_radius=110",
                "machine.arm_length=200",
                f"machine.axes={axes}",
            ]
            for name in ("mast-clamp", "dome-cap"):
                plan = PIPELINE.plan(
                    Source.of(sample_stl(name), "a.stl"), with_settings(PlanSpec(), pairs)
                )
                program = read(plan.gcode.decode(), limits)
                total = drive(program, limits).sum()
                self.assertAlmostEqual(plan.report["time_s"]["total"] / total, 1, delta=0.02)
                self.assertAlmostEqual(
                    read_gcode(plan.gcode).summary()["time_s"]["total"],
                    plan.report["time_s"]["total"],
                    3,
                )
                # the motors do hold it back, so that the agreement says something
                if axes == "crossed-belts":
                    self.assertGreater(total, 1.02 * drive(program, plain).sum())

    def test_motors_of_moves_that_are_known(self):
        way = np.array([[10.0, 10, 0, 0], [10, 0, 0, 0], [0, 0, 10, 0]])
        self.assertEqual(motor_way(way, Limits(axes="crossed-belts")).tolist(), [20, 10, 0])
        self.assertEqual(motor_way(way, Limits()).tolist(), [0, 0, 0])
        up = motor_way(np.array([[0.0, 0, 10, 0]]), Limits(axes="three-columns"))
        self.assertAlmostEqual(up[0], 10, 6)

    def test_moves_whose_time_is_known(self):
        # from rest to rest at 60 mm/s and 1000 mm/s² (computations §9)
        for way, known in ((100, 1.7267), (1, 0.0632), (0.1, 0.0200)):
            program = read(f"G90\nM204 S1000\nG1 X{way} F3600\n", PLAIN)
            self.assertAlmostEqual(drive(program, PLAIN).sum(), known, delta=0.002)

    def test_what_a_file_says_beside_moves(self):
        program = read(
            "M140 S60\nM190 S60\nM109 S220\nG28\nG4 S2\nM82\nG92 E0\nG1 X10 E1 F600\nG1 X20 "
            "E2\nM83\nG1 X30 E1 ; on\nM107\nG28 X0\n",
            PLAIN,
        )
        self.assertEqual(drive(program, PLAIN)[:4].tolist(), [40 / 0.6, 80.0, 20.0, 2.0])
        self.assertEqual(program.way[:, 3].tolist(), [0, 0, 0, 0, 1, 1, 1])
        self.assertEqual(
            [entry[1:] for entry in program.sets],
            [("bed", 60), ("bed", 60), ("nozzle", 220), ("fan", 0)],
        )

    def test_how_a_file_is_written_does_not_matter_and_what_is_no_number_is_told(self):
        program = read(
            ";layer 1 of 2\r\nM117 what a maker reads, X9\r\n  G1\tX-1.50 Y+.25 "
            "F1200\r\n\r\n;layer 2\r\nG28 X\r\nG1 X4;back\r\nM999 X1",
            PLAIN,
        )
        self.assertEqual(program.way.tolist(), [[-1.5, 0.25, 0, 0], [4, 0, 0, 0]])
        self.assertEqual((program.layer.tolist(), program.speed.tolist()), ([0, 1], [20, 20]))
        for bad in ("G1 X1\nG1 Xten", "G1 X1\nG1 X1.2.3", "G1 X1\nG1 X1e5"):
            with self.assertRaisesRegex(ValueError, "line 2 has a word that is no number: G1 X1?"):
                read(bad, PLAIN)
        self.assertEqual(len(read("", PLAIN).kind), 0)


class Learning(unittest.TestCase):
    """Six jobs on a machine that accelerates by 30 % less than it states, and takes a moment more
    for every layer.
    """

    PARTS = (
        cube(12),
        cube(20),
        knob(),
        m3.Manifold.cylinder(20.0, 8.0, 8.0, 96),
        m3.Manifold.cube((30.0, 6.0, 5.0)),
        m3.Manifold.cube((4.0, 20.0, 30.0)),
    )

    def jobs(self, share, layer_s):
        weak = Limits(
            push_xy=share * PLAIN.push_xy, push_z=share * PLAIN.push_z, push_e=share * PLAIN.push_e
        )
        for part in self.PARTS:
            plan = PIPELINE.plan(
                source(part),
                with_settings(PlanSpec(), ["pace.least_layer_time=0"]),
            )
            program = read(plan.gcode.decode(), weak)
            program.push *= share
            seconds = drive(program, weak)[program.kind == 0].sum() + layer_s * len(
                plan.outlines.tops
            )
            yield Done(plan.moves, len(plan.outlines.tops), float(seconds), plan.spec.machine)

    def test_true_acceleration_and_overhead_are_found(self):
        for share, layer_s in ((0.7, 0.35), (1.0, 0.0)):
            found = learn(list(self.jobs(share, layer_s)))
            self.assertAlmostEqual(found.factor / share, 1, delta=0.05)
            self.assertAlmostEqual(found.layer_s, layer_s, delta=0.05)
            self.assertLess(found.spread, 0.01)
            self.assertEqual(found.jobs, 6)
        self.assertLess(abs(found.before), 0.01)

    def test_what_was_learnt_makes_the_estimate_true(self):
        jobs = list(self.jobs(0.7, 0.35))
        found = learn(jobs)
        machine = [
            f"machine.acceleration_reached={100 * found.factor}",
            f"machine.layer_overhead={found.layer_s}",
            f"machine.estimate_spread={100 * found.spread}",
        ]
        for part, job in zip(self.PARTS[:3], jobs, strict=False):
            plan = PIPELINE.plan(
                source(part),
                with_settings(PlanSpec(), ["pace.least_layer_time=0", *machine]),
            )
            estimate = plan.report["time_s"]["total"] - plan.report["time_s"]["by_feature"]["start"]
            self.assertAlmostEqual(estimate / job.seconds, 1, delta=0.02)
            self.assertAlmostEqual(
                plan.report["time_s"]["spread"], plan.report["time_s"]["total"] * found.spread, 6
            )
            # the file asks for what it asked for before, and reads back to the time that was shown
            self.assertEqual(plan.moves.acceleration.tolist(), job.moves.acceleration.tolist())
            self.assertAlmostEqual(
                read_gcode(plan.gcode).summary()["time_s"]["total"],
                plan.report["time_s"]["total"],
                3,
            )

    def test_jobs_that_are_all_alike_do_not_push_one_figure_against_the_other(self):
        job = next(self.jobs(1.0, 0.0))
        found = learn(
            [
                Done(job.moves, job.layers, share * job.seconds, job.machine)
                for share in (1.07, 1.03, 1.05)
            ]
        )
        self.assertGreater(found.factor, 0.5)
        self.assertLess(found.factor, 1.0)
        self.assertAlmostEqual(
            (retimed(job.moves, job.machine, found.factor) + found.layer_s * job.layers)
            / job.seconds,
            1.05,
            delta=0.01,
        )
        # the machine and our estimate of it differ by a thousandth themselves
        self.assertAlmostEqual(found.before, 0.05, delta=0.002)

    def test_two_jobs_are_too_few(self):
        self.assertIsNone(learn(list(self.jobs(0.7, 0.0))[:2]))

    def test_at_its_own_accelerations_nothing_changes(self):
        job = next(self.jobs(1.0, 0.0))
        self.assertAlmostEqual(
            retimed(job.moves, job.machine, 1.0), float(job.moves.seconds[1:].sum()), 6
        )
