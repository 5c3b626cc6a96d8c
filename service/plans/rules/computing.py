"""Computing a version, in a process of its own, and keeping what came of it."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet

from northpace.moves import browser_bytes
from service import limits
from service.computed import keep_result, told, unwanted, within_limits
from service.core import pipeline
from service.files import keep
from service.plans.models import PlanVersion
from service.plans.rules.library import note_figures
from service.plans.rules.shown import Shown
from service.queue import LARGE, later


def compute(version_id: int, within_small: bool = False) -> None:
    """Compute a version. What is too much for a worker that only takes small work goes on in the
    large lane; what is too much at all says so.
    """
    open_ = PlanVersion.objects.filter(pk=version_id, state__in=PlanVersion.OPEN)
    version = open_.select_related("plan__part", "part").first()
    if version is None:
        return
    part = version.its_part

    def in_large() -> None:
        task, workshop = "plans.tasks.compute_version", version.plan.workshop_id
        later(task, LARGE, workshop, version_id=version_id)

    within_limits(
        open_,
        compute_here,
        limits.planning(part.size_bytes),
        part.checksum,
        in_large if within_small else None,
    )


def compute_here(version_id: int) -> None:
    """Compute a version; safe to run again after a worker was lost in the middle."""
    changed = PlanVersion.objects.filter(pk=version_id, state__in=PlanVersion.OPEN).update(
        state=PlanVersion.State.COMPUTING, stage="load", share=0, laid_key="", laid_words=""
    )
    if not changed:
        return
    version = PlanVersion.objects.select_related("plan__part", "part", "spool").get(pk=version_id)
    mine = PlanVersion.objects.filter(pk=version_id, state=PlanVersion.State.COMPUTING)
    shown = Shown(mine)
    try:
        keep_result(mine, lambda: _computed(version, mine, shown))
    finally:
        shown.put_away(PlanVersion.objects.filter(pk=version_id))
    note_figures(version.plan_id)


def _computed(version: PlanVersion, mine: QuerySet[PlanVersion], shown: Shown) -> dict[str, Any]:
    """What is kept of a version."""
    plan, part = version.plan, version.its_part
    result = pipeline().plan(
        part.source,
        version.whole_spec,
        {
            "part": part.name,
            "plan": f"{plan.number} version {version.number}",
            "spool": version.spool.label if version.spool else "not chosen",
        },
        told(mine),
        unwanted(mine),
        version.correction,
        shown,
    )
    return {
        "report": result.report,
        "took_s": result.report["elapsed_s"]["total"],
        "moves_key": keep(browser_bytes(result.moves, result.outlines.tops), ".arrow"),
        "gcode_key": keep(result.gcode, ".gcode"),
    }
