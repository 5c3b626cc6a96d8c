"""A copy of a bed's job is given up while the machine lays it."""

import signal

from service.jobs.models import Job
from tests.service.base import work
from tests.service.minded import JSON, Minded


class GiveUp(Minded):
    def job(self, labels="M486"):
        machine = self.workshop.machines.first()
        machine.figures = {**machine.figures, "object_labels": labels, "extrusion": "relative"}
        machine.save(update_fields=["figures"])
        plan = self.plan()
        made = self.sent("/api/beds", {"plans": [plan], "copies": 3}, 201)
        work()
        version = self.client.get(f"/api/beds/{made['id']}").json()["version"]["id"]
        review = self.client.get(f"/api/bed-versions/{version}/review").json()
        ticked = [check["key"] for check in review["checks"]]
        (job,) = self.sent(f"/api/bed-versions/{version}/commit", {"ticked": ticked}, 201)
        return job

    def sent(self, path, body, status=200):
        answer = self.client.post(path, body, content_type=JSON)
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def test_the_machine_leaves_it_out_and_spool_and_copies_know(self):
        printer = self.connect(factor=0.0)
        job = self.job()
        early = self.order(job, "give-up", 422, copy=2)
        self.assertIn("while the machine lays it", early["detail"])
        self.mind_to(job, "heating")
        found = self.order(job, "give-up", copy=2)
        self.assertEqual([copy["state"] for copy in found["copies"]], ["", "given-up", ""])
        self.assertEqual(printer.state()["given_up"], [1])
        self.assertEqual(self.order(job, "give-up", copy=2)["reason"], "")
        self.assertIn("no copy 9", self.order(job, "give-up", 422, copy=9)["detail"])
        self.order(job, "give-up", copy=1)
        self.assertIn("cancel the job", self.order(job, "give-up", 422, copy=3)["detail"])
        printer.ask("POST", "/factor", {"factor": 1e6})
        done = self.mind_to(job, "done")
        # one of three was laid
        self.assertAlmostEqual(done.booked_mm / done.figures["length_mm"], 1 / 3, delta=0.02)
        self.assertEqual(done.given_up, [1, 2])
        # its machine learns nothing from a file that was not laid in full
        work()
        done.machine.refresh_from_db()
        self.assertIsNone(done.machine.learnt)

    def test_it_waits_for_a_machine_that_does_not_answer(self):
        printer = self.connect(factor=0.0)
        job = self.job()
        self.mind_to(job, "heating")
        printer.process.send_signal(signal.SIGSTOP)
        self.order(job, "give-up", copy=3)
        self.assertTrue(Job.objects.get(pk=job["id"]).copies[2]["asked"])
        printer.process.send_signal(signal.SIGCONT)
        self.mind_until(lambda: printer.state()["given_up"] == [2])
        self.assertNotIn("asked", Job.objects.get(pk=job["id"]).copies[2])

    def test_without_labels_it_says_what_would_help(self):
        self.connect(factor=0.0)
        job = self.job("none")
        self.mind_to(job, "heating")
        self.assertIn("Labels of placings", self.order(job, "give-up", 422, copy=1)["detail"])
