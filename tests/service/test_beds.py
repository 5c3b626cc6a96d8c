"""Beds over the API: made of plans, arranged, changed, undone, committed as one job."""

from datetime import timedelta
from unittest import mock

from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from service.beds.models import Bed, BedVersion
from service.beds.rules.versions import refresh_beds
from service.beds.tasks import put_beds_right
from service.jobs.models import Job
from service.jobs.rules.tidying import tidy
from service.plans.models import PlanVersion
from service.workshop.models import Spool
from tests.service.base import make_workshop, plan_body, signed_in, upload, work
from tests.service.cubes import Cubes


class Beds(Cubes):
    def bed(self, copies=4):
        made = self.send("POST", "/api/beds", {"plans": [self.plan], "copies": copies}, 201)
        work()
        return self.send("GET", f"/api/beds/{made['id']}")

    def change(self, bed, status=200, **body):
        found = self.send("PATCH", f"/api/beds/{bed['id']}", body, status)
        work()
        return self.send("GET", f"/api/beds/{bed['id']}") if status == 200 else found

    def test_copies_of_a_plan_arranged_and_laid(self):
        bed = self.bed()
        version = bed["version"]
        self.assertEqual((version["state"], version["beside"]), ("done", []))
        report = version["report"]
        self.assertEqual(len(report["placings"]), 4)
        self.assertEqual(report["findings"], [])
        self.assertEqual(
            [way["way"] for way in report["ways"]], ["together", "in-turn", "one-by-one"]
        )
        (pin,) = bed["pins"]
        self.assertEqual({p["plan"] for p in version["spec"]["placings"]}, {pin["key"]})
        self.assertIn(f"{pin['key']} 0", version["outlines"])
        moves = self.client.get(f"/api/bed-versions/{version['id']}/moves")
        self.assertEqual(moves.status_code, 200)
        with CaptureQueriesContext(connection) as one:
            (row,) = self.send("GET", "/api/beds")
        self.assertEqual((row["placings"], row["parts"]), (4, ["cube"]))
        self.assertAlmostEqual(row["time_s"], report["total_s"])
        self.bed(1)
        with CaptureQueriesContext(connection) as two:
            self.assertEqual(len(self.send("GET", "/api/beds")), 2)
        self.assertEqual(len(one), len(two))

    def test_changes_are_steps_that_can_be_taken_back(self):
        bed = self.bed()
        spec = {**bed["version"]["spec"], "way": "in-turn"}
        spec["placings"] = [
            {**p, "x": 70 * (k % 2), "y": 70 * (k // 2)} for k, p in enumerate(spec["placings"])
        ]
        turned = self.change(bed, spec=spec, base=bed["version"]["number"])
        self.assertEqual(turned["version"]["report"]["ways"][0]["way"], "in-turn")
        self.assertEqual(turned["version"]["report"]["findings"], [])
        self.assertTrue(turned["can_undo"])
        self.send("POST", f"/api/beds/{bed['id']}/undo")
        work()
        back = self.send("GET", f"/api/beds/{bed['id']}")
        self.assertEqual(back["version"]["spec"], bed["version"]["spec"])
        self.send("POST", f"/api/beds/{bed['id']}/redo")
        work()
        self.assertEqual(self.send("GET", f"/api/beds/{bed['id']}")["version"]["spec"], spec)
        self.send("POST", f"/api/beds/{bed['id']}/redo", status=422)

    def test_filled_and_too_many_lie_beside(self):
        bed = self.bed(1)
        key = bed["pins"][0]["key"]
        full = self.change(bed, wish="fill", fill_with=key)
        count = len(full["version"]["report"]["placings"])
        self.assertGreaterEqual(count, 49)
        spec = full["version"]["spec"]
        spec["placings"] += [{"plan": key}] * 40
        more = self.change(bed, spec=spec, wish="arrange")
        self.assertGreater(len(more["version"]["beside"]), 20)
        codes = {f["code"] for f in more["version"]["report"]["findings"]}
        self.assertIn("beyond-the-bed", codes)

    def test_filled_with_a_plan_that_is_not_on_it_yet(self):
        bed = self.bed(1)
        copy = self.send("POST", f"/api/plans/{self.plan}/copy", status=201)["id"]
        work()
        key = str(self.send("GET", f"/api/plans/{copy}")["latest"]["id"])
        full = self.change(bed, wish="fill", fill_with=key)["version"]
        self.assertEqual(full["state"], "done", full["message"])
        self.assertIn(key, {placing["plan"] for placing in full["spec"]["placings"]})
        # a plan that lies on a bed stays
        self.send("DELETE", f"/api/plans/{copy}", status=409)

    def test_copies_over_as_many_beds_as_it_takes(self):
        bed = self.bed(1)
        key = bed["version"]["spec"]["placings"][0]["plan"]
        empty = bed["version"]["spec"] | {"placings": []}
        full = self.change(bed, spec=empty, wish="fill", fill_with=key)
        each = len(full["version"]["spec"]["placings"])
        found = self.change(bed, wish="share", fill_with=key, count=2 * each + 3)
        spec = found["version"]["spec"]
        self.assertEqual((len(spec["placings"]), spec["times"]), (each, 2))
        rows = self.send("GET", "/api/beds")
        self.assertEqual([row["placings"] for row in rows], [3, each])
        self.assertEqual(rows[0]["name"], "Bed 1, 2 of 2")
        self.assertEqual({row["state"] for row in rows}, {"done"})
        # one step to undo, and evenly they are alike
        self.send("POST", f"/api/beds/{bed['id']}/undo")
        work()
        again = self.change(bed, wish="share", fill_with=key, count=2 * each - 4, evenly=True)
        spec = again["version"]["spec"]
        self.assertEqual((len(spec["placings"]), spec["times"]), (each - 2, 2))
        self.assertEqual(len(self.send("GET", "/api/beds")), 2)
        many = self.change(bed, wish="share", fill_with=key, count=199_999)
        self.assertIn("are shared out at once", many["version"]["message"])
        self.change(bed, 422, wish="share", count=3)

    def test_a_bed_of_parts_takes_their_newest_exact_plans(self):
        part = self.send("GET", "/api/plans")[0]["part"]
        made = self.send("POST", "/api/beds", {"parts": [part]}, 201)
        self.assertEqual([pin["plan"] for pin in made["pins"]], [self.plan])
        other = upload(self.client).json()["id"]
        work()
        for parts, words in (([part, other], "has no exact plan"), ([part, 999_999], "no part")):
            said = self.send("POST", "/api/beds", {"parts": parts}, 422)
            self.assertIn(words, said["detail"])
        self.assertIn("at least one", self.send("POST", "/api/beds", {}, 422)["detail"])

    def test_the_spool_counts_beds(self):
        spool = Spool.objects.get()
        bed = self.change(self.bed(2), spool=spool.pk)
        mass = bed["version"]["report"]["mass_g"]
        passes = bed["version"]["report"]["passes"]
        self.assertAlmostEqual(sum(passes["grams"]), mass, delta=0.01)
        reach = bed["spool_reach"]
        self.assertEqual(reach["beds"], int(reach["free_g"] / mass))
        self.assertEqual((reach["bed"], reach["missing_g"]), (reach["beds"] + 1, 0))
        spec = bed["version"]["spec"] | {"times": reach["beds"] + 2}
        more = self.change(bed, spec=spec)["spool_reach"]
        self.assertAlmostEqual(
            more["missing_g"], (reach["beds"] + 2) * mass - reach["free_g"], places=3
        )
        self.assertEqual(more["bed"], reach["bed"])
        self.assertIsNone(self.change(bed, spool=None)["spool_reach"])

    def test_plate_and_head_are_those_the_machine_has_now(self):
        bed = self.bed(1)
        machine = self.workshop.machines.get()
        machine.figures["keep_out"] = [{"name": "Worn spot", "size_x": 60, "size_y": 60}]
        machine.save()
        spec = {**bed["version"]["spec"], "clearance": 5}
        found = self.change(bed, spec=spec)["version"]["report"]["findings"]
        self.assertEqual([finding["code"] for finding in found], ["keep-out"])
        moved = self.change(bed, wish="arrange")["version"]["report"]
        self.assertEqual(moved["findings"], [])

    def test_a_newer_version_is_offered_and_never_taken_by_itself(self):
        bed = self.bed(1)
        self.assertIsNone(bed["pins"][0]["newer"])
        body = {"settings": {"body": {"infill_density": 0, "walls": 2}}}
        self.send("PATCH", f"/api/plans/{self.plan}", body)
        work()
        now = self.send("GET", f"/api/beds/{bed['id']}")
        self.assertEqual(now["version"]["number"], bed["version"]["number"])
        newer = now["pins"][0]["newer"]
        spec = now["version"]["spec"]
        spec["placings"] = [{**p, "plan": newer} for p in spec["placings"]]
        taken = self.change(bed, spec=spec)
        self.assertEqual(taken["pins"][0]["key"], newer)
        self.assertGreater(taken["version"]["report"]["mass_g"], bed["version"]["report"]["mass_g"])

    def test_what_cannot_be_on_one_bed_is_said(self):
        machine = self.workshop.machines.get()
        part = self.send("GET", "/api/parts")[0]["id"]
        other = {**plan_body(part, self.workshop), "nozzle": machine.nozzles.last().pk}
        thick = self.send("POST", "/api/plans", other, 201)["id"]
        work()
        answer = self.send("POST", "/api/beds", {"plans": [self.plan, thick]}, 422)
        self.assertIn("plan it for that one first", answer["detail"])
        bed = self.bed(1)
        spec = bed["version"]["spec"]
        wrong = self.change(bed, 422, spec={**spec, "clearance": -3})
        self.assertIn("clearance", wrong["detail"])
        for key in ("999999", "9" * 40, "²", "-1"):
            wrong = self.change(bed, 422, spec={**spec, "placings": [{"plan": key}]})
            self.assertIn(key, wrong["detail"])
        self.assertEqual(Bed.objects.get(pk=bed["id"]).latest.number, 1)

    def test_others_do_not_see_it(self):
        bed = self.bed(1)
        make_workshop("Elsewhere", "other")
        other = signed_in("other")
        self.assertEqual(other.get(f"/api/beds/{bed['id']}").status_code, 404)
        version = bed["version"]["id"]
        self.assertEqual(other.get(f"/api/bed-versions/{version}/moves").status_code, 404)

    def test_one_job_for_the_bed_and_an_outcome_for_every_copy(self):
        bed = self.bed(3)
        version = bed["version"]
        review = self.send("GET", f"/api/bed-versions/{version['id']}/review")
        self.assertAlmostEqual(review["each_g"], version["report"]["mass_g"])
        body = {
            "ticked": [c["key"] for c in review["checks"] if c["level"] == "look"],
            "key": "press",
        }
        path = f"/api/bed-versions/{version['id']}/commit"
        (job,) = self.send("POST", path, body, 201)
        self.assertEqual([job], self.send("POST", path, body, 201))
        self.assertEqual((job["bed"], len(job["copies"])), (bed["id"], 3))
        self.assertIn("3 placings", job["title"])
        self.assertAlmostEqual(job["figures"]["time_s"], version["report"]["total_s"])
        say = f"/api/jobs/{job['id']}/copies"
        early = self.send("POST", say, {"copies": [{"number": 1, "state": "good"}]}, 422)
        self.assertIn("has not ended", early["detail"])
        row = Job.objects.get(pk=job["id"])
        row.state, row.outcome = Job.State.DONE, "good"
        row.save()
        self.send("POST", say, {"copies": [{"number": 2, "state": "given-up"}]})
        found = self.send("POST", say, {"copies": [{"number": 3, "state": "failed"}]})
        self.assertEqual([c["state"] for c in found["copies"]], ["", "given-up", "failed"])
        # what a job is of stays
        self.send("DELETE", f"/api/beds/{bed['id']}", status=422)

    def test_a_damaged_file_is_computed_anew(self):
        bed = self.bed(1)
        version = BedVersion.objects.get(pk=bed["version"]["id"])
        default_storage.delete(version.moves_key)
        default_storage.save(version.moves_key, ContentFile(b"lost"))
        path = f"/api/bed-versions/{version.pk}/moves"
        self.assertIn("computed anew", self.send("GET", path, status=422)["detail"])
        work()
        now = self.send("GET", f"/api/beds/{bed['id']}")["version"]
        self.assertEqual((now["number"], now["state"]), (2, "done"))
        self.assertEqual(self.client.get(f"/api/bed-versions/{now['id']}/moves").status_code, 200)

    def test_a_bed_that_stops_is_not_committed(self):
        bed = self.bed(2)
        spec = bed["version"]["spec"]
        spec["placings"] = [{**p, "x": 3.0 * k, "y": 0.0} for k, p in enumerate(spec["placings"])]
        near = self.change(bed, spec=spec)
        path = f"/api/bed-versions/{near['version']['id']}/commit"
        answer = self.send("POST", path, {"ticked": []}, 422)
        self.assertIn("lie on each other", answer["detail"])

    def test_one_without_a_task_gets_one(self):
        with mock.patch("service.beds.rules.versions.later", return_value=0):
            made = self.send("POST", "/api/beds", {"plans": [self.plan]}, 201)
        put_beds_right.func(0)
        work()
        self.assertEqual(Bed.objects.get(pk=made["id"]).latest.state, BedVersion.State.DONE)

    def test_what_an_older_core_laid_is_laid_again(self):
        bed = self.bed(2)
        BedVersion.objects.update(core_version="0.1")
        self.assertIsNone(self.send("GET", f"/api/beds/{bed['id']}")["version"]["report"])
        self.assertEqual(refresh_beds(), 1)
        work()
        self.assertEqual(refresh_beds(), 0)
        again = self.send("GET", f"/api/beds/{bed['id']}")["version"]
        self.assertEqual(again["spec"], bed["version"]["spec"])
        self.assertEqual(again["report"]["total_s"], bed["version"]["report"]["total_s"])

    def test_old_versions_of_a_bed_go_and_unpin_what_they_pinned(self):
        bed = self.bed(1)
        old = int(bed["pins"][0]["key"])
        settings = {"body": {"infill_density": 0, "walls": 2}}
        self.send("PATCH", f"/api/plans/{self.plan}", {"settings": settings})
        work()
        newer = self.send("GET", f"/api/beds/{bed['id']}")["pins"][0]["newer"]
        spec = {**bed["version"]["spec"], "placings": [{"plan": newer}]}
        self.change(bed, spec=spec)
        BedVersion.objects.update(back=None, forth=None)
        PlanVersion.objects.update(back=None, forth=None)
        self.workshop.keep_days = 1
        self.workshop.save()
        tidy(timezone.now() + timedelta(days=9))
        self.assertEqual(Bed.objects.get(pk=bed["id"]).versions.count(), 1)
        self.assertFalse(PlanVersion.objects.filter(pk=old).exists())

    def test_pinned_versions_are_not_tidied_away(self):
        bed = self.bed(1)
        pin = int(bed["pins"][0]["key"])
        for walls in (2, 3):
            body = {"settings": {"body": {"infill_density": 0, "walls": walls}}}
            self.send("PATCH", f"/api/plans/{self.plan}", body)
            work()
        self.workshop.keep_days = 1
        self.workshop.save()
        PlanVersion.objects.update(back=None, forth=None)
        tidy(timezone.now() + timedelta(days=9))
        self.assertTrue(PlanVersion.objects.filter(pk=pin).exists())
        version = Bed.objects.get(pk=bed["id"]).latest
        self.assertEqual(self.client.get(f"/api/bed-versions/{version.pk}/moves").status_code, 200)
