"""Putting work into the queue. By name, so that the rules, which put it there, need not know the
tasks, which call the rules.
"""

from __future__ import annotations

from typing import Any

from django.db import InterfaceError, OperationalError
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

#: What a task may meet that is no fault of its own and passes: the database away, the disk full.
AWAY = (OperationalError, InterfaceError, OSError)
#: Such a task is tried again, 3, 5 and 9 seconds later; then `put_right` says so.
TRY_AGAIN = RetryStrategy(max_attempts=3, wait=1, exponential_wait=2, retry_exceptions=AWAY)
#: The lanes of the queue. Some workers take small work only, so that a maker who changes a value
#: never waits behind somebody's hour of computing.
SMALL, LARGE, WATCH = "small", "large", "watch"
#: What takes longer in the small lane than this (s) goes on in the large one.
MOST_SMALL = 12.0


def later(task: str, lane: str, workshop: int, **values: Any) -> int:
    """Queue a task, such as ``plans.tasks.compute_version``, with its arguments; part of the
    transaction it is called in. Workshops take turns: the second open task of one comes after the
    first of every other. Returns the key of the entry; raises procrastinate's `TaskNotFound` for
    a name that is none.
    """
    before = ProcrastinateJob.objects.filter(
        status__in=("todo", "doing"), args__contains={"workshop": workshop}
    ).count()
    return app.configure_task(
        f"service.{task}", queue=lane, priority=-before, allow_unknown=False
    ).defer(workshop=workshop, **values)
