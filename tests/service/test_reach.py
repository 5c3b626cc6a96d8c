"""Where jobs may be sent, and whom a printer obeys."""

import tempfile
from pathlib import Path

from django.core.management import call_command
from django.db import IntegrityError, transaction
from django.test import override_settings

from service.jobs.models import Job
from service.jobs.rules.standins import wire_up
from service.workshop.models import Machine
from service.workshop.rules.printers import Declined, HttpPrinter, NoContact
from service.workshop.rules.reach import allowed, key_of
from tests.service.base import make_workshop, signed_in
from tests.service.minded import Minded
from tests.service.planned import JSON, Planned


class Addresses(Planned):
    def connect(self, status=422, client=None, machine=None, **connection):
        machine = machine or self.workshop.machines.get()
        answer = (client or self.client).patch(
            f"/api/machines/{machine.pk}", {"connection": connection}, content_type=JSON
        )
        self.assertIn(answer.status_code, (status, 400) if status == 422 else (status,))
        return str(answer.json())

    def test_networks_that_printers_may_be_in(self):
        with override_settings(LOOPBACK_PRINTERS=False):
            for ip, may in (
                ("192.168.1.20", True),
                ("10.4.0.2", True),
                ("fd00::5", True),
                ("8.8.8.8", False),
                ("169.254.169.254", False),
                ("fe80::1%eth0", False),
                ("0.0.0.0", False),
                ("127.0.0.1", False),
                ("::1", False),
                ("::ffff:127.0.0.1", False),
                ("224.0.0.1", False),
            ):
                self.assertEqual(allowed(ip), may, ip)
            self.assertIn(
                "not in a network", self.connect(kind="printer", address="http://127.0.0.1:8000")
            )
        with override_settings(PRINTER_NETWORKS=["8.8.8.0/24"]):
            self.assertTrue(allowed("8.8.8.8"))
            self.assertFalse(allowed("10.4.0.2"))

    def test_what_is_no_address(self):
        for address in (
            "ftp://192.168.1.2",
            "http://",
            "http://192.168.1.2:99999",
            "http://a:b@192.168.1.2",
            "http://192.168.1.2/?x=1",
        ):
            self.assertIn("no address", self.connect(kind="printer", address=address))
        for address in ("http://169.254.169.254/latest", "http://[::ffff:8.8.8.8]:80"):
            self.assertIn("not in a network", self.connect(kind="printer", address=address))

    def test_folders_below_the_roots_alone(self):
        with tempfile.TemporaryDirectory() as root, tempfile.TemporaryDirectory() as other:
            (Path(root) / "drive").mkdir()
            (Path(root) / "out").symlink_to(other)
            with override_settings(FOLDER_ROOTS=[root]):
                self.connect(200, kind="folder", folder=f"{root}/drive")
                for folder in (other, f"{root}/out", f"{root}/drive/../../", "/etc"):
                    self.assertIn("not below", self.connect(kind="folder", folder=folder))
                self.assertIn("no folder", self.connect(kind="folder", folder=f"{root}/none"))

    def test_one_address_is_one_machine_of_all_workshops(self):
        self.connect(200, kind="printer", address="http://192.168.1.20:80/")
        other = make_workshop("Other bench", "other")
        told = self.connect(
            client=signed_in("other"),
            machine=other.machines.get(),
            kind="printer",
            address="http://192.168.1.20:80",
        )
        self.assertIn("another machine is reached at http://192.168.1.20:80 already", told)
        self.connect(200, kind="printer", address="http://192.168.1.20:80")  # its own again
        # two that come at once are told apart by the database
        for connection in (
            {"kind": "printer", "address": "http://192.168.1.20:80"},
            {"kind": "folder", "folder": "/media/one"},
        ):
            Machine.objects.filter(workshop=self.workshop).update(connection=connection)
            with self.assertRaises(IntegrityError), transaction.atomic():
                Machine.objects.filter(workshop=other).update(connection=connection)

    def test_stand_ins_may_change_their_ports_among_each_other(self):
        call_command("load_sample")
        for ports in ([8101, 8102, 8103], [8102, 8103, 8101]):
            wired = wire_up(ports)
            self.assertEqual([entry["port"] for entry in wired], ports)
            found = Machine.objects.filter(workshop__sample=True).order_by("pk")
            self.assertEqual(
                [machine.connection["address"] for machine in found],
                [f"http://127.0.0.1:{port}" for port in ports],
            )


class Owned(Minded):
    def test_a_name_that_leads_elsewhere_later_is_not_spoken_to(self):
        address = self.connect().address
        self.assertEqual(HttpPrinter(address, "").state().phase, "idle")
        with (
            override_settings(LOOPBACK_PRINTERS=False),
            self.assertRaisesRegex(NoContact, "not where a printer may be"),
        ):
            HttpPrinter(address, "").state()

    def test_a_printer_obeys_whom_it_belongs_to(self):
        printer = self.connect(factor=3000.0)
        machine = Machine.objects.get()
        self.commit(self.plan(self.small()))
        self.mind_until(lambda: Job.objects.get().state in ("heating", "printing", "done"))
        thief = HttpPrinter(printer.address, "another key")
        for order in (
            lambda: thief.order("cancel", Job.objects.get().run),
            lambda: thief.order("clear", ""),
            lambda: thief.take("0" * 32, "a.gcode", b"G28\n"),
            lambda: thief.start("0" * 32, "a.gcode"),
            lambda: HttpPrinter(printer.address, "").order("clear", ""),
        ):
            with self.assertRaisesRegex(Declined, "belongs to another workshop"):
                order()
        self.mind_until(lambda: Job.objects.get().state == "done")
        HttpPrinter(printer.address, key_of(machine)).order("clear", "")

    def test_a_machine_at_work_is_not_reached_another_way(self):
        self.connect(factor=1.0)
        self.commit(self.plan(self.small()))
        self.mind_until(lambda: Job.objects.get().state in ("heating", "printing"))
        answer = self.client.patch(
            f"/api/machines/{Machine.objects.get().pk}",
            {"connection": {"kind": "none"}},
            content_type=JSON,
        )
        self.assertIn("is at work; change how it is reached when", str(answer.json()))
