"""How many pieces of an order are good, failed, under way, and still to be printed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

from django.db.models.fields.json import KT

from service.beds.models import BedVersion
from service.jobs.models import Job
from service.orders.models import OrderBed, OrderLine
from service.plans.models import PlanVersion


@dataclass
class Count:
    """The pieces of one line."""

    #: how many good ones are ordered
    wanted: int
    #: good, not good (failed, with flaws or given up), and printed with a result nobody has told
    good: int = 0
    bad: int = 0
    printed: int = 0
    #: on a machine or in its queue, and on beds that are not committed yet
    under_way: int = 0
    on_beds: int = 0
    #: beds that were made for it, and those of them that wait to be committed
    beds: list[OrderBed] = field(default_factory=list)
    waiting: list[OrderBed] = field(default_factory=list)
    #: the open jobs
    jobs: list[int] = field(default_factory=list)

    @property
    def left(self) -> int:
        """Pieces that nothing is made for yet."""
        return max(self.wanted - self.good - self.printed - self.under_way - self.on_beds, 0)

    @property
    def done(self) -> bool:
        """Whether all pieces are printed and good."""
        return self.good >= self.wanted


def counts(lines: Iterable[OrderLine]) -> dict[int, Count]:
    """The counts of lines by their keys, in a fixed number of queries. A piece counts for a line if
    it is of the line's part and lies on a bed that was made for it.
    """
    lines = list(lines)
    out = {line.pk: Count(line.pieces * line.order.kits) for line in lines}
    parts = {line.pk: line.part_id for line in lines}
    made = {bed.bed_id: bed for bed in _beds(out)}
    latest = _newest_specs(made)
    jobs = _jobs(made)
    part_of = _parts(latest, jobs)
    committed: dict[int, int] = defaultdict(int)
    for job in jobs:
        assert job.bed is not None
        committed[job.bed.bed_id] += 1
        line = made[job.bed.bed_id].line_id
        _add(out[line], job, part_of, parts[line])
    for key, bed in made.items():
        spec, count = latest.get(key), out[bed.line_id]
        count.beds.append(bed)
        times = int((spec or {}).get("times", 1))
        if committed[key] >= times:
            continue
        filled = spec is not None and spec["placings"]
        pieces = _pieces(spec, part_of, parts[bed.line_id]) if filled and spec else bed.pieces
        count.on_beds += pieces * (times - committed[key])
        count.waiting.append(bed)
    return out


def _beds(lines: Iterable[int]) -> list[OrderBed]:
    return list(OrderBed.objects.filter(line__in=lines).select_related("bed__nozzle__machine"))


def _newest_specs(beds: dict[int, OrderBed]) -> dict[int, dict[str, Any]]:
    """What the newest version of each bed says; one that is being filled has no placings yet. Beds
    that are exact take what was computed, not what was expected.
    """
    newest = BedVersion.objects.filter(bed__in=beds).order_by("bed_id", "-number")
    specs = {}
    rows = newest.distinct("bed_id").annotate(
        total=KT("report__total_s"), mass=KT("report__mass_g")
    )
    for key, spec, total, mass in rows.values_list("bed_id", "spec", "total", "mass"):
        specs[key] = spec
        if total is not None and mass is not None:
            beds[key].seconds, beds[key].grams = float(total), float(mass)
    return specs


def _jobs(beds: Iterable[int]) -> list[Job]:
    return list(
        Job.objects.filter(bed__bed__in=beds)
        .select_related("bed")
        .only("state", "outcome", "copies", "machine_id", "bed__bed_id", "bed__spec")
    )


def _parts(specs: dict[int, dict[str, Any]], jobs: list[Job]) -> dict[str, int]:
    """The part of every version of a plan that lies on one of the beds."""
    every = [*specs.values(), *(job.bed.spec for job in jobs if job.bed)]
    keys = {placing["plan"] for spec in every for placing in spec["placings"]}
    found = PlanVersion.objects.filter(pk__in=[int(key) for key in keys])
    return {str(key): part for key, part in found.values_list("pk", "plan__part_id")}


def _pieces(spec: dict[str, Any], part_of: dict[str, int], part: int) -> int:
    return sum(part_of.get(placing["plan"]) == part for placing in spec["placings"])


def _add(count: Count, job: Job, part_of: dict[str, int], part: int) -> None:
    """Add the pieces of a job to what is counted of a line."""
    assert job.bed is not None
    placings = job.bed.spec["placings"]
    mine = [
        copy for copy in job.copies if part_of.get(placings[copy["number"] - 1]["plan"]) == part
    ]
    if job.state in Job.OPEN:
        given_up = sum(copy["state"] == "given-up" for copy in mine)
        count.under_way += len(mine) - given_up
        count.bad += given_up
        count.jobs.append(job.pk)
        return
    for copy in mine:
        said = copy["state"] or job.outcome
        if said == "good":
            count.good += 1
        elif not said and job.state == Job.State.DONE:
            count.printed += 1
        else:
            count.bad += 1
