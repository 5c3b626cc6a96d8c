"""A plan as a file: read back to the same plan, opened by others as a part, refused when broken."""

from __future__ import annotations

import io
import json
import tempfile
import unittest
import zipfile
from pathlib import Path
from unittest import mock

from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.cli import main
from northpace.errors import InputError
from northpace.part.load import load_bodies
from northpace.plan import file as plan_file
from northpace.plan.file import PLAN, PlanFile, read_plan, write_plan
from northpace.plan.pipeline import Pipeline
from northpace.plan.source import Source
from northpace.spec import spec_from
from tests.core.shapes import cube, stl

SOURCE = Source.of(stl(cube(12)), "block (2).stl")
PIPELINE = Pipeline()
BOX = {"shape": "box", **dict.fromkeys(("x", "y", "z", "size_x", "size_y", "size_z"), 4.0)}


def written(spec, source=SOURCE, correction=None, name="block"):
    file = PlanFile(source, spec, name, correction)
    return write_plan(file, PIPELINE.placed(source, spec))


HARMED = written(spec_from({}))


def changed(data, **entries):
    """An archive with some of its entries replaced, or left out where they are None."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w") as new:
        for name in old.namelist():
            short = name.rsplit("/", 1)[-1].split(".")[0].split(" ")[0]
            if short not in entries:
                new.writestr(name, old.read(name))
            elif entries[short] is not None:
                new.writestr(name, entries[short])
    return out.getvalue()


class Files(unittest.TestCase):
    @settings(max_examples=30)
    @given(
        walls=st.integers(1, 6),
        density=st.floats(0, 100),
        turned=st.floats(-180, 180),
        name=st.text(max_size=30),
        kind=st.sampled_from(["even", "adaptive", "best-fit"]),
        by=st.floats(-80, 80),
        band=st.floats(1, 5),
        ratio=st.none() | st.floats(0.5, 2),
    )
    def test_what_is_written_is_read(self, walls, density, turned, name, kind, by, band, ratio):
        spec = spec_from(
            {
                "body": {
                    "walls": walls,
                    "infill_density": density,
                    "regions": [{**BOX, "changes": {"body.infill_density": 70.0}}],
                },
                "place": {"turn_z": turned},
                "surface": {
                    "kind": kind,
                    "strokes": [{"from_mm": 1.0, "to_mm": 4.0, "by": by}],
                    "bands": [{"name": name, "from_mm": band, "to_mm": 6.0, "worst_um": 90.0}],
                },
                "material": {"quick": [{"machine": name, "infill_speed": 120.0}]},
            }
        )
        correction = None if ratio is None else {"time": {"infill": ratio}}
        found = read_plan(written(spec, correction=correction, name=name))
        self.assertEqual(found.spec, spec)
        self.assertEqual((found.name, found.correction), (name, correction))
        self.assertEqual(found.source.key, SOURCE.key)
        self.assertEqual(found.source.read(), SOURCE.read())

    def test_the_same_plan_comes_of_it(self):
        spec = spec_from({"surface": {"kind": "adaptive"}, "place": {"turn_x": 30.0}})
        data = written(spec)
        self.assertEqual(data, written(spec))
        found = read_plan(data)
        one, two = (Pipeline().plan(*each) for each in ((SOURCE, spec), found[:2]))
        self.assertEqual(one.gcode, two.gcode)

    def test_others_see_the_part_as_it_stands(self):
        spec = spec_from({"place": {"turn_x": 45.0}})
        (body,) = load_bodies(written(spec), "any.3mf")
        low, high = body.vertices.min(axis=0), body.vertices.max(axis=0)
        self.assertAlmostEqual(low[2], 0, 4)
        self.assertAlmostEqual(high[2], 12 * 2**0.5, 3)

    def test_a_mesh_file_is_no_plan(self):
        self.assertIsNone(read_plan(SOURCE.read()))
        spec = spec_from({})
        self.assertIsNone(read_plan(changed(written(spec), plan=None)))
        self.assertIsNone(read_plan(changed(written(spec), plan=json.dumps({"format": "other"}))))

    def test_a_damaged_one_is_refused_with_a_word(self):
        data = written(spec_from({}))
        plan = json.loads(zipfile.ZipFile(io.BytesIO(data)).read(PLAN))
        for entries, word in (
            ({"block": b"another part"}, "not the one it was made for"),
            ({"block": None}, "lacks"),
            ({"plan": b"{"}, "no JSON"),
            ({"plan": json.dumps({**plan, "spec": [1]})}, "no settings"),
            ({"plan": json.dumps({**plan, "part": "../../etc/passwd"})}, "which part"),
        ):
            with self.subTest(word), self.assertRaisesRegex(InputError, word):
                read_plan(changed(data, **entries))
        with self.assertRaisesRegex(InputError, "damaged or cut short"):
            read_plan(data[: len(data) // 2])
        with (
            mock.patch.object(plan_file, "MOST_SETTINGS", 500),
            self.assertRaisesRegex(InputError, "that is refused"),
        ):
            read_plan(data)

    def test_settings_made_to_do_harm_are_refused_or_read(self):
        data = written(spec_from({}))
        plan = json.loads(zipfile.ZipFile(io.BytesIO(data)).read(PLAN))
        deep = b"[" * 200_000 + b"]" * 200_000
        with self.assertRaisesRegex(InputError, "cannot be read"):
            read_plan(changed(data, plan=deep))
        band = {"least_solid_area": 1, "changes": [1], "from_mm": 1, "to_mm": 2}
        for spec in (
            {"surface": {"bands": [band]}},
            {"surface": {"bands": {"a": 1}, "strokes": "x"}},
            {"body": {"regions": [[]], "walls": float("nan")}},
            {"machine": {"bed_points": [[1]], "head": [None]}, "material": {"quick": [7]}},
            {"nothing": {"known": [[[]]]}, "pace": {"by_hand": 3}},
        ):
            with self.subTest(spec=spec):
                packed = changed(data, plan=json.dumps({**plan, "spec": spec}))
                try:
                    found = read_plan(packed)
                except InputError:
                    continue
                # what is not allowed is left out; what stands keeps to the bounds
                self.assertEqual(spec_from(found.spec.model_dump()), found.spec)

    @settings(max_examples=60)
    @given(at=st.floats(0, 1), byte=st.integers(0, 255))
    def test_a_changed_byte_is_no_other_plan(self, at, byte):
        data = bytearray(HARMED)
        data[int(at * (len(data) - 1))] = byte
        try:
            found = read_plan(bytes(data))
        except InputError:
            return
        if found is not None:
            self.assertEqual(found.source.read(), SOURCE.read())

    def test_on_the_command_line(self):
        with tempfile.TemporaryDirectory() as folder:
            part, saved, one, two = (
                Path(folder) / name for name in ("block.stl", "block.3mf", "1.gcode", "2.gcode")
            )
            part.write_bytes(SOURCE.read())
            own = ["--set", "body.walls=2", "--set", "pace.dial=70"]
            with mock.patch("builtins.print"):
                for words in (
                    [str(part), *own, "--gcode", str(one), "--save", str(saved)],
                    [str(saved), "--gcode", str(two)],
                ):
                    with mock.patch("sys.argv", ["northpace", "plan", *words]):
                        self.assertFalse(main())
            self.assertEqual(one.read_bytes(), two.read_bytes())
