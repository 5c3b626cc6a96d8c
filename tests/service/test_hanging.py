"""A job begins only with its own spool and nozzle. Otherwise it waits until a person says that they
were changed.
"""

import random
from unittest import mock

from django.db import connection
from django.test.utils import CaptureQueriesContext

from service.jobs.models import Job
from service.jobs.rules import sending
from service.workshop.models import Machine, Material, Nozzle, Spool, SpoolEntry
from tests.service.minded import Minded, mind_all
from tests.service.planned import JSON


class Hanging(Minded):
    def setUp(self):
        super().setUp()
        self.asa = Material.objects.create(workshop=self.workshop, name="ASA", purge_g=3)
        self.other = Spool.objects.create(material=self.asa, label="A-1", usable_mass=300)

    def job(self, spool=None, plan=None):
        """A job that waits, of a plan in the material of a spool; of S-1 where none is named."""
        if plan is None:
            spool = spool or self.spool()
            body = {"material": spool.material_id, "spool": spool.pk}
            plan = self.plan(self.small(), **body)
        return self.commit(plan)[0]

    def spool(self):
        return Spool.objects.get(label="S-1")

    def board(self):
        (machine,) = self.client.get("/api/board").json()["machines"]
        return machine

    def hung_up(self, status=200, **body):
        machine = Machine.objects.get()
        answer = self.client.post(f"/api/machines/{machine.pk}/hung-up", body, content_type=JSON)
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def move_on(self, printer):
        """Look after the machine a few times, and see that nothing begins on it."""
        for _ in range(3):
            mind_all()
        self.assertEqual(printer.state()["phase"], "idle")

    def test_another_filament_waits_for_a_hand_and_goes_on(self):
        printer = self.connect()
        job = self.job(self.other)
        self.move_on(printer)
        self.assertEqual(Job.objects.get().state, "queued")
        change = self.board()["change"]
        self.assertEqual((change["kind"], change["spool_label"]), ("spool", "A-1"))
        self.assertIn("needs A-1 (ASA), and S-1 (PLA) hangs there", change["words"])
        self.assertIn("Feed it until it runs clean, about 3 g.", change["steps"])
        self.hung_up(spool=self.other.pk)
        self.mind_to(job, "done")
        machine = Machine.objects.get()
        self.assertEqual((machine.loaded, machine.loaded_by.username), (self.other, "maker"))
        self.assertIsNotNone(machine.loaded_since)
        # what was laid until it ran clean was taken off the new spool
        first = self.other.entries.order_by("created").first()
        self.assertAlmostEqual(first.grams, -3)
        self.assertEqual(printer.state()["material"], "ASA")

    def test_what_hangs_there_of_the_same_kind_can_be_taken(self):
        second = Spool.objects.create(material=self.spool().material, label="S-2", usable_mass=300)
        printer = self.connect()
        job = self.job(second)
        self.move_on(printer)
        change = self.board()["change"]
        self.assertEqual((change["instead"], change["instead_label"]), (self.spool().pk, "S-1"))
        path = f"/api/jobs/{job['id']}/spool"
        answer = self.client.post(path, {"spool": change["instead"]}, content_type=JSON)
        self.assertEqual(answer.status_code, 200, answer.content)
        done = self.mind_to(job, "done")
        self.assertEqual(done.spool, self.spool())
        self.assertEqual(second.entries.count(), 0)

    def test_a_machine_of_which_nothing_is_known_asks(self):
        printer = self.connect()
        Machine.objects.update(loaded=None)
        job = self.job()
        self.move_on(printer)
        change = self.board()["change"]
        self.assertIn("nobody has said what hangs there", change["words"])
        self.assertEqual(change["grams"], 0)
        self.hung_up(spool=self.spool().pk)
        self.mind_to(job, "done")

    def test_a_job_that_names_no_spool_begins_in_its_material_only(self):
        printer = self.connect()
        Machine.objects.update(loaded=self.other)
        job = self.job(plan=self.plan(self.small(), spool=None))
        self.move_on(printer)
        self.assertIn("is for PLA, and A-1 (ASA) hangs there", self.board()["change"]["words"])
        self.hung_up(spool=self.spool().pk)
        self.mind_to(job, "done")

    def test_a_spool_that_does_not_reach_begins_only_where_somebody_says_so(self):
        printer = self.connect()
        job = self.job()
        Spool.objects.filter(label="S-1").update(usable_mass=0.1)
        self.move_on(printer)
        change = self.board()["change"]
        self.assertEqual(change["kind"], "short")
        self.assertIn("S-1 has 0.1 g left", change["words"])
        self.order(job, "begin-short")
        self.mind_until(lambda: Job.objects.get().state != "queued")
        self.order(job, "begin-short", 422)

    def test_another_nozzle_waits_too(self):
        printer = self.connect()
        fine, wide = Machine.objects.get().nozzles.all()
        self.hung_up(nozzle=wide.pk)
        job = self.job()
        self.move_on(printer)
        change = self.board()["change"]
        self.assertEqual((change["kind"], change["nozzle"]), ("nozzle", fine.pk))
        self.hung_up(nozzle=fine.pk)
        self.mind_to(job, "done")

    def test_carried_by_hand_and_on_a_drive_it_waits_too(self):
        job = self.job(self.other)
        said = self.order(job, "started", 422)
        self.assertIn("needs A-1 (ASA)", said["detail"])
        self.hung_up(spool=self.other.pk)
        self.assertEqual(self.order(job, "started")["state"], "printing")
        # while it runs nobody can say that something else hangs there
        self.assertIn("pause it", self.hung_up(422, spool=self.spool().pk)["detail"])

    def test_a_spool_hangs_on_one_machine_at_a_time(self):
        another = self.another_machine("Bench 300")
        Machine.objects.filter(pk=another.pk).update(loaded=self.other)
        first = Machine.objects.order_by("pk").first()
        path = f"/api/machines/{first.pk}/hung-up"
        self.job(self.other)
        board = self.client.get("/api/board").json()
        held = next(found for found in board["machines"] if found["id"] == first.pk)
        self.assertIn("which hangs on Bench 300 now", " ".join(held["change"]["steps"]))
        self.client.post(path, {"spool": self.other.pk}, content_type=JSON)
        another.refresh_from_db()
        self.assertIsNone(another.loaded)
        self.assertEqual(self.client.post(path, {}, content_type=JSON).status_code, 400)

    def test_clock_times_count_changes_and_like_goes_with_like(self):
        Machine.objects.update(clears_itself=True, spool_change_min=30)
        one, two = (
            self.plan(self.small()),
            self.plan(self.small(), material=self.asa.pk, spool=self.other.pk),
        )
        jobs = [self.job(plan=plan) for plan in (one, two, one, two)]
        before = self.board()
        self.assertEqual(before["fewer"], {"now": 3, "least": 1})
        self.assertEqual((before["unattended"]["count"], before["unattended"]["waiting"]), (1, 4))
        self.assertIn("needs A-1 (ASA)", before["unattended"]["then"])
        machine = Machine.objects.get()
        answer = self.client.post(f"/api/machines/{machine.pk}/regroup")
        self.assertEqual(answer.status_code, 204)
        after = self.board()
        order = [job["number"] for job in after["jobs"]]
        self.assertEqual(order, [jobs[k]["number"] for k in (0, 2, 1, 3)])
        self.assertIsNone(after["fewer"])
        self.assertEqual(after["unattended"]["count"], 2)
        ends = [max(job["slot"]["end"] for job in board["jobs"]) for board in (before, after)]
        self.assertGreater(ends[0], ends[1])

    def test_the_board_asks_as_often_for_many_jobs(self):
        plan = self.plan(self.small(), material=self.asa.pk, spool=self.other.pk)
        asked = []
        for copies in (2, 6):
            for _ in range(copies):
                self.job(plan=plan)
            with CaptureQueriesContext(connection) as queries:
                self.board()
            asked.append(len(queries))
        self.assertEqual(*asked)

    def test_spool_and_nozzle_can_be_said_at_once(self):
        wide = Machine.objects.get().nozzles.last()
        self.hung_up(spool=self.other.pk, nozzle=wide.pk)
        machine = Machine.objects.get()
        self.assertEqual((machine.loaded, machine.fitted), (self.other, wide))

    def test_a_bed_can_be_cleared_while_another_filament_is_asked_for(self):
        printer = self.connect(clears=False)
        first, second = self.job(), self.job(self.other)
        self.mind_to(first, "done")
        self.assertIn("say when it is clear", self.board()["trouble"])
        self.assertEqual(self.board()["change"]["job"], second["id"])
        path = f"/api/machines/{Machine.objects.get().pk}/clear"
        self.assertEqual(self.client.post(path).status_code, 200)
        self.move_on(printer)
        self.hung_up(spool=self.other.pk)
        self.mind_to(second, "done")

    def test_what_was_hung_up_while_the_file_was_on_its_way(self):
        printer = self.connect()
        job = self.job()
        bring = sending._bring

        def slowly(there, what):
            found = bring(there, what)
            Machine.objects.update(loaded=self.other)
            return found

        with mock.patch.object(sending, "_bring", slowly):
            mind_all()
        self.assertEqual((Job.objects.get().state, printer.state()["phase"]), ("queued", "idle"))
        self.hung_up(spool=self.spool().pk)
        self.mind_to(job, "done")


class Night(Minded):
    """Ten jobs in three filaments on three machines, and somebody who comes by now and then:
    nothing is laid in the wrong one, and every job is counted once.
    """

    #: a longer run by hand sets ``Night.SEEDS = range(20)``
    SEEDS = (1, 2)

    def setUp(self):
        super().setUp()
        self.spools = [Spool.objects.get()]
        for name in ("ASA", "PETG"):
            material = Material.objects.create(workshop=self.workshop, name=name)
            spool = Spool.objects.create(material=material, label=name, usable_mass=300)
            self.spools.append(spool)
        machines = [self.workshop.machines.get()]
        machines += [Machine.objects.create(workshop=self.workshop, name=f"B{k}") for k in (1, 2)]
        for machine in machines:
            if not machine.nozzles.exists():
                Nozzle.objects.create(machine=machine, bore=0.4, flow=20, least_height=0.08)
            self.connect(machine, factor=1e6)
        part = self.small()
        self.plans = [
            self.plan(
                part,
                nozzle=machine.nozzles.first().pk,
                material=spool.material_id,
                spool=spool.pk,
            )
            for machine in machines
            for spool in self.spools
        ]

    def test_nothing_is_laid_in_the_wrong_filament(self):
        for seed in self.SEEDS:
            with self.subTest(seed=seed):
                self.one_night(random.Random(seed))

    def one_night(self, draw):
        Job.objects.all().delete()
        SpoolEntry.objects.all().delete()
        for _ in range(10):
            self.commit(draw.choice(self.plans))

        def over():
            if draw.random() < 0.3:  # somebody is awake
                for machine in self.client.get("/api/board").json()["machines"]:
                    if (change := machine["change"]) is not None:
                        path = f"/api/machines/{machine['id']}/hung-up"
                        body = {"spool": change["spool"]}
                        # a spool that another machine is printing from is refused
                        answer = self.client.post(path, body, content_type=JSON)
                        self.assertIn(answer.status_code, (200, 422), answer.content)
            return Job.objects.filter(state="done").count() == 10

        self.mind_until(over, 240, "ten jobs")
        # the printers, which read by their own code what a file is for, failed none of them
        for job in Job.objects.all():
            entries = list(job.entries.all())
            self.assertEqual({entry.spool_id for entry in entries}, {job.spool_id})
            grams = -sum(entry.grams for entry in entries)
            self.assertAlmostEqual(grams, job.figures["mass_g"], delta=0.01)
