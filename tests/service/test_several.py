"""Many plans at once: changed, removed, as files and as a table; and what came of each plan."""

import csv
import io
import zipfile

from northpace.plan.file import read_plan
from service.jobs.models import Job
from service.jobs.rules.prints import prints_of
from service.plans.models import Plan
from service.workshop.models import Recipe
from tests.core.shapes import cube, stl
from tests.service.base import make_workshop, signed_in, work
from tests.service.planned import JSON, Planned


class Several(Planned):
    def setUp(self):
        super().setUp()
        self.first = self.plan(stl(cube(8)), settings={"place": {"turn_z": 30}})
        self.second = self.plan(stl(cube(9)))
        self.both = [self.first, self.second]

    def post(self, address, **body):
        answer = self.client.post(f"/api/plans/several{address}", body, content_type=JSON)
        self.assertEqual(answer.status_code, 200, answer.content)
        work()
        return answer.json()

    def settings_of(self, plan):
        return Plan.objects.get(pk=plan).latest.settings

    def test_a_recipe_leaves_the_part_where_it_stands(self):
        recipe = Recipe.objects.create(
            workshop=self.workshop, name="fine", settings={"body": {"walls": 5}}, bore=0.4
        )
        done = self.post("", plans=self.both, recipe=recipe.pk)
        self.assertEqual(done, {"plans": self.both, "refused": []})
        self.assertEqual(
            self.settings_of(self.first), {"body": {"walls": 5}, "place": {"turn_z": 30}}
        )
        self.assertEqual(self.settings_of(self.second), {"body": {"walls": 5}})
        for plan in Plan.objects.all():
            self.assertEqual((plan.recipe, plan.latest.state), (recipe, "done"))
            self.assertEqual(plan.latest.number, 2)

    def test_what_one_refuses_the_others_take(self):
        self.change(self.first, surface={"layer_height": 0.3})
        nozzle = Plan.objects.get(pk=self.first).latest.nozzle
        small = nozzle.machine.nozzles.create(bore=0.25, flow=4, least_height=0.05)
        done = self.post("", plans=self.both, nozzle=small.pk)
        self.assertEqual(done["plans"], [self.second])
        self.assertEqual(len(done["refused"]), 1)
        self.assertIn("plan 1: surface.layer_height", done["refused"][0])
        self.assertEqual(Plan.objects.get(pk=self.second).latest.nozzle, small)

    def test_a_spool_of_another_material_takes_its_material_along(self):
        other = self.workshop.materials.create(name="Other")
        spool = other.spools.create(label="O-1", usable_mass=500)
        self.post("", plans=self.both, spool=spool.pk)
        for plan in Plan.objects.all():
            self.assertEqual((plan.latest.material, plan.latest.spool), (other, spool))

    def test_removed_but_for_what_jobs_need(self):
        self.commit(self.first)
        done = self.post("/remove", plans=self.both)
        self.assertEqual(done["plans"], [self.second])
        self.assertIn("plan 1: jobs were committed", done["refused"][0])
        self.assertEqual([plan.pk for plan in Plan.objects.all()], [self.first])

    def test_files_are_read_back(self):
        answer = self.client.get(f"/api/plans/several/file?plans={self.first},{self.second}")
        self.assertEqual(answer.status_code, 200, answer.content[:200])
        with zipfile.ZipFile(io.BytesIO(answer.content)) as archive:
            self.assertEqual(len(archive.namelist()), 2)
            file = read_plan(archive.read(archive.namelist()[0]))
        self.assertEqual(file.spec.place.turn_z, 30)

    def test_a_table_of_what_is_searched_for(self):
        Plan.objects.filter(pk=self.first).update(verdict="=1+1")
        Plan.objects.filter(pk=self.second).update(name="trial")
        answer = self.client.get("/api/plans/table?sort=plan&down=false")
        rows = list(csv.reader(io.StringIO(b"".join(answer.streaming_content).decode())))
        self.assertEqual([row[1] for row in rows], ["plan", "1", "2"])
        self.assertEqual(rows[1][-1], "'=1+1")
        self.assertAlmostEqual(float(rows[1][5]), Plan.objects.get(pk=self.first).time_s)
        answer = self.client.get("/api/plans/table?search=trial")
        self.assertEqual(len(b"".join(answer.streaming_content).splitlines()), 2)

    def test_plans_of_others_are_none(self):
        make_workshop("Other", "stranger")
        other = signed_in("stranger")
        for address in ("", "/remove"):
            answer = other.post(
                f"/api/plans/several{address}", {"plans": self.both}, content_type=JSON
            )
            self.assertEqual(answer.status_code, 404)
        self.assertEqual(other.get(f"/api/plans/several/file?plans={self.first}").status_code, 404)
        for wrong in ("", "a,b", "1," * 300):
            answer = self.client.get(f"/api/plans/several/file?plans={wrong}")
            self.assertEqual(answer.status_code, 400, wrong)


class Prints(Planned):
    def test_what_came_of_a_plan_stands_with_it_and_its_part(self):
        plan = self.plan(stl(cube(8)))
        row = self.client.get("/api/plans").json()[0]
        self.assertEqual((row["printed"], row["told"], row["good"]), (None, 0, 0))
        for outcome in ("good", "flaws", "failed"):
            job = self.commit(plan)["id"]
            answer = self.client.post(
                f"/api/jobs/{job}/outcome", {"outcome": outcome}, content_type=JSON
            )
            self.assertEqual(answer.status_code, 200, answer.content)
        self.commit(plan)  # still waits
        last = Job.objects.get(number=2).ended  # the one that failed was not printed
        self.assertEqual(prints_of(plan), (last, 3, 1))
        row = self.client.get("/api/plans?sort=success").json()[0]
        self.assertEqual((row["told"], row["good"]), (3, 1))
        part = self.client.get("/api/parts?sort=printed").json()[0]
        self.assertEqual((part["told"], part["good"], part["printed"]), (3, 1, row["printed"]))
