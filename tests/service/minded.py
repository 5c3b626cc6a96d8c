"""Jobs on simulated printers, each in a process of its own, looked after by the real minder."""

import time

import numpy as np

from northpace.gcode.read import read_gcode
from service.files import fetch
from service.jobs.models import Job
from service.jobs.rules import minding
from service.workshop.models import Machine, Nozzle, Spool
from tests.core.shapes import cube, stl
from tests.service.planned import JSON, Planned
from tests.standin.process import PrinterProcess


def mind_all():
    """Look after every machine once, one after the other."""
    for machine in Machine.objects.exclude(connection={}).order_by("pk"):
        minding.look_after(machine.pk)


class Minded(Planned):
    """A machine ``Bench 200`` that speaks to a simulated printer."""

    def connect(self, machine=None, clears=True, **options):
        printer = PrinterProcess(**options)
        self.addCleanup(printer.stop)
        machine = machine or self.workshop.machines.first()
        machine.connection = {"kind": "printer", "address": printer.address}
        machine.clears_itself = clears
        machine.save(update_fields=["connection", "clears_itself"])
        return printer

    def commit(self, plan, status=201, **body):
        found = self.client.get(f"/api/plans/{plan}").json()
        checks = self.client.get(f"/api/versions/{found['latest']['id']}/review").json()
        body = {
            "version": found["latest"]["id"],
            "ticked": [check["key"] for check in checks["checks"]],
            **body,
        }
        answer = self.client.post("/api/jobs", body, content_type=JSON)
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def order(self, job, what, status=200, **body):
        answer = self.client.post(
            f"/api/jobs/{job['id']}/order", {"what": what, **body}, content_type=JSON
        )
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def mind_until(self, condition, seconds=60, what="the machines"):
        """Look after the machines until something is so."""
        end = time.monotonic() + seconds
        while True:
            mind_all()
            if found := condition():
                return found
            if time.monotonic() > end:
                self.fail(
                    f"waited too long for {what}: "
                    f"{list(Job.objects.values_list('number', 'state', 'reason')[:10])} "
                    f"{Machine.objects.first().contact}"
                )

    def mind_to(self, job, *states, seconds=60):
        def there():
            now = Job.objects.get(pk=job["id"])
            return now if now.state in states else None

        return self.mind_until(there, seconds, f"{states}")

    def another_machine(self, name):
        machine = Machine.objects.create(
            workshop=self.workshop,
            name=name,
            figures={"size_x": 200, "size_y": 200},
            loaded=self.spool(),
        )
        Nozzle.objects.create(machine=machine, bore=0.4, flow=20, least_height=0.08)
        return machine

    def spool(self):
        return Spool.objects.get()

    def assert_booked(self, job, grams):
        """The ledger has taken exactly so much for a job, and the spool says so too."""
        self.assertAlmostEqual(-sum(entry.grams for entry in job.entries.all()), grams, delta=0.01)
        self.assertAlmostEqual(
            500 - sum(-entry.grams for entry in self.spool().entries.all()),
            self.spool().usable_mass,
            6,
        )

    def grams_to_layer(self, job, layer):
        """Grams the file of a job lays below a layer (from 1)."""
        read = read_gcode(fetch(job.file_key))
        # what is pulled back is not on the part, but it has left the spool: the most that was fed
        # counts
        return float(np.cumsum(read.filament)[read.layer < layer - 1].max()) * job.grams_per_mm

    small = staticmethod(lambda size=6: stl(cube(size)))
