"""The review before a commit: everything that can go wrong, said once, with what has to be
ticked.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

from northpace.errors import InputError
from service.beds.models import BedVersion
from service.jobs.models import Job
from service.jobs.rules.schedule import Slot, as_simulated, factor_of, next_slot
from service.plans.models import Acknowledgement, PlanVersion
from service.workshop.models import Machine, Spool, Workshop
from service.workshop.rules.spools import reserved

NOT_EXACT = "the exact figures are not computed yet; a job is committed from exact figures only"
#: Copies that can be committed at once.
MOST_COPIES = 500


@dataclass(frozen=True)
class Check:
    """A line of the review: *stop* forbids, *look* wants a tick, *fine* is told only. The
    workshop's own list wants ticks too.
    """

    key: str
    level: str
    words: str

    def as_dict(self) -> dict[str, str]:
        return asdict(self)


@dataclass(frozen=True)
class Review:
    """What is looked at before a commit: lines, the clock times of the first and the last copy, and
    grams: of each, reserved by others, left after.
    """

    checks: list[Check]
    first: Slot
    last: Slot
    each_g: float
    reserved_g: float
    left_g: float | None


@dataclass(frozen=True)
class Subject:
    """What is committed: a plan, or a bed."""

    findings: list[dict[str, Any]]
    #: findings that were accepted with a reason
    known: list[Acknowledgement]
    mass_g: float
    seconds: float
    machine: Machine
    spool: Spool | None
    workshop: Workshop


def review(version: PlanVersion, copies: int = 1) -> Review:
    """The last look at a plan; raises `InputError` while there is nothing exact to commit."""
    if version.state != PlanVersion.State.DONE or version.report is None:
        raise InputError(NOT_EXACT, "commit")
    report, plan = version.report, version.plan
    subject = Subject(
        report["findings"],
        list(plan.acknowledgements.all()),
        float(report["filament"]["mass_g"]),
        float(report["time_s"]["total"]),
        version.nozzle.machine,
        version.spool,
        plan.workshop,
    )
    return review_of(subject, copies)


def review_bed(version: BedVersion, copies: int = 1) -> Review:
    """The last look at a bed; raises `InputError` while there is nothing exact to commit."""
    if version.state != BedVersion.State.DONE or version.report is None:
        raise InputError(NOT_EXACT, "commit")
    report, bed = version.report, version.bed
    subject = Subject(
        report["findings"],
        [],
        float(report["mass_g"]),
        float(report["total_s"]),
        bed.nozzle.machine,
        bed.spool,
        bed.workshop,
    )
    return review_of(subject, copies)


def review_of(subject: Subject, copies: int) -> Review:
    """The last look at what is committed."""
    if not 1 <= copies <= MOST_COPIES:
        raise InputError(f"1 to {MOST_COPIES} copies can be committed at once", "copies")
    machine, each, seconds = subject.machine, subject.mass_g, subject.seconds
    checks = [*_finding_checks(subject), *_spool_checks(subject, each, copies)]
    if machine.contact.get("error"):
        checks.append(
            Check(
                "contact",
                "look",
                f"{machine.name} does not answer: {machine.contact['error']}. The job waits "
                "until it does.",
            )
        )
    if machine.held:
        checks.append(
            Check(
                "held",
                "look",
                f"The queue of {machine.name} is held; the job waits until it goes on.",
            )
        )
    before = Job.objects.filter(machine=machine, state__in=Job.OPEN).count()
    free = f"{machine.name} is free."
    if before:
        free = f"{before} {'job is' if before == 1 else 'jobs are'} before it on {machine.name}."
    known = as_simulated("It", factor_of(machine))
    checks.append(Check("machine", "fine", f"{free} {known}." if known else free))
    checks += [
        Check(f"own {k}", "look", words) for k, words in enumerate(subject.workshop.checklist)
    ]
    spool = subject.spool
    key = spool.pk if spool is not None else None
    every = copies * seconds + (copies - 1) * 60 * machine.bed_change_min
    first = next_slot(machine, seconds, key)
    last = first if copies == 1 else next_slot(machine, every, key)
    kept = reserved(spool) if spool else 0.0
    return Review(
        checks,
        first,
        last,
        each,
        kept,
        spool.usable_mass - kept - copies * each if spool else None,
    )


def _finding_checks(subject: Subject) -> list[Check]:
    known = subject.known
    worth = [finding for finding in subject.findings if finding["severity"] != "note"]
    reasons = [
        (finding, next((entry.reason for entry in known if entry.holds(finding)), None))
        for finding in worth
    ]
    found = [finding for finding, reason in reasons if reason is None]
    stops, looks = (
        [finding["message"] for finding in found if finding["severity"] == level]
        for level in ("stop", "look")
    )
    out = [
        Check(f"known {finding['code']}", "fine", f"{finding['message']} Acknowledged: {reason}")
        for finding, reason in reasons
        if reason is not None
    ]
    if stops:
        out.append(
            Check(
                "stops",
                "stop",
                "This would not print: "
                + " ".join(stops)
                + " Put it right, or acknowledge it with a reason.",
            )
        )
    if looks:
        out.append(
            Check(
                "looks",
                "look",
                f"{len(looks)} {'finding' if len(looks) == 1 else 'findings'} looked at and "
                "accepted: " + " ".join(looks),
            )
        )
    return out or [Check("findings", "fine", "Nothing to look at.")]


def _spool_checks(subject: Subject, each: float, copies: int) -> list[Check]:
    spool, machine = subject.spool, subject.machine
    if spool is None:
        return [
            Check(
                "spool",
                "look",
                "No spool is chosen: nothing is reserved and nothing will be booked.",
            )
        ]
    left = spool.usable_mass - reserved(spool)
    if left < copies * each:
        out = [
            Check(
                "spool",
                "look",
                f"{spool.label} has {left:.1f} g free and {copies * each:.1f} g are needed: it "
                f"holds {max(int(left / each), 0)} of {copies}. Another spool has to be hung up "
                "on the way.",
            )
        ]
    else:
        out = [
            Check(
                "spool",
                "fine",
                f"{spool.label} has {left:.1f} g free; {left - copies * each:.1f} g are left "
                "after this.",
            )
        ]
    if machine.loaded is not None and machine.loaded_id != spool.pk:
        out.append(
            Check(
                "material",
                "look",
                f"{machine.loaded.label} ({machine.loaded.material}) hangs on {machine.name}; the "
                f"job waits until {spool.label} ({spool.material}) is hung up.",
            )
        )
    return out
