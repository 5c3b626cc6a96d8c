"""Load the sample workshop, once."""

from typing import Any

from django.contrib.auth.models import User
from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils import timezone

from demo import workshop as sample
from demo.shapes import SHAPES, sample_stl
from service.accounts.models import Member, Role
from service.parts.rules.parts import take_in
from service.workshop.models import Machine, Material, Nozzle, Recipe, Spool, Workshop


class Command(BaseCommand):
    help = (
        "Load the sample workshop with its sign-in, machines, materials, spools and "
        "parts; does nothing when it is there."
    )

    def handle(self, *args: Any, **options: Any) -> None:
        if Workshop.objects.filter(sample=True).exists():
            return
        with transaction.atomic():
            workshop = Workshop.objects.create(
                name=sample.NAME,
                sample=True,
                checklist=sample.CHECKLIST,
                labour_rate=sample.LABOUR,
                house=sample.HOUSE,
            )
            user = User.objects.create_user(sample.USER, password=sample.PASSWORD)
            Member.objects.create(
                user=user, workshop=workshop, shown_name=sample.SHOWN, role=Role.OWNER
            )
            for k, entry in enumerate(sample.MACHINES, 1):
                machine = Machine.objects.create(
                    workshop=workshop,
                    name=entry["name"],
                    figures=entry["figures"],
                    bed_change_min=entry["bed_change_min"],
                    # nobody listens there; `prepare` gives each the port of its stand-in
                    connection={"kind": "printer", "address": f"http://127.0.0.1:{k}"},
                )
                for bore, flow, least in entry["nozzles"]:
                    Nozzle.objects.create(
                        machine=machine,
                        bore=bore,
                        flow=flow,
                        least_height=least,
                        hard=bore in entry.get("hard", ()),
                    )
            for entry in sample.MATERIALS:
                material = Material.objects.create(
                    workshop=workshop, name=entry["name"], figures=entry["figures"]
                )
                for label, colour, mass, diameter in entry["spools"]:
                    Spool.objects.create(
                        material=material,
                        label=label,
                        colour=colour,
                        usable_mass=mass,
                        diameter=diameter,
                        tare=sample.TARE,
                        net=sample.NET,
                    )
            for name, label in sample.HANGS.items():
                Machine.objects.filter(workshop=workshop, name=name).update(
                    loaded=Spool.objects.get(material__workshop=workshop, label=label),
                    loaded_since=timezone.now(),
                    loaded_by=user,
                )
            for entry in sample.RECIPES:
                Recipe.objects.create(workshop=workshop, **entry)
            for name in SHAPES:
                take_in(workshop, f"{name}.stl", sample_stl(name))
        self.stdout.write(f"loaded the sample workshop {sample.NAME}")
