"""A worker: takes parts and plans from the queue."""

from __future__ import annotations

import asyncio
import logging
import threading
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import InterfaceError, OperationalError, close_old_connections
from procrastinate.contrib.django import app
from procrastinate.exceptions import ConnectorException
from psycopg_pool import PoolTimeout

from service.config import logged
from service.hands import close, wake
from service.queue import LARGE, SMALL, WATCH, as_asked

log = logging.getLogger(__name__)
#: What a worker meets when the database is away, and how long it waits at first and at most (s).
AWAY = (ConnectorException, OperationalError, InterfaceError, PoolTimeout, OSError)
FIRST_PAUSE, LONGEST_PAUSE = 0.5, 5.0


class Command(BaseCommand):
    help = (
        "Take work from the queue until stopped. Any number of these may run, on any "
        "machine that reaches database and files."
    )

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument(
            "--until-empty", action="store_true", help="end when the queue is empty"
        )
        parser.add_argument(
            "--lane",
            choices=[SMALL, "all"],
            default="all",
            help="small: take only what takes seconds, so that this is never waited for long",
        )

    def handle(self, *args: Any, **options: Any) -> None:
        lanes = [SMALL] if options["lane"] == SMALL else [SMALL, LARGE]
        if options["until_empty"]:
            asyncio.run(self._work([*lanes, WATCH], wait=False))
            return
        # load the kernels before the first maker waits for them
        wake("work")
        self.stdout.write("worker ready")
        self.stdout.flush()
        pause, ended = FIRST_PAUSE, threading.Event()
        stopped = False
        while not stopped:
            try:
                asyncio.run(self._watch_and_work(lanes))
                stopped = True  # it was asked to
            except* AWAY as error:
                log.warning("the database does not answer, tried again: %s", error.exceptions[0])
                close_old_connections()
                ended.wait(pause)
                pause = min(2 * pause, LONGEST_PAUSE)

    async def _watch_and_work(self, lanes: list[str]) -> None:
        """The watch goes on while something large is computed."""
        async with asyncio.TaskGroup() as group:
            watching = group.create_task(self._work([WATCH], signals=False))
            await self._work(lanes)
            watching.cancel()
            close()

    async def _work(self, lanes: list[str], wait: bool = True, signals: bool = True) -> None:
        connector: Any = app.connector
        connected = app.with_connector(connector.get_worker_connector())
        async with connected.open_async():
            await connected.run_worker_async(
                queues=lanes,
                name=SMALL if lanes == [SMALL] else "all",
                wait=wait,
                concurrency=1,
                install_signal_handlers=signals,
                update_heartbeat_interval=settings.STALLED_AFTER / 4,
                stalled_worker_timeout=settings.STALLED_AFTER,
                fetch_job_polling_interval=2.0,
                shutdown_graceful_timeout=20,
                task_middleware=[logged.task, as_asked],
                delete_jobs="successful",
            )
