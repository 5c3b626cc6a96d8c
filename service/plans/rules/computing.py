"""Computing a version, and keeping what came of it."""

from __future__ import annotations

from django.utils import timezone

from northpace import VERSION
from northpace.errors import InputError
from northpace.moves import browser_bytes
from northpace.plan.pipeline import Cancelled
from northpace.spec import spec_from
from service.core import pipeline
from service.files import keep
from service.plans.models import PlanVersion
from service.plans.rules.versions import log
from service.queue import AWAY


def compute(version_id: int) -> None:
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
            spec_from(version.spec),
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
    except AWAY:
        raise  # tried again by the queue
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
        share=1,
        stage="",
        core_version=VERSION,
        computed=timezone.now(),
        message="",
        **keys,
    )
