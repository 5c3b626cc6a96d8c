"""A bed of the schedule becomes a bed of the workshop, which a person looks at and commits."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from django.db import transaction

from northpace.beds.spec import MOST
from northpace.errors import InputError
from northpace.schedule.problem import between
from service.beds.rules.versions import create_filled
from service.orders.models import OrderBed, OrderLine, PlateTimes
from service.orders.rules.plate_times import ORDER_BED, exact_versions, known_times
from service.orders.rules.searching import see_to
from service.plans.models import Plan, PlanVersion
from service.workshop.models import Spool


@dataclass(frozen=True)
class BedWish:
    """A bed to be made for a line: a plan, so many pieces, a spool, and when it begins."""

    plan: Plan
    pieces: int
    #: None for the one that hangs on the machine or, if that is of another material, that of the
    #: plan
    spool: Spool | None
    begin: datetime


def release(line: OrderLine, wish: BedWish) -> OrderBed:
    """Make the bed, with its pieces in the places for which its time was computed. It is printed
    only once somebody has committed it. Raises `InputError` if it cannot be made.
    """
    if line.order.closed:
        raise InputError(f"{line.order} is {line.order.closed}", "line")
    if wish.plan not in line.plans.all():
        raise InputError(f"{wish.plan} may not be used for {line}; allow it there first", "plan")
    if not 1 <= wish.pieces <= MOST:
        raise InputError(f"a bed holds 1 to {MOST} pieces", "pieces")
    version = next(iter(exact_versions([wish.plan])), None)
    if version is None:
        raise InputError(f"{wish.plan} is not computed yet", "plan")
    times = known_times([version]).get(version.pk)
    if times is None or times.state != PlateTimes.State.DONE:
        raise InputError(f"the times of beds of {wish.plan} are not known yet", "plan")
    holds = times.copies[-1]
    if wish.pieces > holds:
        raise InputError(f"a bed holds at most {holds} pieces of {wish.plan}", "pieces")
    spool = wish.spool or _usual_spool(version)
    if spool is not None and spool.material_id != version.material_id:
        raise InputError(
            f"{spool.label} is {spool.material}, and {wish.plan} is for {version.material}",
            "spool",
        )
    name = f"{line.order.title}: {wish.pieces} × {line.part.name}"[:120]
    with transaction.atomic():
        bed = create_filled(version, wish.pieces, ORDER_BED, spool, name)
        made = OrderBed.objects.create(
            line=line,
            bed=bed,
            begin=wish.begin,
            seconds=between(wish.pieces, tuple(times.copies), tuple(times.seconds)),
            grams=between(wish.pieces, tuple(times.copies), tuple(times.grams)),
            pieces=wish.pieces,
        )
    see_to(line.order.workshop)
    return made


def _usual_spool(version: PlanVersion) -> Spool | None:
    """The spool that hangs on the machine if it is of the right material, else that of the plan."""
    there = version.nozzle.machine.loaded
    if there is not None and there.material_id == version.material_id:
        return there
    return version.spool
