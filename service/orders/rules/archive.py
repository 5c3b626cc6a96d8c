"""Everything of a workshop in one archive, to be read without this program: its parts, plans,
orders, jobs and spools. What is to be put back is the backup, not this.
"""

from __future__ import annotations

import json
import re
import zipfile
from collections.abc import Iterable, Iterator
from typing import IO, Any

from django.core.files.storage import default_storage
from django.core.serializers.json import DjangoJSONEncoder

from service.files import store
from service.jobs.models import Job
from service.orders.models import OrderLine
from service.orders.rules.counted import counts
from service.paging import Ask
from service.parts.models import Part
from service.plans.models import PlanVersion
from service.plans.rules.library import sorted_plans
from service.plans.rules.several import as_table
from service.tables import lines
from service.workshop.models import SpoolEntry, Workshop
from service.workshop.rules.exchange import export

README = """Everything of the workshop {name} that the service keeps for it.

workshop.json  machines, materials, spools and the checklist; can be taken in again
recipes.json   recipes
parts.csv      parts, each with its file below parts/
plans.csv      plans with their figures; plans/ has the settings and the report of each
orders.csv     orders, a row a part, and how many pieces of it are good
jobs.csv       jobs, what came of them and what they took; jobs/ has their files and all about them
spools.csv     what was taken from every spool, weighed and corrected
missing.txt    files that were not there when this was written, if any
"""
#: Columns of the table of jobs: fields of a job.
JOBS = (
    *("number", "title", "state", "reason", "outcome", "created", "started", "ended", "actual_s"),
    *("finishing_min", "weighed_g", "booked_mm", "note", "file_name"),
)
#: The same of what happened to spools, of parts and of orders.
SPOOLS = ("material", "spool", "at", "what", "grams", "left after g", "job", "note")
PARTS = ("name", "file", "labels", "state", "bytes", "sha256", "taken in")
ORDERS = (
    *("order", "customer", "reference", "due", "urgency", "kits", "closed", "promised", "price"),
    *("part", "pieces", "good", "not good", "result not entered", "under way", "note"),
)


def write_archive(workshop: Workshop, to: IO[bytes]) -> None:
    """Write it; a file that is gone from the store is named, and the rest written. Raises
    `StoreAway` where the store does not say whether it is.
    """
    missing: list[str] = []
    with zipfile.ZipFile(to, "w", zipfile.ZIP_DEFLATED) as archive:

        def put(name: str, key: str) -> None:
            try:
                with (
                    store(),
                    default_storage.open(key, "rb") as source,
                    archive.open(name, "w") as target,
                ):
                    for piece in iter(lambda: source.read(1 << 20), b""):
                        target.write(piece)
            except FileNotFoundError:
                missing.append(name)

        archive.writestr("README.txt", README.format(name=workshop.name))
        archive.writestr("workshop.json", _json(export(workshop)))
        archive.writestr("recipes.json", _json(list(workshop.recipes.values())))
        archive.writestr("plans.csv", "".join(_plans(workshop)))
        archive.writestr("spools.csv", _table(SPOOLS, _ledger(workshop)))
        parts = Part.objects.filter(workshop=workshop).order_by("pk").defer("picture")
        names = {part.pk: f"parts/{part.pk} {_plain(part.filename)}" for part in parts}
        archive.writestr("parts.csv", _table(PARTS, (_part(part, names) for part in parts)))
        for part in parts:
            put(names[part.pk], part.file_key)
        for name, about in _versions(workshop):
            archive.writestr(name, _json(about))
        archive.writestr("orders.csv", _table(ORDERS, _orders(workshop)))
        jobs = Job.objects.filter(workshop=workshop).order_by("number")
        archive.writestr(
            "jobs.csv", _table(JOBS, ([getattr(job, name) for name in JOBS] for job in jobs))
        )
        for job in jobs:
            folder = f"jobs/{job.number}"
            archive.writestr(f"{folder}/job.json", _json(_fields(job)))
            if job.file_key:
                put(f"{folder}/{_plain(job.file_name)}", job.file_key)
            if job.photo_key:
                put(f"{folder}/photo{job.photo_key[-4:]}", job.photo_key)
        if missing:
            archive.writestr("missing.txt", "\n".join(missing) + "\n")


def _plans(workshop: Workshop) -> Iterator[str]:
    plans = sorted_plans(workshop, Ask(sort="plan", down=False)).select_related("part")
    return as_table(plans.defer("part__picture"))


def _versions(workshop: Workshop) -> Iterator[tuple[str, dict[str, Any]]]:
    """Settings and report of the newest exact version of every plan, one at a time."""
    done = PlanVersion.objects.filter(plan__workshop=workshop, state=PlanVersion.State.DONE)
    newest = done.order_by("plan_id", "-number").distinct("plan_id")
    for version in newest.select_related("plan__part", "material", "nozzle__machine").iterator(20):
        yield (
            f"plans/{version.plan.number}.json",
            {
                "part": version.plan.part.name,
                "plan": version.plan.number,
                "version": version.number,
                "machine": f"{version.nozzle.machine.name}, {version.nozzle}",
                "material": version.material.name,
                "settings": version.settings,
                "spec": version.spec,
                "report": version.report,
            },
        )


def _part(part: Part, names: dict[int, str]) -> list[object]:
    labels = ", ".join(part.labels)
    size, sum_, when = part.size_bytes, part.checksum, part.created
    return [part.name, names[part.pk], labels, part.state, size, sum_, when]


def _orders(workshop: Workshop) -> Iterator[list[object]]:
    lines = OrderLine.objects.filter(order__workshop=workshop).select_related("order", "part")
    lines = lines.defer("part__picture").order_by("order__number", "pk")
    counted = counts(lines)
    for line in lines:
        order, count = line.order, counted[line.pk]
        price = (order.quote or {}).get("total")
        yield [
            *(order.number, order.customer, order.reference, order.due, order.urgency, order.kits),
            *(order.closed, order.promised, price, line.part.name, count.wanted, count.good),
            *(count.bad, count.printed, count.under_way, order.note),
        ]


def _ledger(workshop: Workshop) -> Iterator[list[object]]:
    entries = SpoolEntry.objects.filter(spool__material__workshop=workshop).order_by("pk")
    for entry in entries.select_related("spool__material", "job"):
        yield [
            *(entry.spool.material.name, entry.spool.label, entry.created, entry.kind),
            *(entry.grams, entry.left_after, entry.job and entry.job.number, entry.note),
        ]


def _fields(job: Job) -> dict[str, Any]:
    left_out = ("id", "workshop", "file_key", "photo_key", "commit_key", "run")
    return {
        field.name: getattr(job, field.attname)
        for field in Job._meta.concrete_fields
        if field.name not in left_out
    }


def _table(head: Iterable[str], rows: Iterable[Iterable[object]]) -> str:
    return "".join(lines(head, rows))


def _json(value: object) -> str:
    return json.dumps(value, cls=DjangoJSONEncoder, indent=1, ensure_ascii=False)


def _plain(name: str) -> str:
    """A file's name that is one everywhere."""
    return re.sub(r"[^\w. -]+", "_", name)[:120] or "file"
