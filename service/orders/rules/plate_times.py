"""How long beds with different numbers of pieces of a plan take. This is computed in the queue,
once for every exact version of a plan that an order may use.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django.db import transaction

from northpace import VERSION
from northpace.beds.planning import Planner
from northpace.beds.plates import plate_figures
from northpace.beds.spec import BedSpec
from northpace.spec import Machine, digest
from service import limits
from service.beds.rules.computing import asked_of
from service.computed import keep_result, unwanted, within_limits
from service.core import pipeline
from service.orders.models import PlateTimes
from service.plans.models import Plan, PlanVersion
from service.queue import LARGE, SMALL, later
from service.workshop.models import Nozzle

TASK = "orders.tasks.time_plates"
#: How beds for orders are laid: all pieces together, each turned by a multiple of 45°. With the
#: usual 15° it takes three times as long to find out how many pieces fit.
ORDER_BED = BedSpec(turn_step=45)


def exact_versions(plans: Iterable[Plan | int]) -> list[PlanVersion]:
    """The newest exact version of each plan that has one."""
    return list(
        PlanVersion.objects.filter(
            plan__in=plans, state=PlanVersion.State.DONE, core_version=VERSION
        )
        .order_by("plan_id", "-number")
        .distinct("plan_id")
        .select_related("nozzle__machine", "material", "plan__part", "part")
        .defer("report", "spec", "settings", "plan__part__picture", "part__picture")
    )


def geometry(nozzle: Nozzle) -> str:
    """Digest of the figures of a machine that decide how many pieces fit on its bed."""
    return digest({"figures": nozzle.machine.figures, "bore": nozzle.bore})


def known_times(versions: Iterable[PlanVersion]) -> dict[int, PlateTimes]:
    """The times of versions that are known, that are being computed, or that could not be computed,
    by the keys of the versions. Times for a bed as it was before, or of an older core, are left
    out.
    """
    by_key = {version.pk: version for version in versions}
    rows = PlateTimes.objects.filter(version__in=by_key, core_version=VERSION)
    return {
        row.version_id: row
        for row in rows
        if row.machine == geometry(by_key[row.version_id].nozzle)
    }


def ask_for(versions: Iterable[PlanVersion], workshop: int, again: bool = False) -> int:
    """Have the times of versions computed that are not known. Those that could not be computed are
    tried once more only ``again``. Returns how many were queued.
    """
    versions = list(versions)
    known = known_times(versions)
    if again:
        failed = PlateTimes.State.FAILED
        known = {key: row for key, row in known.items() if row.state != failed}
    missing = [version for version in versions if version.pk not in known]
    for version in missing:
        with transaction.atomic():
            PlanVersion.objects.select_for_update(no_key=True).only("pk").get(pk=version.pk)
            row, _ = PlateTimes.objects.update_or_create(
                version=version,
                defaults={
                    "machine": geometry(version.nozzle),
                    # kept also with times that cannot be computed, so that these are known to fail
                    "core_version": VERSION,
                    "state": PlateTimes.State.QUEUED,
                    "message": "",
                    "share": 0,
                },
            )
            row.task = later(TASK, SMALL, workshop, times_id=row.pk)
            row.save(update_fields=["task"])
    return len(missing)


def compute(times_id: int, within_small: bool = False) -> None:
    """Compute the times of a version. If that is too much for the worker of small work
    (``within_small``), it is queued for the other one.
    """
    open_ = PlateTimes.objects.filter(pk=times_id, state__in=PlateTimes.OPEN)
    row = open_.select_related("version__plan__part", "version__part").first()
    if row is None:
        return
    part, workshop = row.version.its_part, row.version.plan.workshop_id
    moves = int((row.version.report or {})["paths"]["moves"])

    def in_large() -> None:
        later(TASK, LARGE, workshop, times_id=times_id)

    limit = limits.laying(part.size_bytes, max(20 * moves, 5_000_000))
    within_limits(open_, compute_here, limit, part.checksum, in_large if within_small else None)


def compute_here(times_id: int) -> None:
    """Compute the times in this process; that may begin again after a worker was lost."""
    open_ = PlateTimes.objects.filter(pk=times_id, state__in=PlateTimes.OPEN)
    if not open_.update(state=PlateTimes.State.COMPUTING, stage="plates", share=0):
        return
    row = PlateTimes.objects.select_related(
        "version__nozzle__machine", "version__plan__part", "version__part"
    ).get(pk=times_id)
    mine = PlateTimes.objects.filter(pk=times_id, state=PlateTimes.State.COMPUTING)
    keep_result(mine, lambda: _computed(row.version, mine))


def _computed(version: PlanVersion, mine: Any) -> dict[str, Any]:
    key, spec = str(version.pk), ORDER_BED
    machine = Machine(**version.nozzle.spec())
    planner = Planner(pipeline(), {key: asked_of(version)}, machine, cancelled=unwanted(mine))
    found = plate_figures(spec, key, planner.own(spec)[key])
    return {
        "copies": list(found.copies),
        "seconds": list(found.seconds),
        "grams": list(found.grams),
    }
