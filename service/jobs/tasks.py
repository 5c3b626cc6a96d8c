"""Work in the queue about jobs."""

from __future__ import annotations

from procrastinate.contrib.django import app

from service.jobs.rules.outcomes import relearn
from service.jobs.rules.tidying import tidy
from service.queue import SMALL, TRY_AGAIN, WATCH
from service.workshop.models import Machine


@app.periodic(cron="*/20 * * * *")
@app.task(queue=WATCH, queueing_lock="tidy")
def tidy_up(timestamp: int) -> None:
    """Remove what nothing needs any more, a little every twenty minutes: a computer that is off at
    night has to be tidied, too.
    """
    tidy()


@app.task(queue=SMALL, retry=TRY_AGAIN)
def learn_from(machine_id: int, workshop: int = 0, person: int = 0) -> None:
    """Correct a machine's estimates by its finished jobs."""
    machine = Machine.objects.filter(pk=machine_id).first()
    if machine is not None and not machine.learnt_off:
        relearn(machine)
