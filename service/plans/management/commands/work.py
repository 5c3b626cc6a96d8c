"""A worker: takes parts and plans from the queue."""

from __future__ import annotations

import asyncio
import logging
import signal
import threading
import time
from typing import Any

from asgiref.sync import sync_to_async
from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import connections
from procrastinate.contrib.django import app
from procrastinate.exceptions import ConnectorException
from psycopg_pool import PoolTimeout

from service import queue
from service.config import logged
from service.hands import close, wake
from service.queue import LARGE, SMALL, WATCH, as_asked

log = logging.getLogger(__name__)
#: What a worker meets when the database is away, and how long it waits at first and at most (s).
AWAY = (ConnectorException, PoolTimeout, *queue.AWAY)
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
        pause, asked = FIRST_PAUSE, threading.Event()
        while not asked.is_set():
            begun = time.monotonic()
            try:
                asyncio.run(self._watch_and_work(lanes, asked))
            except* AWAY as error:
                log.warning("the database does not answer, tried again: %s", error.exceptions[0])
                # one that was there for a while is away anew
                lasted = time.monotonic() - begun > LONGEST_PAUSE
                pause = FIRST_PAUSE if lasted else min(2 * pause, LONGEST_PAUSE)
                asked.wait(pause)

    async def _watch_and_work(self, lanes: list[str], asked: threading.Event) -> None:
        """The watch goes on while something large is computed. Returns once the process is asked to
        end, which sets ``asked``.
        """
        # the thread that speaks to the database for the loop may hold a connection that is gone
        await sync_to_async(connections.close_all)()
        async with asyncio.TaskGroup() as group:
            watching = group.create_task(self._work_on([WATCH]))
            working = group.create_task(self._work_on(lanes))

            def end() -> None:
                asked.set()
                working.cancel()

            for number in (signal.SIGINT, signal.SIGTERM):
                asyncio.get_running_loop().add_signal_handler(number, end)
            await asyncio.wait([working])
            if asked.is_set():
                watching.cancel()
                close()

    async def _work_on(self, lanes: list[str]) -> None:
        """Work until cancelled, which lets a task come to its end."""
        await self._work(lanes)
        # a worker of the queue that loses the database may also end as if it had been asked to
        raise ConnectorException("the connection was lost")

    async def _work(self, lanes: list[str], wait: bool = True) -> None:
        connector: Any = app.connector
        connected = app.with_connector(connector.get_worker_connector())
        async with connected.open_async():
            await connected.run_worker_async(
                queues=lanes,
                name=SMALL if lanes == [SMALL] else "all",
                wait=wait,
                concurrency=1,
                install_signal_handlers=False,
                update_heartbeat_interval=settings.STALLED_AFTER / 4,
                stalled_worker_timeout=settings.STALLED_AFTER,
                fetch_job_polling_interval=2.0,
                shutdown_graceful_timeout=20,
                task_middleware=[logged.task, as_asked],
                delete_jobs="successful",
            )
