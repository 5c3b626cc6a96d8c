"""Nothing waits for a task that there is none for."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from django.db import transaction
from procrastinate.contrib.django.models import ProcrastinateJob

from service.parts.models import Part
from service.plans.models import PlanVersion, Search, WaySearch
from service.queue import LARGE, later

#: What is said after a task was tried as often as it is.
GIVEN_UP = (
    "it was tried three times and never finished: the database or the disk did not answer, or the "
    "worker ended; nothing is lost, and it can be tried again"
)


def put_right() -> int:
    """Give everything that is open and has no task in the queue a new one; what was tried in vain
    as often as it is says so. Returns how many were put right.
    """
    kinds: tuple[tuple[Any, str, str, dict[str, str]], ...] = (
        (
            PlanVersion.objects.filter(state__in=PlanVersion.OPEN),
            "plans.tasks.compute_version",
            "version_id",
            {"state": PlanVersion.State.FAILED, "message": GIVEN_UP},
        ),
        (
            Search.objects.filter(state__in=Search.OPEN),
            "plans.tasks.search_proposals",
            "search_id",
            {"state": Search.State.FAILED, "message": GIVEN_UP},
        ),
        (
            WaySearch.objects.filter(state__in=WaySearch.OPEN),
            "plans.tasks.find_ways",
            "search_id",
            {"state": WaySearch.State.FAILED, "message": GIVEN_UP},
        ),
        (
            Part.objects.filter(state=Part.State.READING),
            "parts.tasks.read_part",
            "part_id",
            {"state": Part.State.REFUSED, "message": GIVEN_UP},
        ),
    )
    return sum(put_right_rows(*kind) for kind in kinds)


def put_right_rows(open_: Any, task: str, argument: str, given_up: dict[str, str]) -> int:
    """Put the rows that are open and have no task right; returns how many."""
    changed = 0
    for key in open_.values_list("pk", flat=True):
        with transaction.atomic():
            # a row that is being made is not seen yet, and one that is being changed is waited for
            if not open_.select_for_update(no_key=True).filter(pk=key).exists():
                continue
            states = set(_tasks(task, argument, key))
            if states & {"todo", "doing"}:
                continue
            if "failed" in states:
                open_.filter(pk=key).update(**given_up)
            else:
                later(task, LARGE, 0, **{argument: key})
            changed += 1
    return changed


def _tasks(task: str, argument: str, key: int) -> Iterable[str]:
    """States of the tasks in the queue that are about a row."""
    return ProcrastinateJob.objects.filter(
        task_name=f"service.{task}", args__contains={argument: key}
    ).values_list("status", flat=True)
