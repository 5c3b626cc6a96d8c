"""Searches for changes of a plan: begun, run in the queue, their answers kept; what is taken up
from one comes out as it was proposed.
"""

from __future__ import annotations

import logging
from typing import Any

from django.db import transaction
from django.utils import timezone

from northpace.errors import InputError
from northpace.figures import Report
from northpace.plan.pipeline import Cancelled
from northpace.proposals.held import Held, held_now
from northpace.proposals.search import Aim, Alternative, propose
from northpace.spec import PlanSpec
from northpace.spec import settings as every_setting
from service import limits
from service.computed import told, unwanted
from service.core import pipeline
from service.hands import TooMuch, Unwanted, apart
from service.plans.models import Plan, PlanVersion, Search
from service.plans.rules import figures, resolving
from service.queue import AWAY, LARGE, later

log = logging.getLogger(__name__)


def begin(plan: Plan, held: dict[str, Any]) -> Search:
    """A search from the newest exact version; one that still runs for the plan is stopped."""
    exact = figures.last_exact(plan)
    if exact is None or plan.latest.pk != exact.pk:
        raise InputError(
            "the exact plan is still being computed; changes are proposed for exact figures",
            str(plan),
        )
    known = {entry["name"] for entry in every_setting()}
    strange = [name for name in held["keep"] if name not in known]
    if strange:
        raise InputError(f"'{strange[0]}' is no setting", "keep")
    with transaction.atomic():
        plan.searches.filter(state__in=Search.OPEN).update(state=Search.State.CANCELLED)
        search = Search.objects.create(plan=plan, version=exact, held=held)
        later("plans.tasks.search_proposals", LARGE, plan.workshop_id, search_id=search.pk)
    return search


def held_of(held: dict[str, Any], report: Report, spec: PlanSpec, height: float) -> Held:
    """What is held as the core wants it: shares of now, and the maker's own limits in
    their place.
    """
    now = held_now(report, spec, height, held["give"] / 100).as_dict()
    own = {
        name: held[name]
        for name in ("wall_mm", "top_mm", "bottom_mm", "p95_um", "stiffness", "mass_g", "cost")
        if held.get(name) is not None
    }
    return Held(**{**now, **own, "keep": tuple(held["keep"]), "families": tuple(held["families"])})


def _nozzles(version: PlanVersion) -> tuple[Alternative, ...]:
    """The other nozzles of the plan's machine, with the settings refitted as a change of nozzle
    would.
    """
    out = []
    for nozzle in version.nozzle.machine.nozzles.exclude(pk=version.nozzle_id):
        try:
            spec = resolving.resolve(
                resolving.refit(version.settings, version.nozzle, nozzle),
                nozzle,
                version.material,
                version.spool,
            )
        except InputError:
            continue  # the maker's own beads do not go through it
        out.append(Alternative(f"{nozzle.bore:g} mm nozzle", {"nozzle": nozzle.pk}, spec))
    return tuple(out)


def run(search_id: int) -> None:
    """Search, in a process of its own."""
    open_ = Search.objects.filter(pk=search_id, state__in=Search.OPEN)
    search = open_.select_related("plan__part").first()
    if search is None:
        return
    part = search.plan.part
    try:
        apart(
            "work",
            run_here,
            (search_id,),
            limits.planning(part.size_bytes),
            part.checksum,
            open_.exists,
        )
    except Unwanted:
        return
    except TooMuch as error:
        open_.update(state=Search.State.FAILED, message=error.message, ended=timezone.now())


def run_here(search_id: int) -> None:
    """Search; safe to run again after a worker was lost in the middle."""
    mine = Search.objects.filter(pk=search_id, state=Search.State.SEARCHING)
    if not Search.objects.filter(pk=search_id, state__in=Search.OPEN).update(
        state=Search.State.SEARCHING
    ):
        return
    search = Search.objects.select_related("plan__part", "version").get(pk=search_id)
    plan, spec = search.plan, search.version.whole_spec
    correction = figures.correction_for(plan, spec)

    try:
        found = propose(
            pipeline(),
            plan.part.source,
            spec,
            lambda report, height: held_of(search.held, report, spec, height),
            correction,
            Aim(alternatives=_nozzles(search.version)),
            told(mine),
            unwanted(mine),
        )
    except Cancelled:
        return
    except InputError as error:
        mine.update(state=Search.State.FAILED, message=str(error), ended=timezone.now())
        return
    except (*AWAY, MemoryError):
        raise  # said or tried again by who asked
    except Exception:
        log.exception("search %s failed", search_id)
        mine.update(
            state=Search.State.FAILED,
            ended=timezone.now(),
            message="a fault of the program, not of your settings; the log of the worker has "
            "the details",
        )
        return
    mine.update(
        state=Search.State.DONE,
        result=found.as_dict(),
        correction=correction,
        ended=timezone.now(),
        share=1,
        stage="",
    )
