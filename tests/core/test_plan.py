"""Whole plans: file and table agree, stages are kept, findings come out, the command line works."""

import io
import json
import subprocess
import sys
import tempfile
import unittest
from datetime import date
from pathlib import Path
from unittest import mock

import manifold3d as m3
import numpy as np
import pyarrow.parquet

from demo.shapes import SHAPES, sample_stl
from northpace import naming
from northpace.cli import main
from northpace.errors import InputError
from northpace.estimate.quick import _ratios, correction_of, quick
from northpace.gcode import write
from northpace.gcode.read import read_gcode
from northpace.infill import PATTERNS
from northpace.moves import FEATURES, RETRACTION, START, browser_bytes, from_arrow, to_arrow
from northpace.plan.cache import StageCache
from northpace.plan.pipeline import Cancelled, Pipeline
from northpace.plan.source import Source
from northpace.spec import PlanSpec, resolve_heat, settings, spec_from, with_settings
from tests.core.shapes import PIPELINE, cube, organic, source, stl, torus

ROOT = Path(__file__).resolve().parents[2]


class GcodeRoundTrip(unittest.TestCase):
    def test_same_moves_time_and_filament(self):
        for name, data in (
            ("dome-cap", sample_stl("dome-cap")),
            ("torus", stl(torus())),
            ("clamp", sample_stl("mast-clamp")),
        ):
            plan = PIPELINE.plan(Source.of(data, "a.stl"), PlanSpec())
            read = read_gcode(plan.gcode)
            moves, body = plan.moves, slice(1, None)
            self.assertEqual(len(read.x), len(moves) - 1)
            for column in ("x", "y", "z", "filament"):
                np.testing.assert_allclose(
                    getattr(read, column), getattr(moves, column)[body], atol=1e-9, err_msg=name
                )
            np.testing.assert_allclose(read.speed, moves.speed[body], atol=1e-9)
            np.testing.assert_allclose(read.seconds, moves.seconds[body], rtol=1e-6, atol=1e-9)
            np.testing.assert_array_equal(read.layer, moves.layer[body])
            np.testing.assert_array_equal(read.feature, moves.feature[body])
            summary = read.summary()
            self.assertAlmostEqual(summary["time_s"]["total"], plan.report["time_s"]["total"], 3)
            self.assertAlmostEqual(
                summary["filament"]["mass_g"], plan.report["filament"]["mass_g"], 6
            )
            for feature, seconds in plan.report["time_s"]["by_feature"].items():
                self.assertAlmostEqual(
                    summary["time_s"]["by_feature"][feature], seconds, 3, feature
                )

    def test_however_many_moves_are_written_at_once(self):
        part = Source.of(sample_stl("mast-clamp"), "a.stl")
        for pairs in (
            ["air.fan=30", "air.bridge_fan=100"],
            ["machine.extrusion=absolute", "machine.acceleration_word=M204 P T"],
        ):
            spec = with_settings(PlanSpec(), [*pairs, "pace.travel_acceleration=1500"])
            plan = PIPELINE.plan(part, spec)
            outlines, facts = plan.outlines, {"part": "a"}
            found = []
            for at_once in (7, len(plan.moves)):
                with mock.patch.object(write, "AT_ONCE", at_once):
                    found.append(
                        write.write_gcode(plan.moves, spec, outlines.tops, outlines.heights, facts)
                    )
            self.assertEqual(*found)
            self.assertIn(found[0].split(b";moves")[1], plan.gcode)

    def test_foreign_ways_of_writing(self):
        absolute = (
            b"G21\nG90\nM82\nG1 X10 Y0 E1 F600\nG1 X20 E2.5\nG92 E0\nG1 X30 "
            b"E1\nG91\nG1 X-5 Y+5\nG4 P500\nG20\nG90\nG1 X1 Y1\n"
        )
        read = read_gcode(absolute)
        np.testing.assert_allclose(read.x, [10, 20, 30, 25, 25.4])
        np.testing.assert_allclose(read.filament, [1, 1.5, 1, 0, 0])
        self.assertGreater(read.seconds[3], 0.5)

    def test_damaged_files_are_refused(self):
        for data, words in (
            (b"", "no moves"),
            (b"; nothing\nG28\n", "no moves"),
            (b"G1 X1.2.3\n", "line 1"),
            (b"G1 X5\nG1 Y-\n", "line 2"),
            (b'; motion: {"limits": [1]}\nG1 X1\n', "damaged"),
        ):
            with self.assertRaises(InputError) as caught:
                read_gcode(data)
            self.assertIn(words, str(caught.exception))

    def test_heat_and_fan_first_layer_apart(self):
        plan = Pipeline().plan(
            source(cube()),
            with_settings(
                PlanSpec(), ["air.nozzle_temp=200", "air.fan=50", "air.fan_off_layers=3"]
            ),
        )
        text = plan.gcode.decode()
        at = {n: text.index(f";layer {n} z") for n in (1, 2, 3, 4, 5)}
        self.assertTrue(text.index("M109 S210") < at[1] < at[2] < text.index("M104 S200\n") < at[3])
        self.assertEqual(text.count("M106"), 1)
        self.assertTrue(at[4] < text.index("M106 S128") < at[5])
        self.assertTrue(text.rstrip().endswith("G28 X0"))

    def test_fields_of_start_and_end(self):
        plan = Pipeline().plan(
            source(cube()),
            with_settings(PlanSpec(), ["ends.start_gcode=M109 S{nozzle_temp} ;go"]),
        )
        self.assertIn("M109 S210 ;go", plan.gcode.decode())
        for text in ("ends.start_gcode={oops}", "ends.end_gcode={nozzle_temp"):
            with self.assertRaises(InputError):
                Pipeline().plan(source(cube()), with_settings(PlanSpec(), [text]))


class Stages(unittest.TestCase):
    def test_what_did_not_change_is_not_computed_again(self):
        pipeline, part = Pipeline(), source(cube())
        runs = pipeline.cache.runs

        def after(*pairs):
            before = dict(runs)
            pipeline.plan(part, with_settings(PlanSpec(), list(pairs)))
            changed = {stage for stage in runs if runs[stage] != before.get(stage, 0)}
            return {stage for stage in changed if not stage.startswith("check ")}

        # what heights are chosen by knows the times of layers; the heights themselves, and all that
        # is built on them, stay
        choice, moves = {"task", "picked", "stack"}, {"timed", "paces", "amounts"}
        chosen = {"picked", "stack", "heights"}
        late = {"laid", "sequence", "order", "spanned", "parted", "rows", "resting"}
        late |= {"strength"} | moves
        inside = {"walls", "counts", "zones", "gaps", "areas", "skins", "why", "lines"}
        inside |= {"solid", "infill"} | late
        paths = (
            {"outlines", "turns", "shells", "full", "skin_rules", "regions", "leaning", "stands"}
            | {"footing", "split", "voids", "land"}
            | inside
        )
        placed = {"placed", "levels", "profile", "facets", "surface"}
        file = {"mended", "thinned", "part"}
        everything = file | {"heights"} | placed | choice | paths
        self.assertEqual(after(), everything)
        self.assertEqual(after(), set())
        self.assertEqual(after("pace.outer_wall_speed=30"), choice | moves)
        self.assertEqual(after("material.density=1.3"), choice | moves)
        self.assertEqual(
            after("body.infill_density=30"), choice | {"full", "voids", "infill"} | late
        )
        self.assertEqual(after("body.solid_angles=10"), choice | {"lines", "solid"} | late)
        self.assertEqual(
            after("surface.seam=corner"), {"picked", "stack", "heights"} | late - {"laid"}
        )
        self.assertEqual(after("body.walls=2"), choice | inside | {"split", "voids"})
        # where the outlines lie says how long layers take, too
        self.assertEqual(after("surface.outline_offset=-0.1"), choice | chosen | paths)
        self.assertEqual(after("surface.layer_height=0.1"), chosen | paths)
        self.assertEqual(after("surface.target_um=50"), chosen)
        self.assertEqual(after("place.turn_z=30"), everything - file)

    def test_a_request_whose_stages_are_all_known_reads_no_file(self):
        pipeline, data, reads = Pipeline(), stl(cube()), []

        def read():
            reads.append(1)
            return data

        part = Source("a.stl", "the checksum its keeper knows", read)
        for _ in range(3):
            pipeline.plan(part, PlanSpec())
            pipeline.stack(part, PlanSpec())
        self.assertEqual(len(reads), 1)

    def test_the_cache_is_bounded_by_bytes(self):
        cache = StageCache(10_000)
        for k in range(50):
            cache.get("stage", str(k), lambda: type("R", (), {"nbytes": 1000})())
        self.assertLessEqual(cache._bytes, 10_000)
        cache.get("stage", "49", lambda: self.fail("the newest result was dropped"))

    def test_a_result_of_two_names_takes_its_room_once(self):
        cache, large = StageCache(10_000), type("R", (), {"nbytes": 6000})()
        for stage in ("one", "another"):
            cache.get(stage, "a", lambda: large)
        self.assertLess(cache._bytes, 10_000)
        for stage in ("one", "another"):
            cache.get(stage, "a", lambda: self.fail("it was dropped"))
        # it takes its room until the last of its names is gone
        for k in range(20):
            cache.get("stage", str(k), lambda: type("R", (), {"nbytes": 1000})())
            self.assertLessEqual(cache._bytes, 10_000)
        self.assertEqual(cache._bytes, sum(size + 1024 for _, size in cache._kept.values()))

    def test_what_is_not_kept_is_made_over(self):
        cache, made = StageCache(), []
        for _ in range(2):
            cache.get("stage", "a", lambda: made.append(1), keep=False)
        self.assertEqual(len(made), 2)

    def test_cancelling_between_stages(self):
        asked = []
        with self.assertRaises(Cancelled):
            Pipeline().plan(
                source(cube()),
                PlanSpec(),
                progress=lambda stage, _: asked.append(stage),
                cancelled=lambda: len(asked) > 2,
            )
        self.assertEqual(asked, ["load", "layers", "outlines"])

    def test_layer_time_is_held_by_slowing_others_first(self):
        plan = Pipeline().plan(
            source(m3.Manifold.cylinder(6.0, 6.0, 6.0, 64)),
            with_settings(PlanSpec(), ["pace.least_layer_time=8"]),
        )
        np.testing.assert_allclose(plan.timed.layer_seconds[1:-1], 8.0, rtol=0.02)
        outer = (plan.moves.feature == FEATURES.index("outer-wall")) & (plan.moves.layer == 15)
        inner = (plan.moves.feature == FEATURES.index("inner-wall")) & (plan.moves.layer == 15)
        self.assertLess(plan.moves.speed[inner].max(), 80)
        self.assertTrue(
            plan.moves.speed[outer].max() == 50 or plan.moves.speed[inner].max() <= 10.001
        )
        self.assertTrue((plan.moves.speed[plan.moves.width > 0] >= 10 - 1e-3).all())
        self.assertIn("slowed", [finding.code for finding in plan.findings])

    def test_flow_limit(self):
        plan = Pipeline().plan(
            source(cube()),
            with_settings(PlanSpec(), ["pace.infill_speed=500", "pace.inner_wall_speed=500"]),
        )
        self.assertLessEqual(float(plan.moves.flow.max()), 0.9 * 11 + 1e-4)
        inner = plan.moves.speed[plan.moves.feature == FEATURES.index("inner-wall")]
        self.assertAlmostEqual(float(inner.max()), 121.6, 1)
        self.assertIn("flow-limit", [finding.code for finding in plan.findings])
        self.assertGreater(plan.report["time_s"]["total"], plan.report["time_s"]["flow_floor"])

    def test_report_traces_to_the_moves(self):
        plan = PIPELINE.plan(Source.of(sample_stl("sensor-case"), "a.stl"), PlanSpec())
        moves, report = plan.moves, plan.report
        self.assertAlmostEqual(report["time_s"]["total"], float(moves.seconds.sum()), 6)
        self.assertAlmostEqual(
            sum(report["time_s"]["by_feature"].values()), report["time_s"]["total"], 6
        )
        fed = moves.filament[moves.feature != RETRACTION].sum()
        self.assertAlmostEqual(report["filament"]["length_mm"], float(fed), 6)
        self.assertAlmostEqual(sum(report["layers"]["mass_g"]), report["filament"]["mass_g"], 3)
        self.assertAlmostEqual(
            sum(report["layers"]["seconds"]) + float(moves.seconds[moves.feature == START].sum()),
            report["time_s"]["total"],
            3,
        )

    def test_move_table_through_arrow(self):
        plan = Pipeline().plan(source(cube(10)), PlanSpec())
        again = from_arrow(to_arrow(plan.moves))
        np.testing.assert_array_equal(again.x, plan.moves.x)
        self.assertLess(len(browser_bytes(plan.moves, plan.outlines.tops)), 60 * len(plan.moves))
        with self.assertRaises(InputError):
            from_arrow(to_arrow(plan.moves).drop_columns(["x"]))


class Findings(unittest.TestCase):
    def codes(self, solid, *pairs):
        return {
            f.code: f
            for f in Pipeline().plan(source(solid), with_settings(PlanSpec(), list(pairs))).findings
        }

    def test_starts_in_air_and_empty_layers(self):
        solid = cube(10) + m3.Manifold.cube((5.0, 5.0, 5.0)).translate((20, 0, 6))
        found = self.codes(solid)
        self.assertEqual(found["starts-in-air"].severity, "stop")
        self.assertAlmostEqual(found["starts-in-air"].z_mm, 6.2, 6)
        self.assertIn("empty-layer", self.codes(cube(10) + cube(10).translate((0, 0, 15))))

    def test_overhang_and_too_thin(self):
        self.assertIn(
            "open-bottom",
            self.codes(cube(10) + m3.Manifold.cube((30.0, 10.0, 5.0)).translate((0, 0, 10))),
        )
        self.assertIn(
            "too-thin",
            self.codes(cube(10) + m3.Manifold.cube((0.2, 10.0, 10.0)).translate((20, 0, 0))),
        )
        self.assertNotIn("overhang", self.codes(cube(10)))


class QuickEstimate(unittest.TestCase):
    def test_walls_and_what_lies_between_are_corrected_together_where_one_is_taken_for_the_other(
        self,
    ):
        # a comb of ribs, planned: four times the beads between walls that the quick figures saw
        plain = {"outer-wall": 3500.0, "inner-wall": 2500.0, "gap": 180.0, "solid": 400.0}
        exact = {"outer-wall": 2800.0, "inner-wall": 2000.0, "gap": 770.0, "solid": 500.0}
        found = _ratios({**plain, "start": 100.0, "infill": 0.2}, exact, ("start",))
        together = 5570 / 6180
        self.assertEqual(
            found, {**dict.fromkeys(("outer-wall", "inner-wall", "gap"), together), "solid": 1.25}
        )
        # the time of that plan is still its own
        self.assertAlmostEqual(
            sum(found[name] * value for name, value in plain.items()), sum(exact.values())
        )
        # as many of them, or half, are a ratio of their own
        found = _ratios(plain, {**exact, "gap": 100.0}, ())
        self.assertEqual(found["gap"], 100 / 180)
        self.assertEqual(found["outer-wall"], 0.8)

    def test_near_the_exact_plan(self):
        pipeline = PIPELINE
        for name in ("dome-cap", "anemometer-cup", "mast-clamp"):  # round, thin all over, solid
            data, spec = sample_stl(name), PlanSpec()
            exact = pipeline.plan(Source.of(data, "a.stl"), spec).report
            shape = pipeline.profile(Source.of(data, "a.stl"), spec)
            plain = quick(shape, spec, np.array(exact["layers"]["heights_mm"])).figures(spec)
            self.assertAlmostEqual(
                plain["time_s"]["total"] / exact["time_s"]["total"], 1, delta=0.25, msg=name
            )
            # corrected by the exact plan: the change of one setting within a tenth
            for pair in (
                "surface.layer_height=0.12",
                "body.infill_density=40",
                "pace.outer_wall_speed=30",
            ):
                changed = with_settings(spec, [pair])
                wanted = pipeline.plan(Source.of(data, "a.stl"), changed).report["time_s"]["total"]
                factors = correction_of(exact, shape, spec)
                got = quick(
                    shape,
                    changed,
                    pipeline.stack(Source.of(data, "a.stl"), changed, factors).heights,
                    factors,
                ).figures(changed)["time_s"]["total"]
                self.assertAlmostEqual(got / wanted, 1, delta=0.1, msg=f"{name} {pair}")

    def test_another_infill_pattern_is_told_within_a_tenth(self):
        for data in (sample_stl("gauge-body"), stl(cube(30)), sample_stl("mast-clamp")):
            part = Source.of(data, "a.stl")
            spec = with_settings(PlanSpec(), ["body.infill_pattern=gyroid"])
            shape = PIPELINE.profile(part, spec)
            known = correction_of(PIPELINE.plan(part, spec).report, shape, spec)
            for name in PATTERNS:
                other = with_settings(spec, [f"body.infill_pattern={name}"])
                exact = PIPELINE.plan(part, other).report
                found = quick(shape, other, np.array(exact["layers"]["heights_mm"]), known)
                seconds, length = sum(found.seconds.values()), sum(found.filament.values())
                self.assertAlmostEqual(seconds / exact["time_s"]["total"], 1, delta=0.1, msg=name)
                self.assertAlmostEqual(
                    length / exact["filament"]["length_mm"], 1, delta=0.05, msg=name
                )


class SpecRules(unittest.TestCase):
    def test_every_setting_declares_what_a_form_needs(self):
        names = [entry["name"] for entry in settings()]
        self.assertEqual(len(names), len(set(names)))
        for entry in settings():
            self.assertTrue(entry["help"].endswith("."), entry["name"])
            self.assertTrue(entry["label"])
            if entry["type"] in ("number", "integer"):
                self.assertIsNotNone(entry["min"], entry["name"])
                self.assertIsNotNone(entry["max"], entry["name"])
            if entry["default"] is None:
                self.assertTrue(
                    entry["source"] or entry["name"] == "material.usable_mass", entry["name"]
                )

    def test_every_number_is_refused_beyond_its_bounds(self):
        for entry in settings():
            if entry["type"] not in ("number", "integer"):
                continue
            for value in (entry["min"] - 1, entry["max"] + 1, "nan", "inf", "word"):
                with self.assertRaises(InputError, msg=f"{entry['name']}={value}") as caught:
                    with_settings(PlanSpec(), [f"{entry['name']}={value}"])
                self.assertIn(entry["name"], str(caught.exception))

    def test_contradictions_name_both_sides(self):
        for pairs, words in (
            (["surface.layer_height=0.31"], "0.08 to 0.3 mm"),
            (["surface.layer_height=0.205"], "multiples of 0.01"),
            (["body.outer_width=0.15"], "wider than the tallest layer"),
            (["body.outer_width=1.3"], "0.24 to 1.2"),
            (["air.nozzle_temp=300"], "too hot"),
            (["air.bed_temp=120"], "bed of"),
            (["place.down_z=0"], "direction"),
            (["nothing.here=1"], "no setting"),
            (["body.walls"], "group.name=value"),
        ):
            with self.assertRaises(InputError) as caught:
                with_settings(PlanSpec(), pairs)
            self.assertIn(words, str(caught.exception))

    def test_values_left_open_come_from_the_material(self):
        spec = with_settings(PlanSpec(), ["air.nozzle_temp=199", "air.fan=none"])
        heat = resolve_heat(spec)
        self.assertEqual(
            (heat["nozzle_temp"], heat["fan"], heat["least_layer_time"]), (199, 100, 6)
        )

    def test_unknown_groups_and_settings(self):
        for data in ({"oops": {}}, {"body": {"wals": 2}}):
            with self.assertRaises(InputError):
                spec_from(data)


class Names(unittest.TestCase):
    values = {"time": "1h00", "part": "Dome cap", "material": "PETG", "plan": "4"}

    def test_default_template(self):
        self.assertEqual(
            naming.file_name(naming.DEFAULT_TEMPLATE, self.values, 32),
            "1h00_dome-cap_petg_p4.gcode",
        )

    def test_only_safe_characters_and_the_limit(self):
        values = {**self.values, "part": "../../Ä ridiculously long näme; rm -rf /" * 5}
        for limit in (16, 24, 32, 64):
            name = naming.file_name(naming.DEFAULT_TEMPLATE, values, limit)
            self.assertLessEqual(len(name), limit)
            self.assertRegex(name, r"^[A-Za-z0-9._-]+\.gcode$")
            self.assertNotIn("..", name)

    def test_what_a_name_says_of_a_plan(self):
        spec = with_settings(PlanSpec(), ["body.infill_density=30", "supports.enabled=true"])
        template = "{part}_{layer}_{infill}_{supports}_{build}_{copies}_{date}"
        day = date(2026, 11, 29)
        for heights, word in (([0.2, 0.2], "0.2"), ([0.3, 0.08, 0.12], "0.08-0.3")):
            values = {**self.values, **naming.words_of(spec, heights, day, 4)}
            self.assertEqual(
                naming.file_name(template, values, 99),
                f"dome-cap_{word}_30_supports_ordinary_4_2026-11-29.gcode",
            )

    def test_wrong_templates(self):
        for template in ("", "plain", "{oops}", "{part"):
            with self.assertRaises(InputError):
                naming.check_template(template)

    def test_time_word(self):
        self.assertEqual(
            [naming.time_word(s) for s in (29, 3600, 5399, 90000)],
            ["0h00", "1h00", "1h30", "25h00"],
        )


class CommandLine(unittest.TestCase):
    def run_main(self, *arguments):
        out, err = io.StringIO(), io.StringIO()
        with mock.patch("sys.stdout", out), mock.patch("sys.stderr", err):
            code = main(list(arguments))
        return code, out.getvalue(), err.getvalue()

    def test_plan_and_check_agree(self):
        with tempfile.TemporaryDirectory() as folder:
            part, gcode, report, moves = (
                str(Path(folder) / name) for name in ("p.stl", "p.gcode", "p.json", "p.parquet")
            )
            self.assertEqual(self.run_main("sample", "mast-clamp", "--out", part)[0], 0)
            code, out, err = self.run_main(
                "plan",
                part,
                "--set",
                "body.walls=2",
                "--gcode",
                gcode,
                "--report",
                report,
                "--moves",
                moves,
            )
            self.assertEqual((code, err), (0, ""))
            code, out, _ = self.run_main("check-gcode", gcode)
            made, read = json.loads(Path(report).read_text()), json.loads(out)
            self.assertAlmostEqual(made["time_s"]["total"], read["time_s"]["total"], 3)
            self.assertAlmostEqual(made["filament"]["mass_g"], read["filament"]["mass_g"], 5)
            self.assertEqual(pyarrow.parquet.read_table(moves).num_rows, made["paths"]["moves"])
            self.assertEqual(
                set(made["elapsed_s"]),
                {
                    "load",
                    "layers",
                    "outlines",
                    "paths",
                    "motion",
                    "checks",
                    "gcode",
                    "total",
                },
            )
            self.assertEqual(self.run_main("profile", part)[0], 0)

    def test_plans_are_compared(self):
        with tempfile.TemporaryDirectory() as folder:
            part, report = (str(Path(folder) / name) for name in ("p.stl", "r.json"))
            Path(part).write_bytes(stl(cube(8)))
            code, out, err = self.run_main(
                "compare",
                part,
                "--set",
                "pace.least_layer_time=0",
                "--with",
                "body.walls=2",
                "body.infill_density=10",
                "--with",
                "pace.infill_speed=40",
                "--report",
                report,
            )
            self.assertEqual((code, err), (0, ""))
            rows = {
                line.split()[0]: line.split()[1:]
                for line in out.splitlines()
                if line.startswith(("body.", "pace."))
            }
            self.assertEqual(rows["body.walls"], ["3", "2", "3"])
            totals = json.loads(Path(report).read_text())["totals"][0]["values"]
            self.assertAlmostEqual(
                totals[0],
                PIPELINE.plan(
                    source(cube(8)),
                    with_settings(PlanSpec(), ["pace.least_layer_time=0"]),
                ).report["time_s"]["total"],
                6,
            )
            self.assertLess(totals[1], totals[0])

    def test_changes_are_proposed(self):
        with tempfile.TemporaryDirectory() as folder:
            part, report = (str(Path(folder) / name) for name in ("p.stl", "r.json"))
            Path(part).write_bytes(stl(cube(8)))
            code, out, err = self.run_main(
                "propose",
                part,
                "--set",
                "pace.least_layer_time=0",
                "--families",
                "pace",
                "--give",
                "10",
                "--seconds",
                "20",
                "--report",
                report,
            )
            self.assertEqual((code, err), (0, ""))
            found = json.loads(Path(report).read_text())
            self.assertIn(found["chain"][-1]["sentence"], out)
            self.assertEqual(
                {one["family"] for one in (*found["singles"], *found["chain"])}, {"pace"}
            )
            for arguments in (
                ["compare", part],
                ["propose", part, "--give", "70"],
                ["propose", part, "--keep", "body.wals"],
                ["plan", part, "--report", f"{folder}/report.docx"],
                ["plan", part, "--moves", f"{folder}/moves.json"],
                ["compare", part, "--with", "body.walls=2", "--report", f"{folder}/c.docx"],
            ):
                code, _, err = self.run_main(*arguments)
                self.assertEqual((code, len(err.strip().splitlines())), (2, 1), arguments)

    def test_wrong_input_is_one_line_and_exit_2(self):
        with tempfile.TemporaryDirectory() as folder:
            part = str(Path(folder) / "p.stl")
            Path(part).write_bytes(stl(cube()))
            broken = str(Path(folder) / "b.json")
            Path(broken).write_text("{")
            for arguments in (
                ["plan", part, "--set", "body.walls=99"],
                ["plan", part + "x"],
                ["plan", part, "--spec", broken],
                ["plan", part, "--moves", "a.txt"],
                ["sample", "nothing", "--out", part],
                ["check-gcode", part],
                ["plan", part, "--set", "place.scale_x=5000"],
            ):
                code, _, err = self.run_main(*arguments)
                self.assertEqual(code, 2, arguments)
                self.assertEqual(len(err.strip().splitlines()), 1, arguments)

    def test_settings_as_a_process(self):
        result = subprocess.run(
            [sys.executable, "-m", "northpace", "settings", "--json"],
            cwd=ROOT,
            capture_output=True,
            text=True,
            check=True,
        )
        self.assertEqual(json.loads(result.stdout), json.loads(json.dumps(settings())))


class Samples(unittest.TestCase):
    def test_every_sample_is_closed_and_plans(self):
        for name in SHAPES:
            plan = PIPELINE.plan(Source.of(sample_stl(name), "a.stl"), PlanSpec())
            self.assertEqual(plan.report["part"]["mended"], [], name)
            self.assertEqual([f.code for f in plan.findings if f.severity == "stop"], [], name)

    def test_stated_dimensions(self):
        self.assertEqual(
            [
                round(v, 3)
                for v in PIPELINE.plan(
                    Source.of(sample_stl("dome-cap"), "a.stl"), PlanSpec()
                ).report["part"]["size_mm"]
            ],
            [60, 60, 36],
        )

    def test_an_organic_body_plans(self):
        self.assertGreater(
            Pipeline().plan(source(organic(48, 40)), PlanSpec()).report["filament"]["mass_g"],
            5,
        )
