"""Computing a version, in a process of its own, and keeping what came of it."""

from __future__ import annotations

from dataclasses import replace

from django.utils import timezone

from northpace import VERSION
from northpace.errors import InputError
from northpace.moves import browser_bytes
from northpace.plan.pipeline import Cancelled
from service import limits
from service.core import pipeline
from service.files import keep
from service.hands import TooLong, TooMuch, Unwanted, apart
from service.plans.models import PlanVersion
from service.plans.rules.versions import log
from service.queue import AWAY, LARGE, MOST_SMALL, later


def compute(version_id: int, within_small: bool = False) -> None:
    """Compute a version. What is too much for a worker that only takes small work goes on in the
    large lane; what is too much at all says so.
    """
    open_ = PlanVersion.objects.filter(pk=version_id, state__in=PlanVersion.OPEN)
    version = open_.select_related("plan__part", "part").first()
    if version is None:
        return
    part = version.its_part
    limit = limits.planning(part.size_bytes)
    if within_small:
        limit = replace(limit, seconds=MOST_SMALL)
    try:
        apart("work", compute_here, (version_id,), limit, part.checksum, open_.exists)
    except Unwanted:
        return
    except TooMuch as error:
        if within_small and isinstance(error, TooLong):
            later(
                "plans.tasks.compute_version",
                LARGE,
                version.plan.workshop_id,
                version_id=version_id,
            )
            return
        open_.update(state=PlanVersion.State.FAILED, message=error.message, computed=timezone.now())


def compute_here(version_id: int) -> None:
    """Compute a version; safe to run again after a worker was lost in the middle."""
    changed = PlanVersion.objects.filter(pk=version_id, state__in=PlanVersion.OPEN).update(
        state=PlanVersion.State.COMPUTING, stage="load", share=0
    )
    if not changed:
        return
    version = PlanVersion.objects.select_related("plan__part", "part", "spool").get(pk=version_id)
    mine = PlanVersion.objects.filter(pk=version_id, state=PlanVersion.State.COMPUTING)
    plan, part = version.plan, version.its_part

    def progress(stage: str, share: float) -> None:
        mine.update(stage=stage, share=share)

    try:
        result = pipeline().plan(
            part.source,
            version.whole_spec,
            {
                "part": part.name,
                "plan": f"{plan.number} version {version.number}",
                "spool": version.spool.label if version.spool else "not chosen",
            },
            progress,
            lambda: not mine.exists(),
            version.correction,
        )
    except Cancelled:
        return
    except InputError as error:
        mine.update(state=PlanVersion.State.FAILED, message=str(error), computed=timezone.now())
        return
    except (*AWAY, MemoryError):
        raise  # said or tried again by who asked
    except Exception:
        log.exception("version %s could not be computed", version_id)
        mine.update(
            state=PlanVersion.State.FAILED,
            computed=timezone.now(),
            message="a fault of the program, not of your settings; the log of the worker has "
            "the details",
        )
        return
    keys = {
        "moves_key": keep(browser_bytes(result.moves, result.outlines.tops), ".arrow"),
        "gcode_key": keep(result.gcode, ".gcode"),
    }
    mine.update(
        state=PlanVersion.State.DONE,
        report=result.report,
        took_s=result.report["elapsed_s"]["total"],
        share=1,
        stage="",
        core_version=VERSION,
        computed=timezone.now(),
        message="",
        **keys,
    )
