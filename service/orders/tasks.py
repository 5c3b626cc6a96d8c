"""Work in the queue about orders."""

from __future__ import annotations

from procrastinate import JobContext
from procrastinate.contrib.django import app

from service.orders.models import OrderLine, PlateTimes, ShopSchedule
from service.orders.rules import plate_times, searching
from service.orders.rules.taking import set_plans
from service.plans.rules.sweeping import GIVEN_UP, put_right_rows
from service.queue import LARGE, SMALL, TRY_AGAIN, WATCH
from service.workshop.models import Workshop


@app.task(queue=SMALL, retry=TRY_AGAIN, pass_context=True)
def time_plates(context: JobContext, times_id: int, workshop: int = 0, person: int = 0) -> None:
    """Compute how long beds of a version of a plan take."""
    plate_times.compute(times_id, within_small=context.worker_name == SMALL)
    owner = Workshop.objects.filter(plans__versions__plate_times=times_id).first()
    if owner is not None:
        searching.see_to(owner)


@app.task(queue=LARGE, retry=TRY_AGAIN)
def search_schedule(schedule_id: int, workshop: int = 0, person: int = 0) -> None:
    """Search for a schedule."""
    searching.compute(schedule_id)


@app.periodic(cron="* * * * * */30")
@app.task(queue=WATCH, queueing_lock="keep orders")
def keep_orders(timestamp: int) -> None:
    """Keep the schedules of all workshops with open orders up to date: the times of beds of changed
    plans are computed, and a better schedule is searched for if the last one cannot be kept.
    """
    put_right_rows(
        PlateTimes.objects.filter(state__in=PlateTimes.OPEN),
        plate_times.TASK,
        "times_id",
        {"state": PlateTimes.State.FAILED, "message": GIVEN_UP},
    )
    put_right_rows(
        ShopSchedule.objects.filter(state__in=ShopSchedule.OPEN),
        searching.TASK,
        "schedule_id",
        {"state": ShopSchedule.State.FAILED, "message": GIVEN_UP},
    )
    for workshop in Workshop.objects.filter(orders__closed="").distinct():
        _keep(workshop)


def _keep(workshop: Workshop) -> None:
    lines = OrderLine.objects.filter(order__workshop=workshop, order__closed="")
    for line in lines.filter(plans=None).select_related("order"):
        set_plans(line, ())
    plans = lines.exclude(plans=None).values_list("plans", flat=True).distinct()
    plate_times.ask_for(plate_times.exact_versions(list(plans)), workshop.pk)
    searching.see_to(workshop)
