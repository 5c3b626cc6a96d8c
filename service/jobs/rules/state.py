"""How the service is: queue, workers, machines, disk, backup."""

from __future__ import annotations

import json
import shutil
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.core.cache import cache
from django.db.models import Count, Max
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob, ProcrastinateWorker

from northpace import VERSION
from service.jobs.rules.tidying import room_of
from service.plans.models import PlanVersion
from service.queue import LARGE, SMALL
from service.workshop.models import Workshop

#: Every file is looked at to tell the room they take: once in so many seconds.
LOOKED = 60
#: Plans that took longest are named for so long, and so many of them.
LATELY, NAMED = timedelta(days=7), 5


def queue() -> list[dict[str, Any]]:
    """What waits and what is computed, by lane."""
    counted = {
        (lane, status): count
        for lane, status, count in ProcrastinateJob.objects.filter(status__in=("todo", "doing"))
        .values_list("queue_name", "status")
        .annotate(count=Count("id"))
    }
    return [
        {
            "lane": lane,
            "waiting": counted.get((lane, "todo"), 0),
            "computing": counted.get((lane, "doing"), 0),
        }
        for lane in (SMALL, LARGE)
    ]


def last_sign() -> float | None:
    """Seconds since a worker gave a sign of life; None where none ever did."""
    last = ProcrastinateWorker.objects.aggregate(last=Max("last_heartbeat"))["last"]
    return None if last is None else max((timezone.now() - last).total_seconds(), 0.0)


def _machines(workshop: Workshop) -> list[dict[str, Any]]:
    return [
        {
            "name": machine.name,
            "kind": machine.connection.get("kind", "none"),
            "seen": machine.contact.get("seen"),
            "error": machine.contact.get("error") or "",
            "trouble": machine.contact.get("trouble") or "",
        }
        for machine in workshop.machines.all()
    ]


def _slowest(workshop: Workshop) -> list[dict[str, Any]]:
    rows = (
        PlanVersion.objects.filter(
            plan__workshop=workshop,
            state=PlanVersion.State.DONE,
            computed__gt=timezone.now() - LATELY,
        )
        .exclude(took_s=None)
        .order_by("-took_s")
        .values_list("plan", "plan__number", "part__name", "took_s")
    )
    return [
        {"plan": plan, "number": number, "part": part or "", "seconds": seconds}
        for plan, number, part, seconds in rows[:NAMED]
    ]


def backup() -> dict[str, Any] | None:
    """When the last backup was made and where to; None where there is none."""
    try:
        found: dict[str, Any] = json.loads(settings.LAST_BACKUP.read_text())
    except (OSError, ValueError):
        return None
    return found


def state_of(workshop: Workshop) -> dict[str, Any]:
    """All of it, for the owners of a workshop."""
    disk = shutil.disk_usage(settings.VAR)
    return {
        "version": VERSION,
        "queue": queue(),
        "last_sign_s": last_sign(),
        "machines": _machines(workshop),
        "disk": {"free": disk.free, "total": disk.total},
        "room": cache.get_or_set(f"room {workshop.pk}", lambda: room_of(workshop), LOOKED),
        "versions": PlanVersion.objects.filter(plan__workshop=workshop).count(),
        "keep_days": workshop.keep_days,
        "backup": backup(),
        "slowest": _slowest(workshop),
    }
