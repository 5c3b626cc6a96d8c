"""What is logged carries the number of the request, or of the task, it is of: also what a process
says that computes for it. As lines to read, or with ``NORTHPACE_LOG=json`` as JSON for a program.
"""

from __future__ import annotations

import logging
import re
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import TYPE_CHECKING, Any

from asgiref.sync import iscoroutinefunction
from django.utils.decorators import sync_and_async_middleware

if TYPE_CHECKING:  # the settings are made with this, before there is a framework
    from django.http import HttpRequest, HttpResponse

log = logging.getLogger("northpace.requests")
#: What is known here and now: request, task.
_HERE: ContextVar[dict[str, str]] = ContextVar("northpace_log", default={})  # noqa: B039
#: A number that a proxy gives is taken where it is one.
NUMBER = re.compile(r"[\w-]{8,64}")
#: Addresses that are asked all the time, by programs or by screens that wait.
OFTEN = re.compile(
    r"^/(static/|api/(alive|health|metrics|board)$|api/plans/\d+/(progress|others)$)"
)


def here() -> dict[str, str]:
    """What log lines carry here, to be handed to another process."""
    return _HERE.get()


@contextmanager
def within(**facts: str) -> Iterator[None]:
    """Log lines carry these facts too."""
    token = _HERE.set({**_HERE.get(), **facts})
    try:
        yield
    finally:
        _HERE.reset(token)


#: Parts of addresses that must stay secret, such as that of an invitation.
SECRET = re.compile(r"(/invitations/|/join/)[^/\s?]+")


def without_secrets(path: str) -> str:
    """An address with its secret parts replaced by "…", for the log."""
    return SECRET.sub(r"\1…", path)


class Facts(logging.Filter):
    """Gives every record what is known, each fact on its own and all of them as words."""

    def filter(self, record: logging.LogRecord) -> bool:
        """Every record is kept. Secret parts of addresses are removed from it."""
        if isinstance(record.args, tuple):
            record.args = tuple(
                without_secrets(one) if isinstance(one, str) else one for one in record.args
            )
        path = getattr(getattr(record, "request", None), "path", None)
        if isinstance(path, str):  # the framework gives the whole request
            record.request = without_secrets(path)
        facts = _HERE.get()
        for name, value in facts.items():
            setattr(record, name, value)
        words = " ".join(f"{name} {value}" for name, value in facts.items())
        record.facts = f" [{words}]" if words else ""
        return True


@sync_and_async_middleware
def numbered(answer: Callable[[HttpRequest], Any]) -> Callable[[HttpRequest], Any]:
    """Middleware that gives every request a number, which the answer states as ``X-Request-ID``,
    and logs what came of it.
    """
    if iscoroutinefunction(answer):

        async def later(request: HttpRequest) -> HttpResponse:
            number, begun = _number(request), time.monotonic()
            with within(request=number):
                return _logged(request, await answer(request), number, begun)

        return later

    def now(request: HttpRequest) -> HttpResponse:
        number, begun = _number(request), time.monotonic()
        with within(request=number):
            return _logged(request, answer(request), number, begun)

    return now


def _number(request: HttpRequest) -> str:
    given = request.headers.get("X-Request-ID", "")
    return given if NUMBER.fullmatch(given) else uuid.uuid4().hex[:16]


def _logged(
    request: HttpRequest, response: HttpResponse, number: str, begun: float
) -> HttpResponse:
    response["X-Request-ID"] = number
    if log.isEnabledFor(logging.INFO) and not OFTEN.match(request.path):
        milliseconds = round(1000 * (time.monotonic() - begun))
        log.info(
            "%s %s %s in %s ms",
            request.method,
            without_secrets(request.path),
            response.status_code,
            milliseconds,
            extra={
                "method": request.method,
                "path": without_secrets(request.path),
                "status": response.status_code,
                "ms": milliseconds,
            },
        )
    return response


def task(run: Callable[[], Any], context: Any, worker: Any) -> Any:
    """Middleware of the queue: what a task logs carries its number and name; the end is logged."""
    name, begun = context.job.task_name.removeprefix("service."), time.monotonic()
    tasks = logging.getLogger("northpace.tasks")
    with within(task=str(context.job.id)):
        try:
            found = run()
        except Exception:
            tasks.warning("%s did not come to its end", name, extra={"name_of_task": name})
            raise
        milliseconds = round(1000 * (time.monotonic() - begun))
        tasks.info(
            "%s in %s ms", name, milliseconds, extra={"name_of_task": name, "ms": milliseconds}
        )
        return found


def configured(form: str, level: str) -> dict[str, Any]:
    """The settings of Python's logging: ``form`` "plain" or "json", and the least level."""
    plain = "%(asctime)s %(levelname)s %(name)s%(facts)s: %(message)s"
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "filters": {"facts": {"()": "service.config.logged.Facts"}},
        "formatters": {
            "plain": {"format": plain},
            "json": {
                "()": "pythonjsonlogger.json.JsonFormatter",
                "fmt": "%(asctime)s %(levelname)s %(name)s %(message)s",
                "rename_fields": {"asctime": "at", "levelname": "level", "name": "logger"},
            },
        },
        "handlers": {
            "console": {
                "class": "logging.StreamHandler",
                "filters": ["facts"],
                "formatter": form,
            }
        },
        "root": {"handlers": ["console"], "level": "WARNING"},
        "loggers": {"northpace": {"level": level}, "service": {"level": level}},
    }
