"""Bands: several settings that change at one height, measured from the file; and what they leave
alone.
"""

import json
import re
import unittest

import manifold3d as m3
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from northpace.errors import InputError
from northpace.moves import INFILL, INNER, OUTER, SOLID, TOP
from northpace.plan.pipeline import Pipeline
from northpace.spec import Band, PlanSpec, spec_from, with_settings
from northpace.spec.places.bands import merged, repeated
from tests.core.shapes import cube, source

PIPELINE = Pipeline()


def bands(*entries) -> str:
    return "surface.bands=" + json.dumps(
        [{"from_mm": low, "to_mm": high, **rest} for low, high, rest in entries]
    )


def changes(**values) -> dict:
    return {"changes": {name.replace("__", "."): value for name, value in values.items()}}


def plan(solid, *pairs):
    return PIPELINE.plan(source(solid), with_settings(PlanSpec(), list(pairs)))


def commands(text: bytes) -> list[tuple[int, str]]:
    """Heat and fan commands of a file with the number of the layer they stand in (0 before the
    first).
    """
    layer, out = 0, []
    for line in text.decode().splitlines():
        if found := re.match(r";layer (\d+)", line):
            layer = int(found[1])
        elif line == ";end":
            break
        elif re.match(r"M10[4679]|M1[49]0", line):
            out.append((layer, line))
    return out


def collector() -> m3.Manifold:
    """A gutter Ø 40 with near-level ledges inside at 8, 14 and 20 mm: each would get a solid
    bottom.
    """
    wall = m3.Manifold.cylinder(26.0, 20.0, 20.0, 96) - m3.Manifold.cylinder(
        30.0, 18.0, 18.0, 96
    ).translate((0, 0, 2))
    ledges = [
        (
            m3.Manifold.cylinder(2.4, 18.5, 18.5, 96)
            - m3.Manifold.cylinder(3.0, 9.0, 12.0, 96).translate((0, 0, -0.2))
        ).translate((0, 0, z))
        for z in (8, 14, 20)
    ]
    return m3.Manifold.batch_boolean([wall, *ledges], m3.OpType.Add)


class Bands(unittest.TestCase):
    def test_settings_change_at_one_height(self):
        found = plan(
            cube(12),
            bands(
                (
                    4,
                    8,
                    changes(
                        body__walls=1,
                        body__infill_density=50,
                        pace__outer_wall_speed=30,
                        pace__infill_speed=45,
                    ),
                )
            ),
        )
        moves = found.moves
        inside = (moves.layer >= 20) & (moves.layer < 40)
        laid = moves.width > 0
        self.assertFalse((inside & (moves.feature == INNER)).any())
        self.assertTrue(((moves.layer == 19) & (moves.feature == INNER)).any())
        self.assertTrue(((moves.layer == 40) & (moves.feature == INNER)).any())
        self.assertLessEqual(moves.speed[inside & (moves.feature == OUTER)].max(), 30)
        self.assertEqual(moves.speed[(moves.layer == 15) & (moves.feature == OUTER)].max(), 50)
        self.assertLessEqual(moves.speed[inside & (moves.feature == INFILL)].max(), 45)
        # 50 % of what the single wall encloses
        volume = (moves.filament * np.pi * 1.75**2 / 4)[
            inside & laid & (moves.feature == INFILL)
        ].sum()
        self.assertAlmostEqual(volume / ((12 - 2 * 0.407 - 0.043) ** 2 * 4), 0.5, delta=0.02)

    def test_nothing_above_or_below_a_band_changes(self):
        plain, banded = (
            plan(cube(12)),
            plan(
                cube(12), bands((4, 8, changes(body__infill_density=40, pace__outer_wall_speed=30)))
            ),
        )
        for low, high in ((0, 18), (42, 60)):
            one, two = (found.moves for found in (plain, banded))
            chosen = [
                (m.layer >= low) & (m.layer < high) & np.isin(m.feature, (OUTER, INNER, SOLID, TOP))
                for m in (one, two)
            ]
            for name in ("width", "height", "speed"):
                self.assertEqual(
                    sorted(getattr(one, name)[chosen[0]].tolist()),
                    sorted(getattr(two, name)[chosen[1]].tolist()),
                    name,
                )

    def test_ramps_go_from_the_first_layer_to_the_last(self):
        found = plan(
            cube(12),
            bands(
                (
                    2,
                    10,
                    {
                        **changes(body__infill_density=10, air__nozzle_temp=230),
                        "ramps": {"body.infill_density": 60, "air.nozzle_temp": 200},
                    },
                )
            ),
        )
        moves = found.moves
        laid = np.bincount(
            moves.layer[moves.feature == INFILL], moves.filament[moves.feature == INFILL], 60
        )
        self.assertAlmostEqual(
            laid[45] / laid[15], (10 + 50 * 35 / 39) / (10 + 50 * 5 / 39), delta=0.35
        )
        temps = [
            (layer, int(line[6:]))
            for layer, line in commands(found.gcode)
            if line.startswith("M104 S") and layer > 2
        ]
        self.assertEqual(temps[0], (11, 230))
        self.assertEqual(temps[-2], (50, 200))
        self.assertEqual(temps[-1], (51, 205))
        self.assertEqual(
            sorted({t for _, t in temps[:-1]}, reverse=True), [t for _, t in temps[:-1]]
        )

    def test_a_temperature_tower_in_one_action(self):
        made = repeated("nozzle", 6, 8, 30, "air.nozzle_temp", 230, -5)
        self.assertEqual(
            [(b.from_mm, b.to_mm, b.changes["air.nozzle_temp"]) for b in made],
            [(6, 14, 230), (14, 22, 225), (22, 30, 220)],
        )
        found = plan(
            m3.Manifold.cube((10, 10, 30)),
            "surface.bands=" + json.dumps([b.model_dump() for b in made]),
        )
        # layer k tops at 0.2 k: 6 mm ends layer 30
        self.assertEqual(
            [c for c in commands(found.gcode) if c[1].startswith("M104")],
            [
                (0, "M104 S210"),
                (2, "M104 S205"),
                (31, "M104 S230"),
                (71, "M104 S225"),
                (111, "M104 S220"),
            ],
        )

    def test_first_layer_stays_the_first_layer(self):
        found = plan(
            cube(10),
            bands((0, 5, changes(air__nozzle_temp=240, air__fan=40, pace__outer_wall_speed=100))),
        )
        said = commands(found.gcode)
        self.assertEqual(
            [c for c in said if c[1].startswith("M104")],
            [(0, "M104 S210"), (2, "M104 S240"), (26, "M104 S205")],
        )
        self.assertEqual(
            [c for c in said if c[1][:4] in ("M106", "M107")],
            [(0, "M107"), (2, "M106 S102"), (26, "M106 S255")],
        )
        self.assertLessEqual(
            found.moves.speed[(found.moves.layer == 0) & (found.moves.width > 0)].max(), 25
        )

    def test_a_collector_without_solid_ledges(self):
        """One band above the base: bottoms are gone; footing, temperature, fan and first layer
        appear once.
        """
        part = collector()
        plain = plan(part)
        banded = plan(
            part, bands((2, 26, changes(body__bottom_thickness=0, body__bottom_layers=0)))
        )

        def bottoms(found):
            return float(
                found.moves.seconds[
                    np.isin(found.moves.feature, (SOLID,)) & (found.moves.layer >= 10)
                ].sum()
            )

        ledge = plain.report["solid"]["patches"]
        self.assertTrue(any(entry["from_mm"] > 7 for entry in ledge if "bottom" in entry["kinds"]))
        self.assertFalse(
            any(
                entry["from_mm"] > 3 and "bottom" in entry["kinds"]
                for entry in banded.report["solid"]["patches"]
            )
        )
        self.assertLess(bottoms(banded), bottoms(plain))
        for text in (plain.gcode, banded.gcode):
            lines = text.decode().splitlines()
            self.assertEqual(lines.count(";feature footing"), 1)
            self.assertEqual(
                [c for c in commands(text) if c[1].startswith(("M104", "M140", "M106", "M107"))],
                [
                    (0, "M140 S60"),
                    (0, "M104 S210"),
                    (0, "M107"),
                    (2, "M104 S205"),
                    (2, "M140 S55"),
                    (2, "M106 S255"),
                ],
            )
        slow = banded.moves.speed[(banded.moves.layer > 0) & (banded.moves.feature == OUTER)]
        self.assertGreater(slow.max(), 25)

    def test_layers_end_at_edges(self):
        found = plan(cube(12), bands((4.07, 8.33, changes(body__walls=2))))
        for edge in (4.07, 8.33):
            self.assertLess(np.abs(found.outlines.tops - edge).min(), 1e-6)
        self.assertTrue((np.abs(found.outlines.heights - 0.2) < 0.051).all())

    def test_edges_tied_to_layers_foot_top_and_points(self):
        tied = bands(
            (
                0,
                0,
                {
                    **changes(body__walls=1),
                    "from_edge": {"at": "foot"},
                    "to_edge": {"at": "layer", "layer": 30},
                },
            ),
            (
                0,
                0,
                {
                    **changes(body__walls=2),
                    "from_edge": {"at": "point", "z": 8},
                    "to_edge": {"at": "top", "offset": -2},
                },
            ),
        )
        spec = with_settings(PlanSpec(), [tied])
        done = PIPELINE.settled(source(cube(12)), spec)
        self.assertEqual(
            [(round(b.from_mm, 6), round(b.to_mm, 6)) for b in done.surface.bands],
            [(0.6, 6), (8, 10)],
        )
        # a point moves with the part
        scaled = with_settings(PlanSpec(), [tied, "place.scale_z=200"])
        self.assertEqual(
            round(
                PIPELINE.settled(source(cube(12)), scaled).surface.bands[1].from_mm,
                6,
            ),
            16,
        )
        same = PIPELINE.plan(source(cube(12)), spec)
        self.assertEqual(same.outlines.heights.tolist(), plan(cube(12)).outlines.heights.tolist())

    def test_contradictions_in_a_sentence(self):
        for entry, words in (
            (((4, 8, changes(body__walls=-1)),), ("band", "4 to 8", "body.walls", "0 to 50")),
            (((4, 8, changes(body__outer_width=3)),), ("outer_width", "0.24 to 1.2")),
            (((4, 8, changes(place__scale_x=2)),), ("whole part only",)),
            (((4, 8, changes(body__colour=2)),), ("no setting",)),
            (((4, 8, {"ramps": {"body.infill_density": 3}}),), ("ramp", "number")),
            (
                ((4, 8, changes(body__walls=1)), (6, 9, changes(body__walls=2))),
                ("overlap from 6 to 8", "merge"),
            ),
        ):
            with self.assertRaises(InputError) as caught:
                with_settings(PlanSpec(), [bands(*entry)])
            for word in words:
                self.assertIn(word, str(caught.exception))
        with self.assertRaises(InputError) as caught:
            plan(
                cube(12),
                bands(
                    (
                        0,
                        0,
                        {
                            **changes(body__walls=1),
                            "from_edge": {"at": "layer", "layer": 400},
                            "to_edge": {"at": "top"},
                        },
                    )
                ),
            )
        self.assertIn("layer 400; there are 60 layers", str(caught.exception))

    def test_merging_keeps_what_each_says(self):
        one = Band(
            name="a",
            from_mm=2,
            to_mm=8,
            changes={"body.walls": 1, "body.infill_density": 10},
            ramps={"body.infill_density": 70},
        )
        two = Band(name="b", from_mm=6, to_mm=10, changes={"body.walls": 2})
        found = merged((one, two))
        self.assertEqual([(b.from_mm, b.to_mm) for b in found], [(2, 6), (6, 8), (8, 10)])
        self.assertEqual(found[1].changes, {"body.walls": 2, "body.infill_density": 50})
        self.assertEqual(
            [b.ramps for b in found], [{"body.infill_density": 50}, {"body.infill_density": 70}, {}]
        )
        spec_from({"surface": {"bands": [b.model_dump() for b in found]}})

    def test_a_plan_kept_by_an_older_version_is_read(self):
        old = spec_from(
            {
                "surface": {
                    "bands": [
                        {"from_mm": 1, "to_mm": 4, "least_solid_area": 9},
                        {"from_mm": 5, "to_mm": 6, "least_solid_area": None},
                    ]
                }
            }
        )
        self.assertEqual([b.changes for b in old.surface.bands], [{"body.least_solid_area": 9}, {}])


class Properties(unittest.TestCase):
    @settings(max_examples=8)
    @given(
        st.lists(
            st.integers(3, 79).map(lambda tenth: tenth / 10), min_size=2, max_size=4, unique=True
        )
    )
    def test_a_band_without_changes_changes_nothing(self, edges):
        edges = sorted(round(v, 2) for v in edges)
        plain = plan(cube(8))
        banded = plan(
            cube(8),
            bands(
                *(
                    (low, high, {"name": "nothing"})
                    for low, high in zip(edges[::2], edges[1::2], strict=False)
                )
            ),
        )
        for name in ("x", "y", "z", "speed", "filament"):
            self.assertTrue(np.array_equal(getattr(plain.moves, name), getattr(banded.moves, name)))

    @settings(max_examples=6)
    @given(
        st.sampled_from(
            [
                ("body__walls", 3),
                ("body__infill_density", 15.0),
                ("pace__infill_speed", 90.0),
                ("body__infill_pattern", "lines"),
            ]
        ),
        st.integers(1, 15),
        st.integers(1, 20),
    )
    def test_a_band_that_says_what_holds_anyway_changes_nothing(self, change, low, tall):
        name, value = change
        plain, banded = (
            plan(cube(8)),
            plan(cube(8), bands((low * 0.2, (low + tall) * 0.2, changes(**{name: value})))),
        )
        for column in ("x", "y", "z", "speed", "filament"):
            self.assertTrue(
                np.array_equal(getattr(plain.moves, column), getattr(banded.moves, column)), column
            )
