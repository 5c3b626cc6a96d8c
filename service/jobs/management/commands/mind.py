"""The process that looks after the machines."""

from __future__ import annotations

import logging
import os
import threading
from typing import Any

from django.core.management.base import BaseCommand
from django.db import connection

from service.jobs.rules.minding import Rounds
from service.queue import NO_DATABASE

log = logging.getLogger(__name__)


def look_once(rounds: Rounds) -> None:
    """Begin to look after the machines once. A database that does not answer comes back."""
    try:
        rounds.begin()
    except NO_DATABASE as error:
        log.warning("the database does not answer: %s", error)
        connection.close()


class Command(BaseCommand):
    help = (
        "Look after the machines until stopped: find out what each does, write it down, "
        "send the next job. Several of these do no harm."
    )

    def handle(self, *args: Any, **options: Any) -> None:
        pause, rounds = threading.Event(), Rounds()
        every = float(os.environ.get("NORTHPACE_MIND_EVERY", "0.7"))
        self.stdout.write("minding the machines")
        self.stdout.flush()
        while True:
            look_once(rounds)
            pause.wait(every)
