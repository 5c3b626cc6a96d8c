"""Putting work into the queue. By name, so that the rules, which put it there, need not know the
tasks, which call the rules.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from contextvars import ContextVar
from typing import Any

from django.db import InterfaceError, OperationalError, connection
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

#: What anything meets whose database is away, and what a task may meet that is no fault of its own
#: and passes: that, or the disk full.
NO_DATABASE = (OperationalError, InterfaceError)
AWAY = (*NO_DATABASE, OSError)
#: Such a task is tried again, 3, 5 and 9 seconds later; then `put_right` says so.
TRY_AGAIN = RetryStrategy(max_attempts=3, wait=1, exponential_wait=2, retry_exceptions=AWAY)
#: The lanes of the queue. Some workers take small work only, so that a maker who changes a value
#: never waits behind somebody's hour of computing.
SMALL, LARGE, WATCH = "small", "large", "watch"
#: Who asks for what is queued here and now: the key of a member, 0 for nobody.
ASKING: ContextVar[int] = ContextVar("northpace_asking", default=0)
#: The priority of what nobody asked for, such as plans that a new core computes anew.
BEHIND = -1_000_000
#: What takes longer in the small lane than this (s) goes on in the large one.
MOST_SMALL = 12.0


def later(task: str, lane: str, workshop: int, **values: Any) -> int:
    """Queue a task, such as ``plans.tasks.compute_version``, with its arguments; part of the
    transaction it is called in. Workshops take turns, and so do the persons of one; what nobody of
    a workshop asked for comes behind all that. Returns the key of the entry; raises procrastinate's
    `TaskNotFound` for a name that is none.
    """
    person = ASKING.get()
    asked = app.configure_task(
        f"service.{task}",
        queue=lane,
        priority=BEHIND if workshop and not person else 0,
        allow_unknown=False,
    )
    key = asked.defer(workshop=workshop, person=person, **values)
    if person:
        take_turns(workshop)
    return key


def as_asked(run: Callable[[], Any], context: Any, worker: Any) -> Any:
    """Middleware of the queue: what a task queues is asked for by who asked for the task."""
    token = ASKING.set(context.job.task_kwargs.get("person", 0))
    try:
        return run()
    finally:
        ASKING.reset(token)


def take_turns(workshop: int) -> None:
    """Give the open tasks that persons of a workshop asked for their places: the second one comes
    after the first of every other workshop, and among them the second of a person after the first
    of everybody else.
    """
    open_ = ProcrastinateJob.objects.filter(
        status__in=("todo", "doing"), args__contains={"workshop": workshop}
    ).order_by("id")
    turns: Counter[int] = Counter()
    rows = []
    for key, status, priority, args in open_.values_list("id", "status", "priority", "args"):
        person = args.get("person", 0)
        if person:
            rows.append((turns[person], key, status, priority))
            turns[person] += 1
    moved = [
        (-place, key)
        for place, (_, key, status, priority) in enumerate(sorted(rows))
        if status == "todo" and priority != -place
    ]
    if moved:
        with connection.cursor() as cursor:
            # a worker may take one at this moment: then it has its place
            cursor.executemany(
                "update procrastinate_jobs set priority = %s where id = %s and status = 'todo'",
                moved,
            )
