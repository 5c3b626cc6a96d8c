"""Orders and the schedule as the API shows them."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime, timedelta
from typing import Any

from service.computed import Computing
from service.jobs.rules.schedule import factor_of
from service.orders.models import OrderLine
from service.orders.rules.line_plans import UsablePlan
from service.orders.rules.machines_now import MachineNow
from service.orders.rules.outlook import filament_needed, outlooks
from service.orders.rules.searching import ShownSchedule, span
from service.orders.rules.shop import Shop

#: Days for which it is shown when somebody is there: as many as the clock can show at once, and
#: more only if beds last longer.
LEAST_DAYS, MOST_DAYS = 15, 60


def orders_shown(shop: Shop) -> list[dict[str, Any]]:
    """Orders with their lines."""
    known = {line.key: line for order in shop.wanted for line in order.lines}

    def line(one: OrderLine) -> dict[str, Any]:
        count = shop.counts[one.pk]
        wanted = known[str(one.pk)]
        return {
            "id": one.pk,
            "part": one.part_id,
            "name": one.part.name,
            "pieces": one.pieces,
            "wanted": count.wanted,
            "good": count.good,
            "bad": count.bad,
            "printed": count.printed,
            "under_way": count.under_way,
            "on_beds": count.on_beds,
            "left": count.left,
            "spare": wanted.spare,
            "fails": wanted.fails,
            "plans": [_use(use) for use in shop.plans[one.pk]],
        }

    return [
        {
            "id": order.pk,
            "number": order.number,
            "title": order.title,
            "customer": order.customer,
            "reference": order.reference,
            "note": order.note,
            "due": order.due,
            "urgency": order.urgency,
            "kits": order.kits,
            "created": order.created,
            "closed": order.closed,
            "closed_at": order.closed_at,
            "promised": order.promised,
            "price": (order.quote or {}).get("total"),
            "done": all(shop.counts[one.pk].done for one in order.lines.all()),
            "lines": [line(one) for one in order.lines.all()],
        }
        for order in shop.orders
    ]


def _use(use: UsablePlan) -> dict[str, Any]:
    times = use.times if use.timed else None
    return {
        "plan": use.plan,
        "number": use.number,
        "machine": f"{use.version.nozzle.machine}, {use.version.nozzle}" if use.version else "",
        "material": use.version.material.name if use.version else "",
        "why": use.why_not,
        "computing": use.computing,
        "holds": times.copies[-1] if times else None,
        "full_s": times.seconds[-1] if times else None,
    }


def schedule_shown(
    shop: Shop, found: ShownSchedule, search: Computing | None, failed: str
) -> dict[str, Any]:
    """The schedule with clock times."""
    table = found.table

    def at(seconds: float) -> datetime:
        return found.made + span(seconds)

    lines = shop.lines
    labels = {str(spool.pk): spool.label for spool in shop.spools}
    beds: list[dict[str, Any]] = [
        {
            "order": int(bed.order),
            "line": int(bed.line),
            "part": lines[int(bed.line)].part.name,
            "plan": int(bed.plan),
            "machine": int(bed.machine),
            "spool": int(bed.spool),
            "spool_label": labels[bed.spool],
            "pieces": bed.pieces,
            "grams": bed.grams,
            "seconds": (bed.end_s - bed.begin_s)
            * factor_of(shop.machines[int(bed.machine)].machine),
            "hands": at(bed.hands_s),
            "begin": at(bed.begin_s),
            "end": at(bed.end_s),
            "off": at(bed.off_s),
            "cleared": bed.cleared,
            "changed": bed.changed,
        }
        for bed in table.beds
    ]
    rows = [_machine(one, shop) for one in shop.machines.values()]
    ends = [one["end"] for one in beds] + [busy["end"] for row in rows for busy in row["busy"]]
    until = max([shop.now, *ends])
    return {
        "now": shop.now,
        "zone": shop.house.week.zone,
        "until": until,
        "there": _there(shop, until),
        "machines": rows,
        "beds": beds,
        "orders": [asdict(one) for one in outlooks(shop, found)],
        "changes": found.changes,
        "needed": [asdict(one) for one in filament_needed(shop)],
        "searched": found.searched,
        "gap": table.gap,
        "searching": {"state": search.state, "share": search.share} if search else None,
        "failed": failed,
    }


def _there(shop: Shop, until: datetime) -> list[dict[str, datetime]]:
    """When somebody is there, for as long as the clock may show; empty if somebody always is."""
    if shop.presence.always:
        return []
    days = (until - shop.now).total_seconds() / 86400 + 2
    last = 86400 * min(max(days, LEAST_DAYS), MOST_DAYS)
    return [
        {
            "begin": shop.now + timedelta(seconds=float(begin)),
            "end": shop.now + timedelta(seconds=float(end)),
        }
        for begin, end in shop.presence.spans
        if begin < last
    ]


def _machine(now_on: MachineNow, shop: Shop) -> dict[str, Any]:
    of_bed = {
        bed.bed_id: line.order_id
        for key, line in shop.lines.items()
        for bed in shop.counts[key].beds
    }

    def busy(kind: str, key: int, title: str, bed: int | None) -> dict[str, Any]:
        order = None if bed is None else of_bed.get(bed)
        return {"kind": kind, "id": key, "title": title, "order": order, "running": False}

    rows = []
    for job in now_on.jobs:
        row = busy("job", job.pk, job.title, job.bed.bed_id if job.bed else None)
        slot, running = now_on.slots[job.pk], job.state in job.ACTIVE
        rows.append(row | {"begin": slot.begin, "end": slot.end, "running": running})
    for made, begin, end in now_on.made:
        bed = made.row.bed
        row = busy("bed", bed.pk, bed.name or f"Bed {bed.number}", bed.pk)
        rows.append(row | {"begin": shop.now + span(begin), "end": shop.now + span(end)})
    return {
        "id": now_on.machine.pk,
        "name": now_on.machine.name,
        "why": now_on.why_not,
        "simulated": factor_of(now_on.machine),
        "busy": rows,
    }
