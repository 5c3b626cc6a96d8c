"""What came of jobs, and what a machine learns from it."""

from service.jobs.models import Job
from service.workshop.models import Machine
from tests.core.shapes import cube, stl
from tests.service.base import make_workshop, signed_in, work
from tests.service.planned import Planned
from tests.service.test_api import JSON


class Outcomes(Planned):
    def tell(self, job, factor=1.05, status=200, **values):
        body = {"outcome": "good", "actual_s": factor * job["figures"]["time_s"], **values}
        answer = self.client.post(f"/api/jobs/{job['id']}/outcome", body, content_type=JSON)
        self.assertEqual(answer.status_code, status, answer.content)
        work()
        return answer.json()

    def machine(self):
        return self.client.get("/api/machines").json()[0]

    def test_a_machine_learns_from_three_jobs_and_takes_it_back(self):
        plans = [self.plan(stl(cube(size))) for size in (6, 8, 12)]
        jobs = [self.commit(plan) for plan in plans]
        told = self.tell(jobs[0], finishing_min=12, note="a string at the seam")
        self.assertEqual(
            (told["outcome"], told["finishing_min"], told["note"]),
            ("good", 12, "a string at the seam"),
        )
        self.tell(jobs[1])
        self.assertIsNone(self.machine()["learnt"])
        self.tell(jobs[2])
        learnt = self.machine()["learnt"]
        self.assertEqual(learnt["jobs"], 3)
        self.assertGreater(learnt["before"], 0.04)
        # estimates made from now on are longer and have a range; what was committed stays
        before = jobs[2]["figures"]["time_s"]
        after = self.change(plans[2], body={"outer_width": 0.4501})["latest"]["report"]["time_s"]
        self.assertAlmostEqual(after["total"] / before, 1.05, delta=0.02)
        self.assertGreaterEqual(after["spread"], 0)
        self.assertEqual(Job.objects.get(pk=jobs[2]["id"]).figures["time_s"], before)
        # a failed job tells nothing about speed
        self.tell(jobs[0], outcome="failed")
        self.assertIsNone(self.machine()["learnt"])
        self.tell(jobs[0])
        machine = self.machine()["id"]
        self.assertIsNone(self.client.delete(f"/api/machines/{machine}/learnt").json()["learnt"])
        self.assertEqual(
            Machine.objects.get().nozzles.first().spec().get("acceleration_reached"), None
        )
        self.assertEqual(
            self.client.post(f"/api/machines/{machine}/learnt").json()["learnt"]["jobs"], 3
        )

    def test_what_makes_no_sense_is_refused(self):
        job = self.commit(self.plan(stl(cube(6))))
        for wrong in (
            {"outcome": "fine"},
            {"actual_s": 0},
            {"finishing_min": -1},
            {"note": "x" * 2001},
        ):
            self.tell(job, status=400, **wrong)
        make_workshop("Elsewhere", "visitor")
        visitor = signed_in("visitor")
        self.assertEqual(
            visitor.post(
                f"/api/jobs/{job['id']}/outcome", {"outcome": "good"}, content_type=JSON
            ).status_code,
            404,
        )
        self.assertEqual(
            visitor.delete(f"/api/machines/{self.machine()['id']}/learnt").status_code, 404
        )
        self.assertEqual(Job.objects.get().outcome, "")
