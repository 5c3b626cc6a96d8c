"""Proposals, comparison, deadlines, changed meshes and recipes for several parts, over the API."""

import re
from datetime import datetime, timedelta

from django.utils import timezone

from service.jobs.models import Job
from service.plans.models import Plan, PlanVersion, Search
from service.workshop.models import Machine, Recipe, Spool
from tests.core.shapes import cube, knob, stl
from tests.service.base import make_workshop, signed_in, work
from tests.service.minded import Minded
from tests.service.planned import JSON


class Base(Minded):
    def send(self, path, body=None, status=200, method="post"):
        answer = getattr(self.client, method)(
            f"/api/{path}",
            *([body] if body is not None else []),
            **({"content_type": JSON} if body is not None else {}),
        )
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def shown(self, plan):
        return self.client.get(f"/api/plans/{plan}").json()


class Proposals(Base):
    def test_searched_taken_and_undone(self):
        plan = self.plan(stl(knob()))
        before = self.shown(plan)
        found = self.send(f"plans/{plan}/proposals", {}, 201)
        self.assertEqual(found["state"], "queued")
        work()
        (search,) = self.client.get(f"/api/plans/{plan}/proposals").json()
        self.assertEqual((search["state"], search["version"]), ("done", before["exact"]["id"]))
        result = search["result"]
        self.assertEqual(result["before"]["time_s"], before["exact"]["report"]["time_s"]["total"])
        self.assertTrue(result["singles"])
        # the chain, taken at once, comes out as it was said
        change = {}
        for step in result["chain"]:
            change |= step["change"]
        settings: dict = {}
        for name, value in change.items():
            group, _, key = name.partition(".")
            settings.setdefault(group, {})[key] = value
        after = self.change(plan, **settings)["latest"]["report"]["time_s"]["total"]
        self.assertAlmostEqual(after, result["chain"][-1]["after"]["time_s"], delta=0.5)
        # undone, it is the identical plan
        undone = self.change(plan)["latest"]
        self.assertEqual(undone["checksum"], before["latest"]["checksum"])
        self.assertEqual(undone["report"]["time_s"], before["latest"]["report"]["time_s"])
        self.assertEqual(
            undone["report"]["layers"]["heights_mm"],
            before["latest"]["report"]["layers"]["heights_mm"],
        )

    def test_one_at_a_time_stopped_and_refused(self):
        plan = self.plan(self.small())
        first = self.send(f"plans/{plan}/proposals", {}, 201)
        second = self.send(f"plans/{plan}/proposals", {"give": 10, "families": ["pace"]}, 201)
        self.assertEqual(Search.objects.get(pk=first["id"]).state, "cancelled")
        self.assertEqual(
            self.send(f"searches/{second['id']}", method="delete")["state"], "cancelled"
        )
        work()
        self.assertIsNone(Search.objects.get(pk=second["id"]).result)
        self.send(f"plans/{plan}/proposals", {"keep": ["body.wals"]}, 422)
        self.send(f"plans/{plan}/proposals", {"families": ["luck"]}, 400)
        self.send(f"plans/{plan}/proposals", {"give": 90}, 400)
        make_workshop("Elsewhere", "visitor")
        self.assertEqual(signed_in("visitor").get(f"/api/searches/{second['id']}").status_code, 404)

    def test_only_from_exact_figures(self):
        plan = self.plan(self.small())
        self.client.patch(
            f"/api/plans/{plan}", {"settings": {"body": {"walls": 2}}}, content_type=JSON
        )
        self.assertIn(
            "still being computed", self.send(f"plans/{plan}/proposals", {}, 422)["detail"]
        )


class Conditions(Base):
    def test_another_nozzle_is_proposed_and_comes_out_as_it_was_said(self):
        plan = self.plan(stl(cube(16)))
        self.send(
            f"plans/{plan}/proposals", {"families": ["nozzle"], "give": 50, "p95_um": 500}, 201
        )
        work()
        (search,) = self.client.get(f"/api/plans/{plan}/proposals").json()
        (one,) = search["result"]["singles"]
        self.assertEqual(
            (one["family"], one["words"], search["result"]["chain"]),
            ("nozzle", "0.8 mm nozzle", []),
        )
        self.client.patch(
            f"/api/plans/{plan}", {"nozzle": one["change"]["nozzle"]}, content_type=JSON
        )
        work()
        self.assertAlmostEqual(
            self.shown(plan)["exact"]["report"]["time_s"]["total"],
            one["after"]["time_s"],
            delta=0.5,
        )

    def test_a_recipe_with_the_conditions_it_holds_under(self):
        plan = self.plan(self.small())
        self.send(
            f"plans/{plan}/recipe",
            {"name": "Here", "this_machine": True, "this_material": True},
            201,
        )
        recipe, other = Recipe.objects.get(), self.another_machine("Bench B").nozzles.get()
        self.assertFalse(recipe.suits(other, self.workshop.materials.get()))
        self.assertTrue(
            recipe.suits(
                self.workshop.machines.first().nozzles.first(), self.workshop.materials.get()
            )
        )
        self.send(f"plans/{plan}/recipe", {"name": "Anywhere"}, 201)
        self.assertTrue(
            Recipe.objects.get(name="Anywhere").suits(other, self.workshop.materials.get())
        )


class Compared(Base):
    def test_side_by_side_with_sources_and_as_a_table(self):
        plan = self.plan(stl(cube(8)))
        first = self.shown(plan)["exact"]["id"]
        second = self.change(plan, body={"walls": 2}, pace={"derived": True})["exact"]["id"]
        found = self.send(f"compare?versions={first},{second}", method="get")
        rows = {row["name"]: row for row in found["settings"]}
        self.assertEqual(
            (rows["body.walls"]["values"], rows["body.walls"]["sources"]),
            ([3, 2], ["default", "plan"]),
        )
        self.assertEqual(rows["pace.infill_speed"]["sources"], ["default", "derived"])
        self.assertEqual([plan["version"] for plan in found["plans"]], [first, second])
        self.assertEqual(self.send(f"compare?versions={first}", method="get")["settings"], [])
        table = (
            self.client.get(f"/api/compare/file?as=csv&versions={first},{second}")
            .content.decode()
            .splitlines()
        )
        self.assertTrue(table[0].startswith("what,unit,plan 1 version 1,plan 1 version 2"))
        self.assertTrue(any(line.startswith("Body: Walls,,3,2") for line in table))

    def test_a_name_and_a_verdict(self):
        plan = self.plan(self.small())
        self.client.patch(
            f"/api/plans/{plan}", {"name": "thin", "verdict": "rattles"}, content_type=JSON
        )
        row = self.client.get("/api/plans").json()[0]
        self.assertEqual((row["name"], row["verdict"]), ("thin", "rattles"))
        self.assertEqual(PlanVersion.objects.count(), 1)

    def test_what_cannot_stand_there(self):
        plan = self.plan(self.small())
        mine = self.shown(plan)["exact"]["id"]
        for wrong in ("", "x", "999", ",".join(str(k) for k in range(1, 12))):
            self.send(f"compare?versions={wrong}", status=422, method="get")
        make_workshop("Elsewhere", "visitor")
        self.client = signed_in("visitor")
        self.assertIn(
            "no version", self.send(f"compare?versions={mine}", status=422, method="get")["detail"]
        )


class Deadline(Base):
    def ask(self, plan, minutes, status=200, **body):
        return self.send(
            f"plans/{plan}/deadline",
            {"until": (timezone.now() + timedelta(minutes=minutes)).isoformat(), **body},
            status,
        )

    def test_fits_as_it_is_with_finer_heights_or_not_at_all(self):
        plan = self.plan(
            stl(knob()),
            settings={
                "surface": {"layer_height": 0.1, "first_layer_height": 0.2},
                "pace": {"least_layer_time": 0},
            },
        )
        total = self.shown(plan)["exact"]["report"]["time_s"]["total"] / 60
        easy = self.ask(plan, 3 * total + 20, copies=2)
        self.assertTrue(easy["fits"])
        self.assertEqual(
            (easy["machines"][0]["words"], easy["machines"][0]["change"]), ("the plan as it is", {})
        )
        self.assertAlmostEqual(easy["pieces_a_day"], 1440 / (total + 5), 2)
        tight = self.ask(plan, 2 * 0.85 * total + 5, copies=2)
        self.assertTrue(tight["fits"], tight)
        row = tight["machines"][0]
        self.assertEqual(row["change"]["surface.kind"], "best-fit")
        # taken, two of them do fit, the bed change between them included
        after = self.change(
            plan,
            surface={
                "layer_height": 0.1,
                "first_layer_height": 0.2,
                "kind": "best-fit",
                "time_cap_min": row["change"]["surface.time_cap_min"],
            },
            pace={"least_layer_time": 0},
        )
        self.assertLessEqual(
            2 * after["latest"]["report"]["time_s"]["total"] / 60 + 5, 2 * 0.85 * total + 5 + 0.6
        )
        hopeless = self.ask(plan, 10, copies=2)
        self.assertFalse(hopeless["fits"])
        self.assertIn("2 copies do not fit", hopeless["sentence"])
        # what would be needed is told, and is true
        later = next(
            float(found[1])
            for words in hopeless["needed"]
            if (found := re.match(r"more time: (\d+) min later, 2 on Bench 200", words))
        )
        sooner = self.ask(plan, 10 + later - 2, copies=2)
        self.assertFalse(any(row["fits"] for row in sooner["machines"]))
        self.assertTrue(self.ask(plan, 10 + later + 2, copies=2)["fits"])
        one = self.ask(plan, 0.85 * total, copies=2)
        self.assertIn("fewer copies: 1", one["needed"])
        self.assertTrue(self.ask(plan, 0.85 * total, copies=1)["fits"])
        self.assertTrue(
            any("min each on Bench 200, instead of" in words for words in one["needed"])
        )
        self.assertEqual(one["machines"][0]["most"], 1)

    def test_the_change_to_the_spool_of_the_plan_counts(self):
        plan = self.plan(stl(cube(8)))
        spool = Plan.objects.get(pk=plan).latest.spool_id
        other = Spool.objects.create(
            material=self.workshop.materials.get(), label="S-2", usable_mass=300
        )
        ends = []
        for loaded in (spool, other.pk):
            Machine.objects.update(loaded=loaded, spool_change_min=40)
            (row,) = self.ask(plan, 600)["machines"]
            ends.append(datetime.fromisoformat(row["done_at"]))
        self.assertAlmostEqual((ends[1] - ends[0]).total_seconds() / 60, 40, delta=1)

    def test_several_on_one_plate_save_warm_ups_and_bed_changes(self):
        plan = self.plan(stl(knob()), settings={"surface": {"layer_height": 0.3}})
        total = self.shown(plan)["exact"]["report"]["time_s"]["total"]
        plates = self.ask(plan, 10, copies=4)["plates"]
        self.assertEqual((plates["plates"], plates["fits"]), (1, False))
        self.assertEqual(plates["holds"], 4)
        # three bed changes and warm-ups less, but for ways from piece to piece
        self.assertGreater(plates["saved_s"], 3 * 300)
        self.assertAlmostEqual(plates["saved_s"], 4 * total + 900 - plates["time_s"], delta=30)
        minutes = plates["time_s"] / 60
        late = self.ask(plan, minutes - 2, copies=4)
        self.assertFalse(late["fits"])
        self.assertIn("4 on one plate, laid together on Bench 200", late["needed"][0])
        found = self.ask(plan, minutes + 2, copies=4)
        self.assertTrue(found["fits"])
        self.assertIn("one plate", found["sentence"])
        self.assertFalse(any(row["fits"] for row in found["machines"]))
        # of the bed that is made of it
        made = self.send("beds", {"plans": [plan], "copies": 4}, 201)
        work()
        bed = self.client.get(f"/api/beds/{made['id']}").json()
        self.assertAlmostEqual(bed["version"]["report"]["total_s"], plates["time_s"], delta=20)
        self.assertIsNone(self.ask(plan, 10, copies=1)["plates"])

    def test_copies_are_shared_where_one_machine_would_need_coarser_layers(self):
        plan = self.plan(
            stl(knob()),
            settings={
                "surface": {"layer_height": 0.1, "first_layer_height": 0.2},
                "pace": {"least_layer_time": 0},
            },
        )
        other = self.another_machine("Bench B").nozzles.get()
        before = self.shown(plan)["exact"]["report"]
        total = before["time_s"]["total"] / 60
        # two on each fit just so, four on one do not
        found = self.ask(plan, 2.1 * total + 5, copies=4)
        self.assertTrue(found["fits"])
        self.assertEqual(
            [(turn["machine"], turn["copies"], turn["change"]) for turn in found["shared"]],
            [("Bench 200", 2, {}), ("Bench B", 2, {})],
        )
        self.assertEqual(found["shared"][1]["nozzle"], other.pk)
        self.assertIn("2 on Bench 200 and 2 on Bench B: the plan as it is", found["sentence"])
        self.assertTrue(all(row["most"] < 4 for row in found["machines"]))
        # with less time for each, the layers of both get taller, no taller than they must
        self.assertIn(
            "fewer copies: 2 with the fastest layers, 0 with the plan as it is",
            self.ask(plan, 0.9 * total, copies=4)["needed"],
        )
        tight = self.ask(plan, 2 * 0.85 * total + 5, copies=4)
        self.assertEqual([turn["copies"] for turn in tight["shared"]], [2, 2])
        for turn in tight["shared"]:
            self.assertAlmostEqual(turn["change"]["surface.time_cap_min"], 0.85 * total, delta=0.15)
            self.assertGreater(turn["p95_um"], before["surface"]["p95_um"] * 0.5)
        # one machine that is enough as the plan is stays the answer; that several have it done
        # earlier is told beside it
        easy = self.ask(plan, 10 * total, copies=4)
        self.assertIn("4 copies on Bench 200: the plan as it is", easy["sentence"])
        self.assertLess(
            max(turn["done_at"] for turn in easy["shared"]), easy["machines"][0]["done_at"]
        )

    def test_another_spool_and_the_chain_are_named(self):
        plan = self.plan(
            stl(knob()), settings={"surface": {"layer_height": 0.1, "first_layer_height": 0.2}}
        )
        Spool.objects.update(usable_mass=0.5)
        Spool.objects.create(
            material=self.workshop.materials.get(), label="Plenty", usable_mass=700
        )
        self.assertIn("Plenty has enough", self.ask(plan, 6000, copies=3)["spool"])
        self.send(f"plans/{plan}/proposals", {}, 201)
        work()
        chain = Search.objects.get().result["chain"][-1]["after"]["time_s"] / 60
        self.assertIn(
            f"the chain of changes found for this plan comes to {chain:.0f} min each, which "
            "is not enough",
            self.ask(plan, 0.8 * chain)["needed"],
        )

    def test_what_waits_the_spread_and_the_spool_count(self):
        plan = self.plan(self.small())
        total = self.shown(plan)["exact"]["report"]["time_s"]["total"] / 60
        self.commit(plan, copies=2)
        busy = self.ask(plan, 2 * total + 20)
        # two jobs and two changes of the bed come first
        self.assertAlmostEqual(busy["machines"][0]["minutes_each"], 10, delta=0.5)
        Job.objects.all().delete()
        Machine.objects.update(
            learnt={"factor": 1, "layer_s": 0, "spread": 0.1, "before": 0, "jobs": 5}
        )
        self.assertAlmostEqual(
            self.ask(plan, 60)["machines"][0]["minutes_each"], 60 / 1.2, delta=0.1
        )
        Spool.objects.update(usable_mass=0.3)
        self.assertIn("it holds 1 of 3", self.ask(plan, 600, copies=3)["spool"])
        self.assertIn("before the first copy could begin", self.ask(plan, -5, 422)["detail"])

    def test_another_machine_that_is_free(self):
        plan = self.plan(self.small())
        other = self.another_machine("Bench B")
        self.commit(plan, copies=20)
        total = self.shown(plan)["exact"]["report"]["time_s"]["total"] / 60
        found = self.ask(plan, total + 5)
        self.assertTrue(found["fits"])
        self.assertEqual(
            (found["machines"][0]["machine"], found["machines"][0]["nozzle"]),
            ("Bench B", other.nozzles.get().pk),
        )


class Meshes(Base):
    def test_a_changed_mesh_keeps_what_still_makes_sense(self):
        bands = [
            {"name": "low", "from_mm": 1, "to_mm": 3, "changes": {"body.walls": 2}},
            {"name": "cut", "from_mm": 4, "to_mm": 9, "changes": {"body.walls": 4}},
            {"name": "gone", "from_mm": 9.2, "to_mm": 10, "changes": {"body.walls": 5}},
        ]
        regions = [
            {
                "name": "in",
                "shape": "ball",
                "x": 3,
                "y": 3,
                "z": 3,
                "reach": 2,
                "changes": {"body.infill_density": 40},
            },
            {
                "name": "out",
                "shape": "ball",
                "x": 9.5,
                "y": 9.5,
                "z": 9.5,
                "reach": 1,
                "changes": {"body.infill_density": 40},
            },
        ]
        plan = self.plan(
            stl(cube(10)),
            settings={
                "surface": {"bands": bands, "pins": [{"z_mm": 8, "height_mm": 0.1}]},
                "body": {"regions": regions, "walls": 3},
            },
        )
        before = self.shown(plan)["exact"]["id"]
        part = self.make_part(stl(cube(6)), "smaller.stl")
        done = self.send(f"plans/{plan}/mesh", {"part": part})
        work()
        left = " ".join(done["left_out"])
        for words in ("'gone'", "'cut' now ends with the part", "1 pins above", "region 'out'"):
            self.assertIn(words, left)
        after = self.shown(plan)
        self.assertEqual(after["part"]["name"], "smaller")
        settings = after["latest"]["settings"]
        self.assertEqual([band["name"] for band in settings["surface"]["bands"]], ["low", "cut"])
        self.assertEqual([region["name"] for region in settings["body"]["regions"]], ["in"])
        self.assertEqual(done["before"], before)
        self.assertAlmostEqual(after["exact"]["report"]["part"]["size_mm"][2], 6, 3)
        # old and new side by side
        found = self.send(f"compare?versions={before},{after['exact']['id']}", method="get")
        self.assertEqual([one["part"] for one in found["plans"]], ["cube", "smaller"])
        self.assertLess(found["totals"][0]["values"][1], found["totals"][0]["values"][0])

    def test_a_part_of_ones_own_that_is_read(self):
        plan = self.plan(self.small())
        self.send(f"plans/{plan}/mesh", {"part": 999}, 404)


class Several(Base):
    def test_one_recipe_for_several_parts(self):
        recipe = Recipe.objects.create(
            workshop=self.workshop, name="Thin", bore=0.4, settings={"body": {"walls": 2}}
        )
        parts = [self.make_part(stl(cube(size)), f"cube{size}.stl") for size in (6, 8)]
        nozzle, material = (
            self.workshop.machines.get().nozzles.first(),
            self.workshop.materials.get(),
        )
        done = self.send(
            f"recipes/{recipe.pk}/apply",
            {
                "parts": [*parts, parts[0]],
                "nozzle": nozzle.pk,
                "material": material.pk,
                "spool": self.spool().pk,
            },
        )
        self.assertEqual((len(done["plans"]), done["refused"]), (2, []))
        self.assertEqual(
            {plan.latest.settings["body"]["walls"] for plan in Plan.objects.all()}, {2}
        )
        other = self.workshop.machines.get().nozzles.last()
        refused = self.send(
            f"recipes/{recipe.pk}/apply",
            {"parts": parts, "nozzle": other.pk, "material": material.pk},
        )["refused"]
        self.assertEqual(len(refused), 2)
        self.assertIn("is for a 0.4 mm nozzle", refused[0])
