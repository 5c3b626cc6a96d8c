"""The review before a commit: what stops, what wants a tick, grams reserved, clock times; and how
far spools reach.
"""

from datetime import datetime

from service.jobs.models import Job
from service.jobs.rules.schedule import open_jobs, schedule
from service.workshop.models import Machine, Spool
from tests.core.shapes import cube, stl
from tests.service.minded import Minded
from tests.service.planned import JSON


class Review(Minded):
    def review(self, plan, copies=1):
        version = self.client.get(f"/api/plans/{plan}").json()["latest"]["id"]
        return self.client.get(f"/api/versions/{version}/review?copies={copies}").json()

    def checks(self, plan, copies=1):
        return {check["key"]: check for check in self.review(plan, copies)["checks"]}

    def test_the_workshops_own_list_wants_its_ticks(self):
        self.client.patch(
            "/api/workshop", {"checklist": ["Bed clean", "Window shut"]}, content_type=JSON
        )
        plan = self.plan(self.small())
        self.assertEqual(self.checks(plan)["own 1"]["words"], "Window shut")
        refused = self.commit(plan, 422, ticked=["own 0"])
        self.assertIn("not ticked on the review: Window shut", refused["detail"])
        job = self.commit(plan, ticked=["own 0", "own 1"])[0]
        self.assertEqual(len(Job.objects.get().checks), len(self.checks(plan)))
        # frozen: with what it was committed
        frozen = Job.objects.get(pk=job["id"])
        self.assertEqual(frozen.spec["material"]["name"], "PLA")
        self.assertEqual(set(frozen.checksums), {"spec", "file", "core"})

    def test_grams_are_reserved_and_said(self):
        plan = self.plan(self.small())
        each = self.review(plan)["each_g"]
        Spool.objects.update(usable_mass=3.4 * each)
        self.assertEqual(self.checks(plan, 3)["spool"]["level"], "fine")
        self.commit(plan, copies=2)
        found = self.review(plan, 2)
        self.assertAlmostEqual(found["reserved_g"], 2 * each, 6)
        self.assertAlmostEqual(found["left_g"], -0.6 * each, 6)
        self.assertIn("it holds 1 of 2", self.checks(plan, 2)["spool"]["words"])
        self.assertIn("it holds 1 of 2", self.commit(plan, 422, copies=2, ticked=[])["detail"])
        spool = self.client.get("/api/materials").json()[0]["spools"][0]
        self.assertAlmostEqual(spool["reserved"], 2 * each, 6)
        self.assertEqual(self.client.delete(f"/api/spools/{spool['id']}").status_code, 422)
        for job in Job.objects.all():
            self.order({"id": job.pk}, "cancel")
        self.assertEqual(self.review(plan)["reserved_g"], 0)

    def test_clock_times_follow_what_waits_before(self):
        plan = self.plan(self.small())
        alone = self.review(plan)
        seconds = self.client.get(f"/api/plans/{plan}").json()["latest"]["report"]["time_s"][
            "total"
        ]

        def at(text):
            return datetime.fromisoformat(text).timestamp()

        self.assertAlmostEqual(at(alone["first"]["end"]) - at(alone["first"]["begin"]), seconds, 2)
        self.commit(plan, copies=2)
        later = self.review(plan)
        # two jobs and two changes of the bed before it
        self.assertAlmostEqual(
            at(later["first"]["begin"]) - at(alone["first"]["begin"]),
            2 * seconds + 2 * 300,
            delta=20,
        )
        self.assertIn("2 jobs are before it", self.checks(plan)["machine"]["words"])
        Machine.objects.update(
            learnt={"factor": 1, "layer_s": 0, "spread": 0.02, "before": 0, "jobs": 5}
        )
        machine = Machine.objects.get()
        slots = list(schedule(machine, open_jobs(machine)).values())
        # errors of jobs one after the other add up as their squares
        self.assertAlmostEqual(slots[0].give_s, 0.04 * seconds, 3)
        self.assertAlmostEqual(slots[1].give_s, 0.04 * seconds * 2**0.5, 3)

    def test_what_hangs_on_the_machine_and_whether_it_answers(self):
        plan = self.plan(self.small())
        other = Spool.objects.create(
            material=self.workshop.materials.get(), label="S-9", usable_mass=5
        )
        Machine.objects.update(
            loaded=other, held=True, contact={"error": "http://x does not answer"}
        )
        found = self.checks(plan)
        self.assertIn(
            "S-9 (PLA) hangs on Bench 200; the job waits until S-1", found["material"]["words"]
        )
        self.assertEqual({found[key]["level"] for key in ("material", "held", "contact")}, {"look"})
        self.assertNotIn("simulated", found["machine"]["words"])
        # clock times that would surprise are explained
        Machine.objects.update(contact={"state": {"factor": 60.0}})
        self.assertEqual(
            self.checks(plan)["machine"]["words"],
            "Bench 200 is free. It is simulated, 60 times as fast as a real one.",
        )

    def test_nonsense_is_refused(self):
        plan = self.plan(self.small())
        version = self.client.get(f"/api/plans/{plan}").json()["latest"]["id"]
        for copies in ("0", "501", "x"):
            self.assertEqual(
                self.client.get(f"/api/versions/{version}/review?copies={copies}").status_code, 422
            )
        self.assertEqual(
            self.client.post(
                "/api/jobs", {"version": version, "copies": 0}, content_type=JSON
            ).status_code,
            400,
        )


class Reach(Minded):
    def reach(self, plan, status=200, **body):
        body = {"spools": [Spool.objects.filter(label="S-1").get().pk], "copies": 3, **body}
        answer = self.client.post(f"/api/plans/{plan}/reach", body, content_type=JSON)
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def test_how_far_spools_reach_and_what_makes_one_more(self):
        plan = self.plan(stl(cube(14)))
        report = self.client.get(f"/api/plans/{plan}").json()["latest"]["report"]
        each = report["filament"]["mass_g"]
        Spool.objects.update(usable_mass=2.96 * each)
        found = self.reach(plan, start="2026-11-25T22:00:00Z")
        self.assertEqual((found["copies"], found["one_more"]), (2, 3))
        self.assertAlmostEqual(found["lighter_g"], each - 2.96 * each / 3, 6)
        self.assertAlmostEqual(found["missing_g"], 0.04 * each, 3)
        (end,) = found["runs_out"]
        self.assertEqual((end["label"], end["copy"]), ("S-1", 3))
        masses = report["layers"]["mass_g"]
        self.assertLessEqual(sum(masses[: end["layer"] - 1]), 0.96 * each)
        self.assertGreater(sum(masses[: end["layer"]]), 0.96 * each - 1e-9)
        self.assertTrue(found["ways"])
        # the first way, taken, does make one more fit
        name, value = next(iter(found["ways"][0]["change"].items()))
        group, _, key = name.partition(".")
        self.change(plan, **{group: {key: value}})
        self.assertGreaterEqual(self.reach(plan)["copies"], 3)

    def test_a_second_spool_and_wrong_ones(self):
        plan = self.plan(self.small())
        material = self.workshop.materials.get()
        second = Spool.objects.create(material=material, label="S-2", usable_mass=100)
        Spool.objects.filter(label="S-1").update(usable_mass=0.1)
        found = self.reach(plan, spools=[Spool.objects.get(label="S-1").pk, second.pk])
        self.assertEqual([end["label"] for end in found["runs_out"]], ["S-1"])
        self.assertEqual(found["missing_g"], 0)
        self.reach(plan, 422, spools=[])
        self.reach(plan, 422, spools=[999])
        self.reach(plan, 400, copies=0)


class Outcome(Minded):
    def test_photo_weight_measures_and_cost(self):
        self.client.patch("/api/workshop", {"labour_rate": 30}, content_type=JSON)
        plan = self.plan(self.small())
        job = self.commit(plan)[0]
        png = b"\x89PNG\r\n\x1a\n" + b"0" * 40
        from django.core.files.uploadedfile import SimpleUploadedFile

        path = f"/api/jobs/{job['id']}"
        self.assertEqual(
            self.client.post(
                f"{path}/photo", {"file": SimpleUploadedFile("a.txt", b"text")}
            ).status_code,
            422,
        )
        self.assertEqual(
            self.client.post(
                f"{path}/photo", {"file": SimpleUploadedFile("a.png", png)}
            ).status_code,
            200,
        )
        self.assertEqual(self.client.get(f"{path}/photo").content, png)
        body = {
            "outcome": "good",
            "actual_s": 900,
            "finishing_min": 6,
            "weighed_g": 2 * job["figures"]["mass_g"],
            "measures": [{"name": "bore", "nominal_mm": 6, "measured_mm": 5.9}],
        }
        told = self.client.post(f"{path}/outcome", body, content_type=JSON).json()
        self.assertEqual(
            (told["state"], told["photo"], told["measures"][0]["name"]), ("done", True, "bore")
        )
        self.assert_booked(Job.objects.get(), job["figures"]["mass_g"])
        self.assertIn("too far apart", self.client.post(f"{path}/flow").json()["detail"])
        self.client.post(
            f"{path}/outcome",
            {**body, "weighed_g": 0.97 * job["figures"]["mass_g"]},
            content_type=JSON,
        )
        self.assertAlmostEqual(
            self.client.post(f"{path}/flow").json()["flow"], 100 / 0.97, delta=0.01
        )
        experience = self.client.get(f"/api/plans/{plan}").json()["experience"]
        self.assertEqual(
            (experience["jobs"], experience["good"], experience["finishing_min"]), (1, 1, 6)
        )
        self.assertAlmostEqual(experience["finishing_cost"], 3.0)
        # what the corrected flow makes of the next plan
        after = self.change(plan, body={"outer_width": 0.4501})["latest"]["report"]["filament"][
            "mass_g"
        ]
        self.assertAlmostEqual(after / job["figures"]["mass_g"], 1 / 0.97, delta=0.005)

    def test_the_slip(self):
        job = self.commit(self.plan(self.small()))[0]
        slip = self.client.get(f"/api/jobs/{job['id']}/slip").json()
        self.assertTrue(slip["code"].startswith("<svg"))
        self.assertTrue(slip["address"].endswith(f"/jobs/{job['id']}"))
        lines = {line["label"]: line["value"] for line in slip["settings"]}
        self.assertIn("nozzle 210 then 205 °C", lines["temperatures"])
        self.assertIsNotNone(slip["job"]["slot"])
