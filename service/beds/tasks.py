"""Work in the queue about beds."""

from __future__ import annotations

from procrastinate import JobContext
from procrastinate.contrib.django import app

from service.beds.models import BedVersion
from service.beds.rules import computing
from service.plans.rules.sweeping import GIVEN_UP, put_right_rows
from service.queue import LARGE, SMALL, TRY_AGAIN, WATCH


@app.task(queue=LARGE, retry=TRY_AGAIN, pass_context=True)
def compute_bed(context: JobContext, version_id: int, workshop: int = 0, person: int = 0) -> None:
    """Compute a version of a bed."""
    computing.compute(version_id, within_small=context.worker_name == SMALL)


@app.periodic(cron="* * * * * */10")
@app.task(queue=WATCH, queueing_lock="sweep beds")
def put_beds_right(timestamp: int) -> None:
    """Find beds that wait for a task that there is none for."""
    put_right_rows(
        BedVersion.objects.filter(state__in=BedVersion.OPEN),
        "beds.tasks.compute_bed",
        "version_id",
        {"state": BedVersion.State.FAILED, "message": GIVEN_UP},
    )
