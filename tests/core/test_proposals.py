"""Proposals keep every limit on the exact plan, come out as they were said, and are ranked by the
quick figures as by the exact ones.
"""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import spearmanr

from demo.shapes import sample_stl
from demo.workshop import MACHINES, MATERIALS
from northpace.estimate.quick import correction_of, quick
from northpace.plan.pipeline import Cancelled, Pipeline
from northpace.plan.source import Source
from northpace.proposals.exact import changed
from northpace.proposals.held import Held, broken, held_now, skin_mm, thinner
from northpace.proposals.options import options, with_change
from northpace.proposals.rank import Ranker, combinations, rank
from northpace.proposals.search import Aim, propose
from northpace.spec import PlanSpec, digest, spec_from, with_settings
from northpace.spec.by_layer import value_of
from tests.core.shapes import PIPELINE, cube, knob, stl

DATA = stl(knob())


def held_from(spec):
    return lambda report, height: held_now(report, spec, height)


def everyday():
    """The plain start on the workshop's own machine, in its own PLA."""
    machine, material = MACHINES[0], next(entry for entry in MATERIALS if entry["name"] == "PLA")
    bore, flow, least = machine["nozzles"][0]
    return spec_from(
        {
            "machine": {
                **machine["figures"],
                "name": machine["name"],
                "nozzle": bore,
                "nozzle_flow": flow,
                "least_height": least,
            },
            "material": {**material["figures"], "name": "PLA"},
        }
    )


class Search(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.spec = with_settings(PlanSpec(), ["pace.least_layer_time=2"])
        cls.before = PIPELINE.plan(Source.of(DATA, "a.stl"), cls.spec).report
        cls.found = propose(PIPELINE, Source.of(DATA, "a.stl"), cls.spec, held_from(cls.spec))

    def test_every_proposal_is_quicker_and_keeps_what_is_held(self):
        self.assertTrue(self.found.singles)
        for one in (*self.found.singles, *self.found.chain):
            self.assertLess(one.seconds, 0, one.words)
        for one in self.found.singles:
            spec = changed(self.spec, one.change)
            report = PIPELINE.plan(Source.of(DATA, "a.stl"), spec).report
            self.assertEqual(
                broken(
                    self.found.held, spec, float(np.median(report["layers"]["heights_mm"])), report
                ),
                [],
                one.words,
            )
            stops = {
                finding["code"] for finding in report["findings"] if finding["severity"] == "stop"
            }
            self.assertLessEqual(
                stops,
                {
                    finding["code"]
                    for finding in self.before["findings"]
                    if finding["severity"] == "stop"
                },
            )
            self.assertIn(one.words, one.sentence)

    def test_figures_agree_with_a_separate_computation_to_the_second(self):
        apart = Pipeline()
        for one in self.found.singles[:3]:
            report = apart.plan(Source.of(DATA, "a.stl"), changed(self.spec, one.change)).report
            self.assertAlmostEqual(
                report["time_s"]["total"], one.after["time_s"], delta=0.5, msg=one.words
            )
            self.assertAlmostEqual(
                report["time_s"]["total"] - self.before["time_s"]["total"], one.seconds, delta=0.5
            )
            self.assertAlmostEqual(report["filament"]["mass_g"], one.after["mass_g"], 6)

    def test_the_chain_step_by_step_is_what_it_said(self):
        apart, change, last = Pipeline(), {}, self.found.before["time_s"]
        self.assertTrue(self.found.chain)
        for step in self.found.chain:
            change |= step.change
            spec = changed(self.spec, change)
            report = apart.plan(Source.of(DATA, "a.stl"), spec).report
            self.assertEqual(digest(spec), step.checksum)
            self.assertAlmostEqual(
                report["time_s"]["total"], step.after["time_s"], delta=0.5, msg=step.words
            )
            self.assertAlmostEqual(report["time_s"]["total"] - last, step.seconds, delta=1.0)
            self.assertEqual(
                broken(
                    self.found.held, spec, float(np.median(report["layers"]["heights_mm"])), report
                ),
                [],
            )
            last = report["time_s"]["total"]

    def test_taken_and_undone_is_the_identical_plan(self):
        for one in self.found.singles:
            there = changed(self.spec, one.change)
            back = changed(
                there,
                {name: value_of(self.spec, name) for name in one.change}
                | {
                    f"pace.{name}": getattr(self.spec.pace, name)
                    for name in type(self.spec.pace).model_fields
                },
            )
            self.assertEqual(digest(back), digest(self.spec), one.words)

    def test_what_must_not_change_stays(self):
        found = propose(
            PIPELINE,
            Source.of(DATA, "a.stl"),
            self.spec,
            lambda report, height: Held(
                **{
                    **held_now(report, self.spec, height).as_dict(),
                    "keep": ("surface.kind", "pace.derived", "pace.travel_speed"),
                    "families": ("heights", "pace", "solid"),
                }
            ),
            aim=Aim(seconds=20),
        )
        for one in (*found.singles, *found.chain):
            self.assertEqual(one.family, "solid")

    def test_a_cap_on_grams_is_kept(self):
        cap = self.before["filament"]["mass_g"] - 0.02
        found = propose(
            PIPELINE,
            Source.of(DATA, "a.stl"),
            self.spec,
            lambda report, height: Held(
                **{**held_now(report, self.spec, height).as_dict(), "mass_g": cap}
            ),
            aim=Aim(seconds=20),
        )
        for one in (*found.singles, *found.chain):
            self.assertLessEqual(one.after["mass_g"], cap + 1e-9)

    def test_it_can_be_stopped(self):
        with self.assertRaises(Cancelled):
            propose(
                PIPELINE,
                Source.of(DATA, "a.stl"),
                self.spec,
                held_from(self.spec),
                cancelled=lambda: True,
            )


class Chains(unittest.TestCase):
    def test_parts_of_the_workshop_take_45_percent_less(self):
        for name in ("sensor-case", "dome-cap", "mast-clamp"):
            data, spec = sample_stl(name), everyday()
            found = propose(
                PIPELINE,
                Source.of(data, "a.stl"),
                spec,
                held_from(spec),
                aim=Aim(seconds=300, single=False),
            )
            last = found.chain[-1].after
            self.assertLessEqual(last["time_s"], 0.55 * found.before["time_s"], name)
            self.assertGreaterEqual(last["wall_mm"], 0.95 * found.before["wall_mm"] - 1e-9)
            self.assertGreaterEqual(last["stiffness"], 0.95 * found.before["stiffness"] - 1e-9)
            self.assertLessEqual(last["p95_um"], max(1.05 * found.before["p95_um"], 5) + 1e-6)
            self.assertLessEqual(last["stops"], found.before["stops"])
            self.assertGreater(found.ranked, 1000)


class Ranking(unittest.TestCase):
    def test_quick_and_exact_ranking_agree(self):
        data, spec = stl(cube(14)), with_settings(PlanSpec(), ["pace.least_layer_time=0"])
        plan = PIPELINE.plan(Source.of(data, "a.stl"), spec)
        shape = PIPELINE.profile(Source.of(data, "a.stl"), spec)
        held = held_now(plan.report, spec, 0.2, 0.3)
        ranked = rank(
            shape, spec, plan.outlines.heights, held, correction_of(plan.report, shape, spec)
        )
        rng = np.random.default_rng(7)
        chosen = [ranked[k] for k in sorted(rng.choice(len(ranked), 200, replace=False))]
        exact = [
            PIPELINE.plan(Source.of(data, "a.stl"), changed(spec, one.change)).report["time_s"][
                "total"
            ]
            for one in chosen
        ]
        self.assertGreater(spearmanr([one.seconds for one in chosen], exact).statistic, 0.9)

    def test_many_at_once_are_as_one_by_one(self):
        data, spec = DATA, PlanSpec()
        plan = PIPELINE.plan(Source.of(data, "a.stl"), spec)
        shape = PIPELINE.profile(Source.of(data, "a.stl"), spec)
        correction = correction_of(plan.report, shape, spec)
        ranker = Ranker(shape, spec, plan.outlines.heights, correction)
        every = list(
            combinations(
                [
                    one
                    for one in options(spec, held_now(plan.report, spec, 0.2), 0.2)
                    if one.family != "heights"
                ],
                2,
            )
        )[::37]
        for one in ranker.many(every):
            there = changed(spec, one.change)
            self.assertAlmostEqual(
                one.seconds,
                sum(quick(shape, there, plan.outlines.heights, correction).seconds.values()),
                6,
            )


class Limits(unittest.TestCase):
    def test_thickness_of_skins(self):
        self.assertAlmostEqual(skin_mm(0.8, 3, 0.2), 0.8)
        self.assertAlmostEqual(skin_mm(0.8, 3, 0.3), 0.9)
        self.assertAlmostEqual(skin_mm(0.1, 3, 0.2), 0.6)

    @settings(max_examples=40)
    @given(
        walls=st.integers(1, 6),
        outer=st.sampled_from([0.4, 0.45, 0.6]),
        top=st.floats(0.2, 2),
        layers=st.integers(1, 6),
        give=st.floats(0, 0.3),
    )
    def test_no_option_goes_below_what_is_held(self, walls, outer, top, layers, give):
        spec = with_settings(
            PlanSpec(),
            [
                f"body.walls={walls}",
                f"body.outer_width={outer}",
                f"body.top_thickness={top}",
                f"body.top_layers={layers}",
            ],
        )
        body = spec.body
        held = Held(
            (1 - give) * (outer + (walls - 1) * 0.407),
            (1 - give) * skin_mm(body.top_thickness, body.top_layers, 0.2),
            (1 - give) * skin_mm(body.bottom_thickness, body.bottom_layers, 0.2),
            200,
            0.5,
        )
        for one in options(spec, held, 0.2):
            self.assertEqual(thinner(held, with_change(spec, one.change), 0.2), [], one.words)
            self.assertTrue(one.words)
