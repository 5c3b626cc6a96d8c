"""A shop with 2,000 parts and 10,000 plans: how long its lists take to open, search and sort.

    python -m bench.shop --address http://127.0.0.1:8000 [--parts 2000 --plans 10000] [--keep]

beside a running `./start` of the same checkout, in whose database the shop is made, and removed
again. Nothing of it is computed: lists do not look at what is.
"""

from __future__ import annotations

import argparse
import os
import random
import time
from collections.abc import Callable
from datetime import timedelta

import numpy as np

from bench.load import Person
from ops import cluster as db

NAME, PASSWORD = "bench-shop", "plumb-line"
WORDS = ("bracket", "lid", "vane", "clamp", "housing", "knob", "duct", "foot", "cup", "sleeve")
#: What a maker does with the lists: the words, and the address.
ASKED = (
    ("parts open", "/api/parts?limit=50"),
    ("parts search", "/api/parts?limit=50&search=brack+12"),
    ("parts sort by last printed", "/api/parts?limit=50&sort=printed"),
    ("parts sort by plans", "/api/parts?limit=50&sort=plans"),
    ("parts page 30", "/api/parts?limit=50&offset=1450"),
    ("plans open", "/api/plans?limit=50"),
    ("plans search", "/api/plans?limit=50&search=clamp+bench"),
    ("plans search and sort", "/api/plans?limit=50&search=vane&sort=error&down=false"),
    ("plans sort by time", "/api/plans?limit=50&sort=time"),
    ("plans sort by machine", "/api/plans?limit=50&sort=machine"),
    ("plans sort by success", "/api/plans?limit=50&sort=success"),
    ("plans label", "/api/plans?limit=50&label=kit"),
    ("plans page 150", "/api/plans?limit=50&offset=7450"),
)


def main() -> None:
    parser = argparse.ArgumentParser(prog="bench.shop", description=__doc__)
    parser.add_argument("--address", default="http://127.0.0.1:8000")
    parser.add_argument("--parts", type=int, default=2000)
    parser.add_argument("--plans", type=int, default=10_000)
    parser.add_argument("--keep", action="store_true", help=f"leave it; sign in as {NAME}")
    options = parser.parse_args()
    with_database()
    remove = fill(options.parts, options.plans)
    try:
        person = Person(options.address, NAME, PASSWORD)
        for words, path in ASKED:
            found = [asked(person, path) for _ in range(7)]
            print(f"{words:28} {1000 * float(np.median(found)):6.0f} ms")
    finally:
        if not options.keep:
            remove()


def with_database() -> None:
    """Use the database of this checkout's `./start`."""
    import django

    os.environ.update(db.start_cluster("db").environment())
    os.environ["DJANGO_SETTINGS_MODULE"] = "service.config.settings"
    django.setup()


def asked(person: Person, path: str) -> float:
    """Seconds until a list is there."""
    begun = time.perf_counter()
    person.ask("GET", path)
    return time.perf_counter() - begun


def fill(parts: int, plans: int) -> Callable[[], None]:
    """Make the shop; returns what removes it."""
    from django.contrib.auth.models import User
    from django.utils import timezone

    from northpace import VERSION
    from northpace.spec import PlanSpec
    from service.accounts.models import Member, Role
    from service.parts.models import Part
    from service.plans.models import Plan, PlanVersion
    from service.workshop.models import Machine, Material, Nozzle, Workshop

    def remove() -> None:
        for old in Workshop.objects.filter(name=NAME):
            PlanVersion.objects.filter(plan__workshop=old).delete()
            old.plans.all().delete()
            old.delete()
        User.objects.filter(username=NAME).delete()

    remove()
    draw = random.Random(7)
    workshop = Workshop.objects.create(name=NAME)
    person = User.objects.create_user(NAME, password=PASSWORD)
    Member.objects.create(user=person, workshop=workshop, shown_name="Shop", role=Role.OWNER)
    machines = [
        Machine.objects.create(workshop=workshop, name=f"Bench {k}", figures={}) for k in range(6)
    ]
    nozzles = [
        Nozzle.objects.create(machine=machine, bore=0.4, flow=20, least_height=0.08)
        for machine in machines
    ]
    materials = [Material.objects.create(workshop=workshop, name=name) for name in ("PLA", "PETG")]
    picture = "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 9 9'>" + "<path/>" * 700
    shelf = Part.objects.bulk_create(
        Part(
            workshop=workshop,
            name=f"{draw.choice(WORDS)} {k:04}",
            filename=f"{k}.stl",
            checksum=f"{k:064x}",
            size_bytes=draw.randrange(10**7),
            file_key="x",
            state="ready",
            picture=picture + "</svg>",
            labels=draw.sample(["kit", "spare", "frame"], draw.randrange(3)),
        )
        for k in range(parts)
    )
    now, spec = timezone.now(), PlanSpec().model_dump(mode="json")
    made = Plan.objects.bulk_create(
        Plan(
            workshop=workshop,
            part=draw.choice(shelf),
            number=k + 1,
            name=draw.choice(["", "", "finer", "for the kit"]),
            **{name: draw.uniform(1, 500) for name in ("time_s", "mass_g", "cost")},
            **{name: draw.uniform(1, 300) for name in ("mean_um", "p95_um", "max_um")},
            stops=draw.randrange(2),
            looks=draw.randrange(5),
            printed=draw.choice([None, now - timedelta(hours=draw.randrange(9000))]),
            told=5,
            good=draw.randrange(6),
        )
        for k in range(plans)
    )
    # as much as a report of a small plan, because what a list must not read has to be there
    report = {"layers": {"heights_mm": [0.2] * 1500, "error_um": [12.5] * 1500}}
    for begin in range(0, len(made), 500):
        PlanVersion.objects.bulk_create(
            PlanVersion(
                plan=plan,
                part=plan.part,
                number=number,
                state="done",
                core_version=VERSION,
                spec=spec,
                report=report,
                nozzle=draw.choice(nozzles),
                material=draw.choice(materials),
                checksum="x",
            )
            for plan in made[begin : begin + 500]
            for number in (1, 2)
        )
    print(f"{parts} parts, {plans} plans, {2 * plans} versions")
    return remove


if __name__ == "__main__":
    main()
