"""Every finding: a part that shows it and one that does not, with its place and what it
proposes.
"""

import unittest
from dataclasses import replace

import manifold3d as m3
import numpy as np

from northpace.checks.by_cause import NOTHING_BELOW, by_cause
from northpace.checks.facts import Facts
from northpace.checks.finding import MOST_PLACES, Finding
from northpace.checks.mended import mended
from northpace.checks.rebuilt import rebuilt
from northpace.part.notes import Mending
from northpace.plan.source import Source
from northpace.proposals.proposal import new_findings
from northpace.spec import Mesh, PlanSpec, with_settings
from tests.core.shapes import PIPELINE, cube, knob, source, stl
from tests.core.test_travel import lettering


def box(x, y, z, at=(0.0, 0.0, 0.0)) -> m3.Manifold:
    return m3.Manifold.cube((float(x), float(y), float(z))).translate(at)


def table(span: float) -> m3.Manifold:
    """Two legs and a board across."""
    return box(4, 10, 6) + box(4, 10, 6, (4 + span, 0, 0)) + box(8 + span, 10, 2, (0, 0, 6))


def mushroom(lean: float) -> m3.Manifold:
    """A foot that widens by a slope leaning out by so many degrees from upright."""
    rise = 6.0
    return m3.Manifold.cylinder(4.0, 5.0, 5.0, 64) + m3.Manifold.cylinder(
        rise, 5.0, 5.0 + rise * np.tan(np.radians(lean)), 64
    ).translate((0, 0, 4))


def hinge(room: float) -> m3.Manifold:
    """A pin in a bore with some room around it."""
    block = box(14, 14, 3, (-7, -7, 0)) - m3.Manifold.cylinder(3.0, 3.0 + room, 3.0 + room, 64)
    return block + m3.Manifold.cylinder(3.0, 3.0, 3.0, 64)


SLIM = box(3, 3, 60)
WIDE = box(90, 90, 1)
POSTS = sum(
    (box(4, 4, 3, (6 * i + 2, 6 * j + 2, 5)) for i in range(6) for j in range(6)), box(38, 38, 6)
)
TENT = m3.Manifold.cylinder(8.0, 8.0, 0.5, 64)

#: Code, the part and settings that show it, the part and settings that do not.
CONE = m3.Manifold.cylinder(14.0, 20.0, 9.0, 96)
CASES: list[tuple[str, tuple, tuple]] = [
    (
        "empty-layer",
        (cube(5) + cube(5).translate((0, 0, 8)),),
        (cube(5) + cube(5).translate((0, 0, 5)),),
    ),
    (
        "free-span",
        (m3.Manifold.sphere(8, 64), "body.infill_density=0"),
        (cube(10), "body.infill_density=0"),
    ),
    (
        "starts-in-air",
        (cube(10) + box(5, 5, 5, (20, 0, 6)),),
        (cube(10) + box(5, 5, 11, (20, 0, 0)),),
    ),
    (
        "starts-in-air",
        (cube(10) + box(5, 5, 5, (20, 0, 6)),),
        (cube(10) + box(5, 5, 5, (20, 0, 6)), "supports.enabled=true"),
    ),
    ("overhang", (mushroom(65),), (mushroom(40),)),
    ("overhang", (mushroom(65),), (mushroom(65), "supports.angle=70")),
    ("open-bottom", (cube(10) + box(30, 10, 3, (0, 0, 10)),), (box(30, 10, 13),)),
    ("long-bridge", (table(25),), (table(8),)),
    (
        "gap",
        (box(30, 2.6, 3), "body.fill_gaps=false", "body.infill_density=100"),
        (box(30, 2.6, 3), "body.infill_density=100"),
    ),
    (
        "too-thin",
        (cube(10) + box(0.2, 10, 10, (20, 0, 0)),),
        (cube(10) + box(0.4, 10, 10, (20, 0, 0)),),
    ),
    ("fuses", (hinge(0.1),), (hinge(0.4),)),
    (
        "narrow-slot",
        (box(14, 14, 3) - box(0.1, 10, 3, (7, -1, 0)),),
        (box(14, 14, 3) - box(0.6, 10, 3, (7, -1, 0)),),
    ),
    (
        "tiny-solid",
        (POSTS, "body.least_solid_area=0.5", "body.walls=1"),
        (box(38, 38, 6), "body.least_solid_area=0.5", "body.walls=1"),
    ),
    (
        "region-outside",
        (cube(8), 'body.regions=[{"shape": "ball", "x": 40, "reach": 3}]'),
        (cube(8), 'body.regions=[{"shape": "ball", "reach": 3}]'),
    ),
    (
        "edge-in-layer",
        (cube(8), 'surface.bands=[{"from_mm": 2, "to_mm": 2.5, "height_mm": 0.3}]'),
        (cube(8), 'surface.bands=[{"from_mm": 2, "to_mm": 2.6, "height_mm": 0.3}]'),
    ),
    (
        "thin-top",
        (box(30, 30, 6), "body.infill_density=3"),
        (box(30, 30, 6), "body.infill_density=20"),
    ),
    ("open-by-design", (cube(8), "body.top_thickness=0", "body.top_layers=0"), (cube(8),)),
    (
        "open-by-design",
        (cube(8), "body.bottom_thickness=0", "body.bottom_layers=0"),
        (cube(8), "body.infill_density=100"),
    ),
    ("too-tall", (SLIM, "machine.size_z=50"), (SLIM, "machine.size_z=60")),
    (
        "too-tall",
        (SLIM, "machine.size_z=60", "footing.raft_layers=2"),
        (SLIM, "machine.size_z=62", "footing.raft_layers=2"),
    ),
    ("outside-bed", (cube(10), "place.shift_x=108"), (cube(10), "place.shift_x=98")),
    (
        "outside-bed",
        (cube(10), "machine.bed=round", "machine.size_x=20"),
        (cube(10), "machine.bed=round", "machine.size_x=40"),
    ),
    ("small-contact", (SLIM,), (box(20, 20, 60),)),
    ("small-contact", (SLIM,), (SLIM, "footing.brim_reach=6")),
    ("lifting-corners", (WIDE,), (m3.Manifold.cylinder(1.0, 45.0, 45.0, 96),)),
    ("lifting-corners", (WIDE,), (WIDE, "footing.brim_reach=5")),
    ("needless-footing", (cube(15), "footing.brim_reach=5"), (cube(15),)),
    ("needless-footing", (cube(15), "footing.raft_layers=3"), (SLIM, "footing.raft_layers=3")),
    (
        "over-time",
        (CONE, "limits.time_min=19", "surface.layer_height=0.12"),
        (CONE, "limits.time_min=500"),
    ),
    ("over-mass", (box(30, 30, 12), "limits.mass_g=4.6"), (box(30, 30, 12), "limits.mass_g=50")),
    (
        "over-cost",
        (CONE, "limits.cost=0.4", "machine.hourly_rate=1", "surface.layer_height=0.12"),
        (CONE, "limits.cost=9", "machine.hourly_rate=1"),
    ),
    (
        "abrasive",
        (cube(8), "material.abrasive=true"),
        (cube(8), "material.abrasive=true", "machine.nozzle_hard=true"),
    ),
    ("slowed", (cube(8), "pace.least_layer_time=8"), (cube(8), "pace.least_layer_time=0")),
    ("short-layer", (TENT, "pace.least_layer_time=10"), (TENT, "pace.least_layer_time=0")),
    ("flow-limit", (cube(15), "pace.infill_speed=500", "machine.max_speed_xy=500"), (cube(15),)),
    (
        "never-reached",
        (
            cube(8),
            "pace.outer_wall_speed=115",
            "pace.outer_wall_acceleration=200",
            "pace.least_layer_time=0",
        ),
        (cube(30), "pace.outer_wall_speed=40", "pace.inner_wall_speed=60", "pace.travel_speed=80"),
    ),
    (
        "shaking",
        (
            box(30, 2.8, 3),
            "body.walls=1",
            "body.infill_density=100",
            "pace.solid_speed=100",
            "pace.acceleration=5000",
            "pace.least_layer_time=0",
        ),
        (box(30, 30, 3), "body.infill_density=100"),
    ),
    ("strings", (cube(6) + cube(6).translate((20, 0, 0)),), (cube(6),)),
    ("crossings", (cube(6) + cube(6).translate((8, 0, 0)),), (cube(6),)),
    (
        "drags",
        (lettering(), "pace.order=as-cut", "pace.longest_detour=0", "body.top_pattern=one-way"),
        (lettering(), "pace.lift=0.4"),
    ),
    ("supports", (mushroom(65), "supports.enabled=true"), (mushroom(65),)),
    ("no-supports", (cube(8), "supports.enabled=true"), (mushroom(65), "supports.enabled=true")),
    (
        "scars",
        (
            mushroom(65),
            "supports.enabled=true",
            'surface.marks=[{"x": 9, "y": 0, "z": 6, "spread": 30, "attention": "seen"}]',
        ),
        (mushroom(65), "supports.enabled=true"),
    ),
    (
        "target-out-of-reach",
        (knob(), "surface.kind=adaptive", "surface.target_um=20"),
        (knob(), "surface.kind=adaptive", "surface.target_um=200"),
    ),
    (
        "time-left",
        (cube(6), "surface.kind=best-fit", "surface.time_cap_min=60"),
        (cube(6), "surface.kind=best-fit", "surface.target_um=90"),
    ),
    (
        "above-target",
        (knob(), "surface.kind=best-fit", "surface.target_um=60"),
        (box(8, 8, 8), "surface.kind=best-fit", "surface.target_um=60"),
    ),
    ("height-jump", (box(8, 8, 1), "surface.stack=[0.2, 0.1, 0.3, 0.2, 0.2]"), (box(8, 8, 8),)),
    (
        "tall-overhang",
        (mushroom(55), "surface.layer_height=0.3"),
        (mushroom(20), "surface.layer_height=0.3"),
    ),
]


#: What was found on a part with some settings, so that the tests below do not plan it again each.
FOUND: dict[tuple, dict] = {}


#: Said of whole layers, of the whole plan or of a place that is not on the part.
NOWHERE = {
    *("empty-layer", "region-outside", "edge-in-layer", "open-by-design", "too-tall"),
    *("outside-bed", "small-contact", "needless-footing", "over-time", "over-mass", "over-cost"),
    *("abrasive", "slowed", "short-layer", "flow-limit", "never-reached", "no-supports"),
    *("time-left", "target-out-of-reach", "above-target", "height-jump", "tall-overhang"),
}


class EveryFinding(unittest.TestCase):
    def findings(self, solid, *pairs):
        key = (id(solid), pairs)  # parts of CASES live as long as the module
        if key not in FOUND:
            FOUND[key] = {
                f.code: f
                for f in PIPELINE.plan(
                    source(solid), with_settings(PlanSpec(), list(pairs))
                ).findings
            }
        return FOUND[key]

    def test_shown_where_it_is_and_not_where_it_is_not(self):
        for code, yes, no in CASES:
            with self.subTest(code=code, settings=yes[1:]):
                found = self.findings(*yes)
                self.assertIn(code, found)
                self.assertNotIn(code, self.findings(*no))
                self.assertTrue(found[code].message.endswith("."))
                for one in found.values():
                    # one thing is one: no "1 corners are"
                    self.assertNotRegex(one.message, r"(?<![\d.,])1 ([a-z]+ ){0,3}[a-z]+s are")

    def test_one_corner_is_one(self):
        turn = np.linspace(0, 2 * np.pi, 64, endpoint=False)
        ring = 20 * np.stack([np.cos(turn), np.sin(turn)], axis=1)
        drop = m3.CrossSection.hull_points(np.vstack([ring, [[90.0, 0.0]]]))
        found = self.findings(m3.Manifold.extrude(drop, 1.0))["lifting-corners"]
        self.assertEqual(found.message, "1 wide flat corner is likely to lift as it cools.")
        self.assertIn("holds it down", found.help)

    def test_supports_that_may_not_stand_where_they_are_needed_are_said(self):
        """A ledge over a foot, with supports on the bed only."""
        ledge = box(20, 20, 5) + box(5, 20, 12) + box(15, 20, 3, (0, 0, 12))
        found = self.findings(ledge, "supports.enabled=true", "supports.origin=bed")["no-supports"]
        self.assertEqual(found.severity, "look")
        leaning = float(found.message.split(": ")[1].split(" mm²")[0])
        self.assertAlmostEqual(leaning, 200, delta=15)
        self.assertEqual(found.change, {"supports.origin": "anywhere"})
        self.assertNotIn("no-supports", self.findings(ledge, "supports.enabled=true"))

    def test_what_it_proposes_puts_it_right(self):
        for code, yes in {code: yes for code, yes, _ in reversed(CASES)}.items():
            change = self.findings(*yes)[code].change
            if not change:
                continue
            with self.subTest(code=code):
                words = [
                    f"{name}={str(value).lower() if isinstance(value, bool) else value}"
                    for name, value in change.items()
                ]
                after = self.findings(*yes, *words)
                # an overhang on supports, or a part on a brim, is no longer one
                self.assertNotIn(code, after, words)

    def test_places_lie_on_the_part(self):
        for code, yes, _ in CASES:
            solid = yes[0]
            low, high = np.array(solid.bounding_box()).reshape(2, 3)
            middle = (low + high)[:2] / 2
            found = self.findings(*yes)[code]
            self.assertEqual(not found.places, code in NOWHERE, code)
            for x, y, z in found.places:
                self.assertTrue(
                    (
                        np.abs(
                            np.array([x, y])
                            - (108 if "place.shift_x=108" in yes else 0) * np.array([1, 0])
                        )
                        <= (high - low)[:2] / 2 + 8
                    ).all(),
                    (code, x, y, middle),
                )
                self.assertTrue(0 <= z <= high[2] - low[2] + 1, (code, z))
            if found.places and found.z_mm is not None:
                self.assertAlmostEqual(found.places[0][2], found.z_mm, delta=0.5, msg=code)


class Files(unittest.TestCase):
    """What is found in the file itself."""

    def codes(self, data):
        return {
            f.code: f.severity for f in PIPELINE.plan(Source.of(data, "a.stl"), PlanSpec()).findings
        }

    def test_mended(self):
        whole = stl(cube(8))
        opened = whole[:80] + (11).to_bytes(4, "little") + whole[84:-50]
        self.assertIn("mended", self.codes(opened))
        self.assertNotIn("mended", self.codes(whole))
        # a corner of the top that is missing: half its side across, which may be another part
        self.assertEqual(self.codes(opened)["mended"], "stop")

    def test_how_wide_an_opening_was_says_how_much_it_matters(self):
        part = PIPELINE.part(source(cube(80)))
        for wide, severity in ((0.5, "note"), (1.5, "look"), (8.5, "stop")):
            torn = replace(part, done=(Mending("closed an opening"),), widest_opening=wide)
            (found,) = mended.run(Facts.only(part=torn, spec=PlanSpec()))
            self.assertEqual(found.severity, severity)
            self.assertEqual(severity != "note", f"{wide} mm across" in found.help)
            # once it was looked at it is a note that remembers it
            seen = PlanSpec(mesh=Mesh(looked_at=True))
            (found,) = mended.run(Facts.only(part=torn, spec=seen))
            self.assertEqual((found.severity, found.help), ("note", ""))

    def test_rebuilt(self):
        # what the mender leaves when nothing could close the surface
        part = PIPELINE.part(source(cube(8)))
        doubtful = replace(part, doubtful=True)
        self.assertEqual(
            [(f.code, f.severity) for f in rebuilt.run(Facts.only(part=doubtful))],
            [("rebuilt", "stop")],
        )
        self.assertEqual(rebuilt.run(Facts.only(part=part)), [])


class OneCause(unittest.TestCase):
    def test_what_goes_with_the_same_remedy_is_one_thing_to_decide(self):
        # a board over a post: its underside is open, its lines hang, and a knob begins in the air
        solid = box(50, 30, 3, (0, 0, 12)) + box(8, 8, 12) + box(6, 6, 4, (40, 20, 8))
        plan = PIPELINE.plan(source(solid), PlanSpec())
        beside = [f for f in plan.findings if f.code in NOTHING_BELOW]
        self.assertGreater(len(beside), 1)
        self.assertEqual([f.severity for f in beside].count("stop"), 1)
        self.assertNotIn("look", [f.severity for f in beside])
        self.assertEqual([f.code for f in beside if not f.below], ["starts-in-air"])
        # without the knob what was a note beside it leads
        board = box(50, 30, 3, (0, 0, 12)) + box(8, 8, 12)
        plan = PIPELINE.plan(source(board), PlanSpec())
        beside = [f.severity for f in plan.findings if f.code in NOTHING_BELOW]
        self.assertEqual(len([one for one in beside if one != "note"]), 1)

    def test_what_has_another_remedy_stays(self):
        one = Finding("overhang", "look", "", change={"supports.enabled": True})
        two = Finding("long-bridge", "look", "", change={"body.infill_density": 20})
        self.assertEqual(by_cause([one, two]), [one, two])
        self.assertEqual(by_cause([]), [])

    def test_notes_are_listed_below_the_one_that_leads(self):
        slowed, short = Finding("slowed", "note", ""), Finding("short-layer", "look", "")
        drags, other = Finding("drags", "note", ""), Finding("gap", "look", "")
        found = by_cause([slowed, other, drags, short])
        self.assertEqual([one.below for one in found], ["short-layer", "", "", ""])
        self.assertEqual([one.severity for one in found], ["note", "look", "note", "look"])
        # if all are notes, the one that is first in the list of its cause leads
        found = by_cause([drags, Finding("strings", "note", "")])
        self.assertEqual([one.below for one in found], ["strings", ""])


class NewOnes(unittest.TestCase):
    def test_what_another_change_of_the_same_cause_shows_is_not_new(self):
        def report(*pairs):
            return {
                "findings": [
                    Finding(code, severity, f"{severity} {code}").as_dict()
                    for code, severity in pairs
                ]
            }

        before = report(("free-span", "look"), ("gap", "note"), ("mended", "stop"))
        after = report(("overhang", "look"), ("gap", "look"), ("mended", "stop"))
        self.assertEqual(new_findings(before, after, ("look",)), ["look gap"])
        # a stop counts as new, even if a look with the same cause was there before
        worse = report(("starts-in-air", "stop"), ("mended", "stop"))
        self.assertEqual(new_findings(before, worse, ("stop",)), ["stop starts-in-air"])


class WhatMatters(unittest.TestCase):
    def severity(self, code, solid, *pairs):
        plan = PIPELINE.plan(source(solid), with_settings(PlanSpec(), list(pairs)))
        return next(f.severity for f in plan.findings if f.code == code)

    def test_a_short_tip_is_a_note(self):
        # the same tip on a wide foot and on a high needle
        foot = box(30, 30, 3)
        low = foot + box(1.5, 1.5, 0.8, (10, 10, 3))
        high = foot + box(1.5, 1.5, 6, (10, 10, 3))
        self.assertEqual(self.severity("short-layer", low), "note")
        self.assertEqual(self.severity("short-layer", high), "look")

    def test_a_gap_counts_by_what_is_missing(self):
        open_wide = ("body.fill_gaps=false", "body.infill_density=100")
        slot = box(30, 2.6, 3)
        self.assertEqual(self.severity("gap", slot, *open_wide), "look")
        crumb = box(40, 40, 6) + box(3, 2.6, 0.4, (10, 10, 6))
        self.assertEqual(self.severity("gap", crumb, *open_wide), "note")


class Measured(unittest.TestCase):
    def findings(self, solid, *pairs):
        return {
            f.code: f
            for f in PIPELINE.plan(source(solid), with_settings(PlanSpec(), list(pairs))).findings
        }

    def test_areas_and_lengths_are_those_of_the_part(self):
        bridge = self.findings(table(25))["long-bridge"].message
        self.assertIn("the longest 25 mm", bridge)
        # a brim of the proposed reach makes the foot wide enough for the height
        slim = self.findings(SLIM)["small-contact"]
        self.assertIn("60 mm tall on 9", slim.message)
        thin = self.findings(cube(10) + box(0.2, 10, 10, (20, 0, 0)))["too-thin"]
        self.assertIn("0.20 mm", thin.message)
        flow = self.findings(
            cube(15),
            "body.infill_density=0",
            "pace.inner_wall_speed=500",
            "machine.max_speed_xy=500",
        )["flow-limit"].message
        # 500 mm/s over 0.081416 mm² is 40.7 mm³/s, 311 % above 9.9
        self.assertIn("inner wall 40.7", flow)
        self.assertIn("311 %", flow)

    def test_tiny_patches_say_what_they_cost(self):
        solid, *pairs = next(yes for code, yes, _ in CASES if code == "tiny-solid")
        plan = PIPELINE.plan(source(solid), with_settings(PlanSpec(), pairs))
        found = next(f for f in plan.findings if f.code == "tiny-solid")
        small = [p for p in plan.report["solid"]["patches"] if p["solid"] and p["area_mm2"] < 12]
        self.assertEqual(found.count, len(small))
        self.assertEqual(len(found.places), min(len(small), MOST_PLACES))
        self.assertGreater(sum(p["seconds"] for p in small), 20)
