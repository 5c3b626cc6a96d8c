"""A workshop to test with, and a way to run what is queued."""

from __future__ import annotations

import asyncio
import time

from django.contrib.auth.models import User
from django.core.management import CommandError
from django.test import Client, TransactionTestCase
from procrastinate.contrib.django import app

from service.accounts.models import Member, Role
from service.config import logged
from service.queue import as_asked
from service.workshop.models import Machine, Material, Nozzle, Spool, Workshop
from tests.core.shapes import cube, stl
from tests.runner import stop_kept


class Emptied(TransactionTestCase):
    """Empties the database after each test, also when a request or a worker of the test is still at
    it: where both wait for each other, once more.
    """

    def _fixture_teardown(self):
        for left in range(4, -1, -1):
            try:
                super()._fixture_teardown()
            except CommandError:
                if not left:
                    raise
            else:
                return

    def wait_for(self, condition, seconds=60):
        """Go on once the condition holds."""
        end = time.monotonic() + seconds
        while not condition():
            self.assertLess(time.monotonic(), end, "waited too long")
            time.sleep(0.02)


class Quiet(Emptied):
    """Tests that run what is queued themselves: no other worker may take it."""

    @classmethod
    def setUpClass(cls):
        stop_kept()
        super().setUpClass()


def make_workshop(name="Test bench", user="maker"):
    """A workshop with a member, a machine, a material and a spool."""
    workshop = Workshop.objects.create(name=name)
    person = User.objects.create_user(user, password="plumb-line")
    Member.objects.create(user=person, workshop=workshop, shown_name=user.title(), role=Role.OWNER)
    machine = Machine.objects.create(
        workshop=workshop, name="Bench 200", figures={"size_x": 200, "size_y": 200}
    )
    Nozzle.objects.create(machine=machine, bore=0.4, flow=20, least_height=0.08)
    Nozzle.objects.create(machine=machine, bore=0.8, flow=40, least_height=0.16)
    material = Material.objects.create(workshop=workshop, name="PLA", figures={"price": 20})
    machine.loaded = Spool.objects.create(
        material=material, label="S-1", usable_mass=500, diameter=1.75
    )
    machine.save(update_fields=["loaded"])
    return workshop


def signed_in(user="maker"):
    client = Client(HTTP_HOST="localhost")
    assert client.login(username=user, password="plumb-line")
    return client


def work():
    """Run everything in the queue with a real worker, then return."""

    async def run():
        connected = app.with_connector(app.connector.get_worker_connector())
        async with connected.open_async():
            await connected.run_worker_async(
                wait=False,
                listen_notify=False,
                install_signal_handlers=False,
                task_middleware=[logged.task, as_asked],
            )

    asyncio.run(run())


def upload(client, data=None, name="cube.stl"):
    from django.core.files.uploadedfile import SimpleUploadedFile

    return client.post(
        "/api/parts", {"file": SimpleUploadedFile(name, stl(cube()) if data is None else data)}
    )


def plan_body(part, workshop):
    machine, material = workshop.machines.first(), workshop.materials.first()
    return {
        "part": part,
        "nozzle": machine.nozzles.first().pk,
        "material": material.pk,
        "spool": material.spools.first().pk,
    }
