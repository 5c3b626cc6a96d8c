"""Jobs on machines: done, held up, cut off and killed in every way that is simulated; nothing is
printed twice, lost, or booked wrong.
"""

import contextlib
import hashlib
import socket
import tempfile
import time
import urllib.request
from pathlib import Path
from threading import Event, Thread
from unittest import mock

from django.core.files.storage import default_storage
from django.db import OperationalError, connection, transaction

from service.files import fetch
from service.jobs.management.commands.mind import look_once
from service.jobs.models import Job
from service.jobs.rules import minding
from service.workshop.models import Machine, Material, Spool
from service.workshop.rules.printers import HttpPrinter
from tests.service.base import work
from tests.service.minded import Minded, mind_all
from tests.service.planned import JSON
from tests.standin.process import Background


class Ordinary(Minded):
    def test_a_job_is_sent_printed_and_booked(self):
        printer = self.connect()
        job = self.commit(self.plan(self.small()))[0]
        self.assertEqual(job["state"], "queued")
        done = self.mind_to(job, "done")
        self.assert_booked(done, done.figures["mass_g"])
        self.assertAlmostEqual(done.actual_s / done.figures["time_s"], 1, delta=0.02)
        self.assertEqual(done.progress["layer"], done.figures["layers"])
        # the next one starts by itself, and the bed was cleared by the machine
        again = self.client.post(f"/api/jobs/{job['id']}/reprint").json()
        self.assertEqual(again["reprint_of"], job["number"])
        self.mind_to(again, "done")
        self.assertEqual(len(printer.ask("GET", f"/runs/{done.run}")["run"]), 32)
        self.assertEqual(Job.objects.exclude(run="").count(), 2)

    def test_the_bed_has_to_be_clear(self):
        self.connect(clears=False)
        one, two = self.commit(self.plan(self.small()), copies=2)
        self.mind_to(one, "done")
        mind_all()
        self.assertEqual(Job.objects.get(pk=two["id"]).state, "queued")
        board = self.client.get("/api/board").json()["machines"][0]
        self.assertIn("lies on the bed", board["trouble"])
        machine = Machine.objects.get()
        self.assertEqual(self.client.post(f"/api/machines/{machine.pk}/clear").status_code, 200)
        self.mind_to(two, "done")

    def test_a_file_on_its_way_holds_nobody_up_and_is_not_begun_once_cancelled(self):
        self.connect()
        job = self.commit(self.plan(self.small()))[0]
        taking, go_on, taken = Event(), Event(), []
        take, start = HttpPrinter.take, HttpPrinter.start

        def slow(own, *args):
            taken.append(args[0])
            taking.set()
            go_on.wait(60)
            take(own, *args)

        def minded():
            mind_all()
            connection.close()

        with (
            mock.patch.object(HttpPrinter, "take", slow),
            mock.patch.object(HttpPrinter, "start", side_effect=start, autospec=True) as started,
        ):
            sender = Thread(target=minded, daemon=True)
            sender.start()
            self.assertTrue(taking.wait(60))
            # the machine is free to be changed, others look after it and send nothing again
            with transaction.atomic():
                Machine.objects.select_for_update(nowait=True).get()
            mind_all()
            self.assertEqual(self.order(job, "cancel")["wish"], "cancel")
            self.assertEqual(len(taken), 1)
            go_on.set()
            sender.join(60)
        self.assertEqual(started.call_count, 0)
        self.assertEqual(Job.objects.get().state, "cancelled")

    def test_pause_resume_cancel(self):
        printer = self.connect(factor=20)
        job = self.commit(self.plan(self.small(10)))[0]
        self.mind_to(job, "printing", "heating")
        self.assertEqual(self.order(job, "pause")["state"], "paused")
        stopped = printer.state()["seconds"]
        self.assertEqual(printer.state()["seconds"], stopped)
        printer.ask("POST", "/factor", {"factor": 2000})
        self.assertIn(self.order(job, "resume")["state"], ("heating", "printing", "done"))
        printer.ask("POST", "/factor", {"factor": 50})
        self.mind_until(lambda: printer.state()["layer"] >= 3)
        ended = Job.objects.get(pk=self.order(job, "cancel")["id"])
        self.assertEqual(ended.state, "cancelled")
        self.assert_booked(
            ended, printer.ask("GET", f"/runs/{ended.run}")["extruded_mm"] * ended.grams_per_mm
        )
        self.assertGreater(ended.booked_mm, 0)
        self.order(job, "cancel", 422)

    def test_order_of_the_queue_and_clock_times(self):
        plan = self.plan(self.small())
        one, two, three = self.commit(plan, copies=3)
        answer = self.client.post(
            f"/api/jobs/{three['id']}/place", {"before": one["id"]}, content_type=JSON
        )
        self.assertEqual(answer.status_code, 200)
        queue = self.client.get("/api/board").json()["machines"][0]["jobs"]
        self.assertEqual(
            [job["number"] for job in queue], [three["number"], one["number"], two["number"]]
        )
        slots = [job["slot"] for job in queue]
        for before, after in zip(slots, slots[1:], strict=False):
            self.assertLess(before["end"], after["begin"])
        self.client.post(f"/api/jobs/{three['id']}/place", {"before": None}, content_type=JSON)
        queue = self.client.get("/api/board").json()["machines"][0]["jobs"]
        self.assertEqual(
            [job["number"] for job in queue], [one["number"], two["number"], three["number"]]
        )
        self.assertEqual(self.order(one, "cancel")["state"], "cancelled")
        self.assertEqual(
            self.client.post(
                f"/api/jobs/{one['id']}/place", {"before": None}, content_type=JSON
            ).status_code,
            422,
        )

    def test_a_held_queue_waits(self):
        self.connect()
        job = self.commit(self.plan(self.small()))[0]
        machine = Machine.objects.get()
        self.client.patch(f"/api/machines/{machine.pk}", {"held": True}, content_type=JSON)
        mind_all()
        self.assertEqual(Job.objects.get().state, "queued")
        self.client.patch(f"/api/machines/{machine.pk}", {"held": False}, content_type=JSON)
        self.mind_to(job, "done")

    def test_a_folder_instead_of_a_printer(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        machine = Machine.objects.get()
        answer = self.client.patch(
            f"/api/machines/{machine.pk}",
            {"connection": {"kind": "folder", "folder": folder.name}},
            content_type=JSON,
        )
        self.assertEqual(answer.status_code, 200, answer.content)
        job = self.commit(self.plan(self.small()))[0]
        self.mind_until(lambda: "lies on the drive" in Job.objects.get().reason)
        written = Path(folder.name) / job["file_name"]
        self.assertEqual(
            written.read_bytes(), self.client.get(f"/api/jobs/{job['id']}/file").content
        )
        mind_all()
        self.assertEqual(len(list(Path(folder.name).iterdir())), 1)
        self.assertEqual(self.order(job, "started")["state"], "printing")
        self.assertIn("nobody listens", self.order(job, "pause", 422)["detail"])
        self.assertEqual(Job.objects.get().wish, "")
        self.assertEqual(self.order(job, "done", actual_s=700)["state"], "done")
        self.assert_booked(Job.objects.get(), job["figures"]["mass_g"])
        self.order(job, "done", 422)


class Faults(Minded):
    """Each fault a printer can have, and each kill: state, ledger, and no second start."""

    def begun(self, factor=3000.0, size=10, **options):
        printer = self.connect(factor=factor, clears=False, **options)
        return printer, self.commit(self.plan(self.small(size)))[0]

    def test_jam(self):
        printer, job = self.begun()
        printer.ask("POST", "/faults", {"kind": "jam", "layer": 5})
        paused = self.mind_to(job, "paused")
        self.assertIn("does not move any more at layer 5", paused.reason)
        self.assertIn(self.order(job, "resume")["state"], ("printing", "done"))
        done = self.mind_to(job, "done")
        self.assert_booked(done, done.figures["mass_g"])

    def test_half_a_file_is_not_done(self):
        """The printer's own count of layers is held against the plan's."""

        def half(key):
            text = fetch(key)
            return text[: text.index(b"\n", len(text) // 2) + 1]

        with mock.patch("service.jobs.rules.sending.fetch", side_effect=half):
            _, job = self.begun()
            failed = self.mind_to(job, "failed")
        layers = len(failed.version.report["layers"]["heights_mm"])
        self.assertRegex(failed.reason, rf"says it is done after \d+ of {layers} layers")
        self.assertGreater(failed.booked_mm, 0)

    def test_thermal_fault(self):
        printer, job = self.begun()
        printer.ask("POST", "/faults", {"kind": "thermal", "layer": 6})
        failed = self.mind_to(job, "failed")
        self.assertIn("heater", failed.reason)
        self.assert_booked(failed, self.grams_to_layer(failed, 6))
        self.assertLess(failed.booked_mm, failed.figures["length_mm"])

    def test_power_cut(self):
        printer, job = self.begun()
        printer.ask("POST", "/faults", {"kind": "power-cut", "layer": 7})
        self.mind_until(lambda: Machine.objects.get().contact.get("error"))
        self.assertIn(Job.objects.get().state, Job.ACTIVE)
        printer.wait()
        printer.start()
        failed = self.mind_to(job, "failed")
        self.assertIn("power was lost at layer 7", failed.reason)
        self.assert_booked(failed, self.grams_to_layer(failed, 7))

    def test_lost_connection(self):
        printer, job = self.begun(factor=200.0)
        printer.ask("POST", "/faults", {"kind": "lost-connection", "layer": 2, "for_s": 5.0})
        self.mind_until(lambda: Machine.objects.get().contact.get("error"))
        self.assertIsNotNone(self.client.get("/api/board").json()["machines"][0]["lost"])
        # an order given meanwhile is kept, and carried out when the machine answers again
        self.assertEqual(self.order(job, "pause")["wish"], "pause")
        paused = self.mind_to(job, "paused", "done")
        self.assertEqual(paused.wish, "")
        if paused.state == "paused":
            self.order(job, "resume")
        printer.ask("POST", "/factor", {"factor": 1e5})
        done = self.mind_to(job, "done")
        self.assert_booked(done, done.figures["mass_g"])

    def test_full_storage(self):
        printer = self.connect(clears=False)
        printer.ask("POST", "/faults", {"kind": "full-storage"})
        job = self.commit(self.plan(self.small()))[0]
        declined = self.mind_until(
            lambda: Job.objects.filter(reason__contains="storage is full", state="queued").first()
        )
        run = declined.run
        mind_all()  # not offered again at once
        self.assertEqual(printer.state()["phase"], "idle")
        printer.ask("DELETE", "/faults")
        Job.objects.update(progress={})
        done = self.mind_to(job, "done")
        self.assertEqual(done.run, run)
        self.assert_booked(done, done.figures["mass_g"])

    def test_a_spool_that_ends_and_another_one(self):
        printer, job = self.begun()
        now = Job.objects.get()
        printer.ask("POST", "/spool", {"mm": 0.4 * now.figures["length_mm"]})
        paused = self.mind_to(job, "paused")
        self.assertEqual(paused.reason, "the spool is empty")
        second = Spool.objects.create(material=self.spool().material, label="S-2", usable_mass=300)
        other = Spool.objects.create(
            material=Material.objects.create(workshop=self.workshop, name="ASA"),
            label="A-1",
            usable_mass=300,
        )
        refused = self.client.post(
            f"/api/jobs/{job['id']}/spool", {"spool": other.pk}, content_type=JSON
        )
        self.assertIn("A-1 is ASA; the file was made for PLA", refused.json()["detail"])
        answer = self.client.post(
            f"/api/jobs/{job['id']}/spool", {"spool": second.pk}, content_type=JSON
        )
        self.assertEqual(answer.status_code, 200, answer.content)
        self.order(job, "resume")
        done = self.mind_to(job, "done")
        grams = {
            label: -sum(entry.grams for entry in Spool.objects.get(label=label).entries.all())
            for label in ("S-1", "S-2")
        }
        self.assertAlmostEqual(grams["S-1"], 0.4 * done.figures["mass_g"], delta=0.01)
        self.assertAlmostEqual(sum(grams.values()), done.figures["mass_g"], delta=0.01)
        self.assertAlmostEqual(Spool.objects.get(label="S-2").usable_mass, 300 - grams["S-2"], 6)

    def test_a_printer_killed_in_the_middle(self):
        printer, job = self.begun(factor=100.0)
        self.mind_until(lambda: Job.objects.get().progress.get("layer", 0) >= 2)
        printer.kill()
        self.mind_until(lambda: Machine.objects.get().contact.get("error"))
        printer.start()
        failed = self.mind_to(job, "failed")
        self.assertIn("power was lost", failed.reason)
        self.assert_booked(
            failed, printer.ask("GET", f"/runs/{failed.run}")["extruded_mm"] * failed.grams_per_mm
        )
        mind_all()
        self.assertEqual(Job.objects.count(), 1)

    def test_cut_off_between_claim_and_start(self):
        printer, job = self.begun()
        with mock.patch(
            "service.jobs.rules.minding.send"
        ):  # the service dies right after the claim
            mind_all()
        claimed = Job.objects.get()
        self.assertEqual((claimed.state, printer.state()["phase"]), ("sending", "idle"))
        done = self.mind_to(job, "done")
        self.assertEqual(done.run, claimed.run)

    def test_cut_off_between_start_and_its_record(self):
        printer, job = self.begun()
        with (
            mock.patch("service.jobs.rules.sending.settle", side_effect=KeyboardInterrupt),
            self.assertRaises(KeyboardInterrupt),
        ):
            mind_all()
        # the printer runs, the record does not know it yet
        self.assertEqual(Job.objects.get().state, "sending")
        self.assertNotEqual(printer.state()["phase"], "idle")
        done = self.mind_to(job, "done")
        self.assert_booked(done, done.figures["mass_g"])
        self.assertEqual(done.entries.count(), 1)

    def test_cut_off_while_booking(self):
        printer, job = self.begun()
        self.mind_to(job, "heating", "printing", "done")
        self.wait_for(lambda: printer.state()["phase"] == "done")
        Job.objects.exclude(state="done").update(state="printing")
        with (
            mock.patch("service.jobs.rules.running.later", side_effect=KeyboardInterrupt),
            self.assertRaises(KeyboardInterrupt),
        ):
            mind_all()
        # all or nothing: neither booked nor done
        self.assertEqual(Job.objects.get().entries.count(), 0)
        self.assertEqual(self.spool().usable_mass, 500)
        done = self.mind_to(job, "done")
        self.assertEqual(done.entries.count(), 1)
        self.assert_booked(done, done.figures["mass_g"])

    def test_a_service_killed_while_it_prints(self):
        printer = self.connect(factor=60.0)
        job = self.commit(self.plan(self.small(10)))[0]
        minder = Background(["manage.py", "mind"], connection, default_storage, self)
        self.wait_for(lambda: Job.objects.get().progress.get("layer", 0) >= 1)
        minder.stop()
        printer.ask("POST", "/factor", {"factor": 1e5})
        self.wait_for(lambda: printer.state()["phase"] == "done")
        self.assertIn(Job.objects.get().state, Job.ACTIVE)
        done = self.mind_to(job, "done")
        self.assertEqual(done.entries.count(), 1)
        self.assert_booked(done, done.figures["mass_g"])

    def test_the_database_goes_away_and_comes_back(self):
        _, job = self.begun()
        rounds = minding.Rounds()
        self.addCleanup(rounds.end)
        with (
            mock.patch(
                "service.jobs.rules.minding.Machine.objects.exclude",
                side_effect=OperationalError("gone"),
            ),
            self.assertLogs("service.jobs", "WARNING"),
        ):
            look_once(rounds)
        self.assertEqual(Job.objects.get().state, "queued")
        self.mind_until(lambda: look_once(rounds) or Job.objects.get().state == "done")
        self.assert_booked(Job.objects.get(), job["figures"]["mass_g"])

    def test_what_was_not_sent_from_here_is_left_alone(self):
        printer, _ = self.begun(factor=1.0)
        stranger = "0" * 32
        text = b"G28\nG1 X10 F600\nG4 S500\n"
        urllib.request.urlopen(
            urllib.request.Request(
                f"{printer.address}/files/{stranger}",
                text,
                {"X-Checksum": hashlib.sha256(text).hexdigest()},
                method="PUT",
            ),
            timeout=10,
        ).close()
        printer.ask("POST", "/start", {"run": stranger, "name": "from elsewhere.gcode"})
        mind_all()
        self.assertEqual(Job.objects.get().state, "queued")
        self.assertIn(
            "from elsewhere.gcode, which was not sent from here",
            Machine.objects.get().contact["trouble"],
        )


class Many(Minded):
    def test_two_hundred_jobs_on_three_machines_looked_after_by_several(self):
        count = 200
        plans = [self.plan(self.small())]
        self.connect(self.workshop.machines.get())
        part = self.client.get(f"/api/plans/{plans[0]}").json()["part"]["id"]
        for name in ("Bench B", "Bench C"):
            machine = self.another_machine(name)
            self.connect(machine)
            body = {
                "part": part,
                "nozzle": machine.nozzles.get().pk,
                "material": self.workshop.materials.get().pk,
                "spool": self.spool().pk,
            }
            plans.append(self.client.post("/api/plans", body, content_type=JSON).json()["id"])
        work()
        share = [count // 3 + (k < count % 3) for k in range(3)]
        for plan, copies in zip(plans, share, strict=True):
            self.commit(plan, copies=copies)
        others = [
            Background(["manage.py", "mind"], connection, default_storage, self) for _ in range(2)
        ]
        self.mind_until(
            lambda: not Job.objects.filter(state__in=Job.OPEN).exists(), 240, "200 jobs"
        )
        self.assertEqual(Job.objects.filter(state="done").count(), count)
        self.assertEqual(Job.objects.values("run").distinct().count(), count)
        for job in Job.objects.all():
            self.assertEqual(job.entries.count(), 1, job)
            self.assertAlmostEqual(-job.entries.get().grams, job.figures["mass_g"], delta=0.01)
        total = sum(job.figures["mass_g"] for job in Job.objects.all())
        self.assertAlmostEqual(500 - self.spool().usable_mass, total, delta=0.01)
        self.assertEqual([other.process.poll() for other in others], [None, None])


class Learning(Minded):
    def test_what_machines_took_corrects_their_estimates(self):
        self.connect(reach=0.7, layer_extra=0.3)
        plans = [self.plan(self.small(size)) for size in (6, 8, 10)]
        for plan in plans:
            self.mind_to(self.commit(plan)[0], "done")
        work()
        learnt = Machine.objects.get().learnt
        self.assertAlmostEqual(learnt["layer_s"], 0.3, delta=0.1)
        self.assertLess(learnt["factor"], 0.85)
        self.assertGreater(learnt["before"], 0.02)
        after = self.change(plans[2], body={"outer_width": 0.4501})["latest"]["report"]["time_s"]
        self.assertAlmostEqual(
            after["total"] / Job.objects.order_by("number").last().actual_s, 1, delta=0.02
        )


class BadPrinters(Minded):
    """Printers that answer late, without end or nonsense hold nobody up."""

    def bad(self, answer) -> str:
        """The address of a printer that handles a connection so."""
        server = socket.create_server(("127.0.0.1", 0))
        self.addCleanup(server.close)

        def serve():
            with contextlib.suppress(OSError):
                while True:
                    there, _ = server.accept()
                    Thread(target=self.handled, args=(answer, there), daemon=True).start()

        Thread(target=serve, daemon=True).start()
        return f"http://127.0.0.1:{server.getsockname()[1]}"

    def handled(self, answer, there):
        with there, contextlib.suppress(OSError):
            there.recv(4096)
            answer(there)

    def said(self, answer, patience=0.4):
        """What is known of a machine with such a printer, and how long finding out took (s)."""
        machine = Machine.objects.get()
        machine.connection = {"kind": "printer", "address": self.bad(answer)}
        machine.contact = {}
        machine.save()
        begun = time.monotonic()
        with mock.patch("service.workshop.rules.printers.ANSWER", patience):
            mind_all()
        return Machine.objects.get().contact["error"], time.monotonic() - begun

    def test_byte_by_byte(self):
        stop = Event()
        self.addCleanup(stop.set)

        def drip(there):
            for byte in b"HTTP/1.0 200 OK\r\n" + b"X: y\r\n" * 1000:
                there.sendall(bytes([byte]))
                if stop.wait(0.05):
                    return

        error, took = self.said(drip)
        self.assertIn("does not answer", error)
        self.assertLess(took, 3)

    def test_without_end(self):
        def flood(there):
            there.sendall(b"HTTP/1.0 200 OK\r\n\r\n")
            for _ in range(3000):
                there.sendall(b"x" * 1_000_000)

        error, took = self.said(flood, 5.0)
        self.assertIn("more than 1 MB", error)

    def test_nonsense(self):
        for body, words in (
            (b'{"phase": "on fire"}', "nonsense: phase"),
            (b'{"phase": "idle", "left_s": 1e999}', "nonsense: left_s"),
            (b'{"phase": "idle", "layer": "many"}', "nonsense: layer"),
            (b"[1, 2]", "something else than a printer does"),
            (b"<html>", "something else than a printer does"),
        ):
            error, _ = self.said(
                lambda there: there.sendall(b"HTTP/1.0 200 OK\r\n\r\n" + body)  # noqa: B023
            )
            self.assertIn(words, error)

    def test_one_that_is_slow_holds_up_no_other_and_can_be_changed(self):
        stop = Event()
        self.addCleanup(stop.set)
        printer = self.connect()
        job = self.commit(self.plan(self.small()))[0]
        slow = Machine.objects.create(
            workshop=self.workshop,
            name="Slow",
            connection={"kind": "printer", "address": self.bad(lambda there: stop.wait(30))},
        )
        rounds = minding.Rounds()
        self.addCleanup(rounds.end)
        self.addCleanup(stop.set)
        # the other one prints a whole job before the slow one has given its first answer
        with mock.patch("service.workshop.rules.printers.ANSWER", 60.0):
            rounds.begin()
            self.wait_for(lambda: rounds.begin() or Job.objects.get().state == "done", 25)
            self.assertEqual(Machine.objects.get(pk=slow.pk).contact, {})
            begun = time.monotonic()
            answer = self.client.patch(f"/api/machines/{slow.pk}", {"name": "S"}, content_type=JSON)
            self.assertEqual(answer.status_code, 200, answer.content)
            self.assertLess(time.monotonic() - begun, 2)
            stop.set()
        self.assertTrue(printer.address)
        self.assertEqual(Job.objects.get().pk, job["id"])
