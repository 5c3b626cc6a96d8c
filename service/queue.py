"""Putting work into the queue. By name, so that the rules, which put it there, need not know the
tasks, which call the rules.
"""

from __future__ import annotations

from typing import Any

from procrastinate.contrib.django import app


def later(task: str, **values: Any) -> int:
    """Queue a task, such as ``plans.tasks.compute_version``, with its arguments; part of the
    transaction it is called in. Returns the key of the entry; raises procrastinate's `TaskNotFound`
    for a name that is none.
    """
    return app.configure_task(f"service.{task}", allow_unknown=False).defer(**values)
