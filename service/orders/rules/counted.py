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


@dataclass(frozen=True)
class WaitingBed:
    """A bed of an order that somebody still has to commit, once or several times."""

    row: OrderBed
    #: pieces of the line, seconds and grams of all the times it is still to be committed: as
    #: computed if the bed is exact, else as they were expected
    pieces: int
    seconds: float
    grams: float


@dataclass
class Count:
    """How the pieces of one line stand."""

    #: how many good pieces are ordered
    wanted: int
    #: pieces that are good; that are not (failed, with flaws or given up); and that are printed,
    #: but nobody has entered yet how they came out
    good: int = 0
    bad: int = 0
    printed: int = 0
    #: pieces on a machine or in its queue
    under_way: int = 0
    #: all beds that were made for the line, and those that wait to be committed
    beds: list[OrderBed] = field(default_factory=list)
    waiting: list[WaitingBed] = field(default_factory=list)
    #: keys of its jobs that have not ended
    jobs: list[int] = field(default_factory=list)

    @property
    def on_beds(self) -> int:
        """Pieces on beds that are not committed yet."""
        return sum(bed.pieces for bed in self.waiting)

    @property
    def left(self) -> int:
        """Pieces for which no bed was made yet."""
        return max(self.wanted - self.good - self.printed - self.under_way - self.on_beds, 0)

    @property
    def done(self) -> bool:
        """Whether all pieces are printed and good."""
        return self.good >= self.wanted


def counts(lines: Iterable[OrderLine]) -> dict[int, Count]:
    """How the pieces of lines stand, by the keys of the lines, in a fixed number of queries. A
    piece counts for a line if it is of the line's part and lies on a bed that was made for it.
    """
    lines = list(lines)
    out = {line.pk: Count(line.pieces * line.order.kits) for line in lines}
    parts = {line.pk: line.part_id for line in lines}
    made = {bed.bed_id: bed for bed in _beds(out)}
    latest = _newest(made)
    jobs = _jobs(made)
    part_of = _parts([version.spec for version in latest.values()], jobs)
    committed: dict[int, int] = defaultdict(int)
    for job in jobs:
        assert job.bed is not None
        committed[job.bed.bed_id] += 1
        line = made[job.bed.bed_id].line_id
        _add(out[line], job, part_of, parts[line])
    for key, bed in made.items():
        count, version = out[bed.line_id], latest[key]
        count.beds.append(bed)
        times = int(version.spec.get("times", 1)) - committed[key]
        if times > 0:
            pieces = _pieces(version.spec, part_of, parts[bed.line_id])
            count.waiting.append(_waiting(bed, version, pieces, times))
    return out


@dataclass(frozen=True)
class _Newest:
    """What the newest version of a bed says, with its seconds and grams if it is exact."""

    spec: dict[str, Any]
    seconds: float | None
    grams: float | None


def _waiting(bed: OrderBed, version: _Newest, pieces: int, times: int) -> WaitingBed:
    # a bed that is being filled has no pieces in its spec yet
    if not version.spec["placings"]:
        pieces = bed.pieces
    seconds = bed.seconds if version.seconds is None else version.seconds
    grams = bed.grams if version.grams is None else version.grams
    return WaitingBed(bed, times * pieces, times * seconds, times * grams)


def _beds(lines: Iterable[int]) -> list[OrderBed]:
    return list(OrderBed.objects.filter(line__in=lines).select_related("bed__nozzle__machine"))


def _newest(beds: Iterable[int]) -> dict[int, _Newest]:
    """The newest version of every bed, by the key of the bed."""
    versions = BedVersion.objects.filter(bed__in=beds).order_by("bed_id", "-number")
    rows = versions.distinct("bed_id").annotate(
        total=KT("report__total_s"), mass=KT("report__mass_g")
    )

    def number(text: str | None) -> float | None:
        return None if text is None else float(text)

    return {
        key: _Newest(spec, number(total), number(mass))
        for key, spec, total, mass in rows.values_list("bed_id", "spec", "total", "mass")
    }


def _jobs(beds: Iterable[int]) -> list[Job]:
    return list(
        Job.objects.filter(bed__bed__in=beds)
        .select_related("bed")
        .only("state", "outcome", "copies", "machine_id", "bed__bed_id", "bed__spec")
    )


def _parts(specs: list[dict[str, Any]], jobs: list[Job]) -> dict[str, int]:
    """The key of the part of every version of a plan that lies on one of the beds."""
    every = [*specs, *(job.bed.spec for job in jobs if job.bed)]
    keys = {placing["plan"] for spec in every for placing in spec["placings"]}
    found = PlanVersion.objects.filter(pk__in=[int(key) for key in keys])
    return {str(key): part for key, part in found.values_list("pk", "plan__part_id")}


def _pieces(spec: dict[str, Any], part_of: dict[str, int], part: int) -> int:
    return sum(part_of.get(placing["plan"]) == part for placing in spec["placings"])


def _add(count: Count, job: Job, part_of: dict[str, int], part: int) -> None:
    """Add the pieces of a job to the count of a line."""
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
