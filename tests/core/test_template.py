"""The language of start and end G-code, and the dialects a file can be written in."""

import re
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from northpace.errors import InputError
from northpace.gcode.read import read_gcode
from northpace.gcode.template import EXAMPLE, FIELDS, check, check_heat, fill
from northpace.plan.pipeline import Pipeline
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import cube, source

PIPELINE = Pipeline()
VALUES = {
    **EXAMPLE,
    "nozzle": 0.6,
    "bed_temp": 60.0,
    "size_z": 240.0,
    "top": 35.5,
    "material": "PETG",
}


class Language(unittest.TestCase):
    def test_fields_sums_and_conditions(self):
        for text, result in (
            ("M140 S{bed_temp}", "M140 S60"),
            ("G1 Z{min(top + 20, size_z)}", "G1 Z55.5"),
            ("G1 Z{round(top) / 4}", "G1 Z9"),
            ("{if nozzle > 0.5}wide{else}fine{end}", "wide"),
            ("{if nozzle < 0.5}fine{end}rest", "rest"),
            ("{if material == 'PETG' and top > 30}a{if nozzle == 0.4}b{else}c{end}{end}", "ac"),
            ("; {material}", "; PETG"),
            ("{-bed_temp + 2 * 5}", "-50"),
            ("{abs(-3)}{max(1, 2)}", "32"),
        ):
            self.assertEqual(fill(text, VALUES, "x"), result)

    def test_a_line_that_only_held_a_condition_is_gone(self):
        self.assertEqual(
            fill("G28\n{if nozzle > 1}\nG29\n{end}\nG92 E0", VALUES, "x"), "G28\nG92 E0"
        )

    def test_what_cannot_be_filled_says_the_line_and_what_is_allowed(self):
        for text, words in (
            ("G28\nM104 S{heat}", "line 2: unknown field {heat}"),
            ("{if nozzle > 1}x", "line 1: {if …} has no {end}"),
            ("{else}", "without an {if"),
            ("{end}", "without an {if"),
            ("{}", "empty braces"),
            ("{bed_temp", "braces do not match"),
            ("bed_temp}", "braces do not match"),
            ("{__import__('os')}", "cannot be worked out"),
            ("{bed_temp.real}", "cannot be worked out"),
            ("{9 ** 9}", "cannot be worked out"),
            ("{1 / 0}", "cannot be worked out"),
            ("{min()}", "cannot be worked out"),
            ("{material + 1}", "cannot be worked out"),
            ("{[1][0]}", "cannot be worked out"),
            ("{if nozzle > 0.5}{bad}{else}{worse}{end}", "unknown field"),
            ("M104 S{1e999}", "cannot be worked out"),
            ("{1e300 * 1e300 - 1}", "cannot be worked out"),
            ("x" * 30_000, "longer than"),
            ("{if 1}" * 30, "nested"),
        ):
            with self.assertRaises(InputError, msg=text) as caught:
                check(text, "machine.start_gcode")
            self.assertIn(words, str(caught.exception))

    def test_both_sides_of_a_condition_are_checked(self):
        with self.assertRaisesRegex(InputError, "worse"):
            check("{if nozzle > 0.5}fine{else}{worse}{end}", "x")

    @given(st.text(alphabet="{}ifelsend nozzle>0.5+-*/()'\n", max_size=60))
    def test_any_text_is_filled_or_refused(self, text):
        try:
            check(text, "x")
        except InputError:
            return
        self.assertNotIn("{", fill(text, EXAMPLE, "x"))

    def test_every_field_stands_for_something_in_a_plan(self):
        text = "; ".join(f"{name} {{{name}}}" for name in FIELDS)
        plan = PIPELINE.plan(source(cube(6)), with_settings(PlanSpec(), [f"ends.end_gcode={text}"]))
        said = plan.gcode.decode().rsplit(";end\n", 1)[1]
        self.assertIn("layers 30", said)
        self.assertIn("top 6", said)
        self.assertIn("material PLA", said)
        low = float(re.search(r"low_x ([\d.]+)", said)[1])
        self.assertAlmostEqual(low, plan.moves.x[plan.moves.width > 0].min(), 3)


class Heat(unittest.TestCase):
    def test_a_template_is_checked_before_its_fields_are_filled(self):
        check_heat("G28\nM109 S{nozzle_temp + 5}\nM190 S{bed_temp}", 280, 110, "start")
        check_heat("M104 {if nozzle > 0.5}S240{else}S220{end} ; wide or fine", 280, 110, "start")
        with self.assertRaisesRegex(InputError, "line 2: asks for 300"):
            check_heat("M104 S{nozzle_temp}\nM104 S300", 280, 110, "start")
        with self.assertRaisesRegex(InputError, "asks for 400"):
            check_heat("M104 {if nozzle > 0.5}S240{else}S400{end}", 280, 110, "start")

    def test_more_heat_than_the_machine_has_is_refused_with_its_line(self):
        hot = "G28\nM104 S{nozzle_temp}\nM109 S510 ; hot"
        for pair, words in (
            (f"ends.start_gcode={hot}", "line 3: asks for 510 °C; the nozzle of this machine goes"),
            ("ends.end_gcode=m190 R{bed_temp + 400}", "line 1: asks for 455 °C; the bed of"),
            ("ends.start_gcode=M104 S{nozzle_temp * 3}", "asks for 630 °C"),
            ("ends.start_gcode=N5 m104s500", "asks for 500 °C"),
            ("ends.start_gcode=M104 T0 S 400.5", "asks for 400.5 °C"),
            ("ends.start_gcode=G28\nM0104 S999", "line 2: asks for 999 °C"),
            ("ends.start_gcode=M+104 S999", "asks for 999 °C"),
            ("ends.start_gcode=M104 S+999", "line 1: heats the nozzle in a way that cannot be"),
            ("ends.start_gcode=M109 S=999", "cannot be checked"),
            ("ends.start_gcode=M104 S9e2", "cannot be checked"),
            ("ends.start_gcode=G28 M104 S200", "cannot be checked"),
            ("ends.start_gcode=T0 S999", "asks for 999 °C"),
            ("ends.start_gcode=T0 S+999", "cannot be checked"),
            ("ends.start_gcode=G10 P0 S999", "asks for 999 °C"),
        ):
            with self.assertRaisesRegex(InputError, words):
                PIPELINE.plan(source(cube(8)), with_settings(PlanSpec(), [pair]))
        fine = ("; M104 S510", "M106 S510", "M104 S{nozzle_temp} ; not S510", "M140 S60", "T0")
        for text in (*fine, "(M104 S510)", "M104 T0 S200", "M1040 S999", "M109 R200", "N3 M104 S0"):
            plan = PIPELINE.plan(
                source(cube(8)), with_settings(PlanSpec(), [f"ends.start_gcode={text}"])
            )
            self.assertIn(text.split("{")[0].encode(), plan.gcode)


class Dialects(unittest.TestCase):
    def plan(self, *pairs):
        return PIPELINE.plan(source(cube(8)), with_settings(PlanSpec(), list(pairs)))

    def test_every_dialect_reads_back_to_the_same(self):
        plain = self.plan()
        for pairs in (
            ("machine.extrusion=absolute",),
            ("machine.acceleration_word=M204 P T",),
            ("machine.fan_scale=0-1",),
            ("machine.comments=layers",),
            (
                "machine.extrusion=absolute",
                "machine.acceleration_word=M204 P T",
                "machine.fan_scale=0-100",
                "machine.comments=layers",
            ),
        ):
            found = self.plan(*pairs)
            read = read_gcode(found.gcode)
            self.assertAlmostEqual(
                read.summary()["time_s"]["total"], plain.report["time_s"]["total"], 3, pairs
            )
            self.assertAlmostEqual(
                read.summary()["filament"]["mass_g"], plain.report["filament"]["mass_g"], 4, pairs
            )
            self.assertLess(np.abs(read.filament - read_gcode(plain.gcode).filament).max(), 1e-5)
            self.assertEqual(
                read.acceleration.tolist(), read_gcode(plain.gcode).acceleration.tolist(), pairs
            )

    def test_what_the_words_are(self):
        text = self.plan(
            "machine.extrusion=absolute",
            "machine.acceleration_word=M204 P T",
            "machine.fan_scale=0-1",
            "machine.comments=layers",
        ).gcode.decode()
        body = text.split(";moves\n")[1]
        self.assertIn("\nM82\n", text)
        self.assertRegex(body, r"M204 P\d+\n")
        self.assertRegex(body, r"M204 T\d+\n")
        self.assertIn("M106 S1\n", body)
        self.assertNotIn(";feature", body)
        self.assertEqual(body.count(";layer "), 40)
        fed = [float(value) for value in re.findall(r"G1 .*?E([\d.]+)", body)]
        self.assertGreater(
            fed[-1], 0.9 * sum(b - a for a, b in zip(fed, fed[1:], strict=False) if b > a)
        )
