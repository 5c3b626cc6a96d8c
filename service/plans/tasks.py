"""Work in the queue about plans, and the watch over lost workers and lost work."""

from __future__ import annotations

from django.conf import settings
from procrastinate import JobContext
from procrastinate.contrib.django import app
from procrastinate.jobs import Status

from service.plans.rules import computing, searches, sweeping, ways
from service.queue import LARGE, SMALL, TRY_AGAIN, WATCH

#: Workers that a task may be lost with.
MOST_WORKERS = 3


@app.task(queue=LARGE, retry=TRY_AGAIN, pass_context=True)
def compute_version(
    context: JobContext, version_id: int, workshop: int = 0, person: int = 0
) -> None:
    """Compute a version of a plan."""
    # a worker of all lanes would only have to begin again
    computing.compute(version_id, within_small=context.worker_name == SMALL)


@app.task(queue=LARGE, retry=TRY_AGAIN)
def search_proposals(search_id: int, workshop: int = 0, person: int = 0) -> None:
    """Search for changes that make a plan quicker."""
    searches.run(search_id)


@app.task(queue=SMALL, retry=TRY_AGAIN, pass_context=True)
def find_ways(context: JobContext, search_id: int, workshop: int = 0, person: int = 0) -> None:
    """Look for the ways a part may stand."""
    ways.run(search_id, within_small=context.worker_name == SMALL)


@app.periodic(cron="* * * * * */5")  # the sixth field is seconds
@app.task(queue=WATCH, queueing_lock="watch", pass_context=True)
async def rescue_stalled(context: JobContext, timestamp: int) -> None:
    """Give the tasks of workers that no longer show signs of life to another one. A task that has
    taken that many workers with it is not handed to the next; `put_right` says so.
    """
    manager = context.app.job_manager
    for job in await manager.get_stalled_jobs(seconds_since_heartbeat=settings.STALLED_AFTER):
        if job.attempts < MOST_WORKERS:
            await manager.retry_job(job)
        else:
            await manager.finish_job(job, Status.FAILED, delete_job=False)


@app.periodic(cron="* * * * * */10")
@app.task(queue=WATCH, queueing_lock="sweep")
def put_right(timestamp: int) -> None:
    """Find what waits for a task that there is none for."""
    sweeping.put_right()
