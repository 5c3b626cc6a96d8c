"""Putting work into the queue. By name, so that the rules, which put it there, need not know the
tasks, which call the rules.
"""

from __future__ import annotations

from typing import Any

from django.db import InterfaceError, OperationalError
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

#: What a task may meet that is no fault of its own and passes: the database away, the disk full.
AWAY = (OperationalError, InterfaceError, OSError)
#: Such a task is tried again, 3, 5 and 9 seconds later; then `put_right` says so.
TRY_AGAIN = RetryStrategy(max_attempts=3, wait=1, exponential_wait=2, retry_exceptions=AWAY)


def later(task: str, **values: Any) -> int:
    """Queue a task, such as ``plans.tasks.compute_version``, with its arguments; part of the
    transaction it is called in. Returns the key of the entry; raises procrastinate's `TaskNotFound`
    for a name that is none.
    """
    return app.configure_task(f"service.{task}", allow_unknown=False).defer(**values)
