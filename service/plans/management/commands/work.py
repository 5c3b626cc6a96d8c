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

from demo.shapes import sample_stl
from northpace.plan.source import Source
from northpace.spec import PlanSpec
from service.core import pipeline

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

    def handle(self, *args: Any, **options: Any) -> None:
        if not options["until_empty"]:
            # compile the kernels before the first maker waits for them
            pipeline().plan(Source.of(sample_stl("mast-clamp"), "warm-up.stl"), PlanSpec())
            self.stdout.write("worker ready")
            self.stdout.flush()
        if options["until_empty"]:
            asyncio.run(self._work(wait=False))
            return
        pause, ended = FIRST_PAUSE, threading.Event()
        while True:
            try:
                asyncio.run(self._work(wait=True))
                return  # it was asked to stop
            except AWAY as error:
                log.warning("the database does not answer, tried again: %s", error)
            close_old_connections()
            ended.wait(pause)
            pause = min(2 * pause, LONGEST_PAUSE)

    async def _work(self, wait: bool) -> None:
        connector: Any = app.connector
        connected = app.with_connector(connector.get_worker_connector())
        async with connected.open_async():
            await connected.run_worker_async(
                wait=wait,
                concurrency=1,
                update_heartbeat_interval=settings.STALLED_AFTER / 4,
                stalled_worker_timeout=settings.STALLED_AFTER,
                fetch_job_polling_interval=2.0,
                shutdown_graceful_timeout=20,
                delete_jobs="successful",
            )
