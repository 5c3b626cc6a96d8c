"""Orders and the schedule as the API shows them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from datetime import datetime, timedelta
from typing import Any

from service.beds.models import Bed
from service.computed import Computing
from service.jobs.rules.schedule import factor_of
from service.orders.models import OrderLine, PlateTimes
from service.orders.rules.counted import Count
from service.orders.rules.searching import Standing, span
from service.orders.rules.shop import Held, PlanUse, Shop

#: The longest stretch of hours that is shown, in days.
SHOWN_DAYS = 60


def orders_shown(shop: Shop) -> list[dict[str, Any]]:
    """Orders with their lines."""
    known = {line.key: line for order in shop.wanted for line in order.lines}

    def line(one: OrderLine) -> dict[str, Any]:
        count: Count = shop.counts[one.pk]
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


def _use(use: PlanUse) -> dict[str, Any]:
    times = use.times if use.times and use.times.state == PlateTimes.State.DONE else None
    return {
        "plan": use.plan,
        "number": use.number,
        "machine": f"{use.version.nozzle.machine}, {use.version.nozzle}" if use.version else "",
        "material": use.version.material.name if use.version else "",
        "why": use.why,
        "computing": use.computing,
        "holds": times.copies[-1] if times else None,
        "full_s": times.seconds[-1] if times else None,
    }


def schedule_shown(
    shop: Shop, found: Standing, search: Computing | None, failed: str
) -> dict[str, Any]:
    """The schedule with clock times."""
    table = found.table

    def at(seconds: float) -> datetime:
        return found.made + span(seconds)

    lines, machines = shop.lines, {str(held.machine.pk): held for held in shop.machines}
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
            "seconds": (bed.end_s - bed.begin_s) * factor_of(machines[bed.machine].machine),
            "hands": at(bed.hands_s),
            "begin": at(bed.begin_s),
            "end": at(bed.end_s),
            "off": at(bed.off_s),
            "cleared": bed.cleared,
            "changed": bed.changed,
        }
        for bed in table.beds
    ]
    rows = [_machine(held, shop) for held in shop.machines]
    ends = [one["end"] for one in beds] + [busy["end"] for row in rows for busy in row["busy"]]
    until = max([shop.now, *ends])
    return {
        "now": shop.now,
        "zone": shop.house.week.zone,
        "until": until,
        "there": _there(shop, until),
        "machines": rows,
        "beds": beds,
        "orders": _outlooks(shop, found, at),
        "changes": found.changes,
        "needed": _needed(shop),
        "searched": found.searched,
        "gap": table.gap,
        "searching": {"state": search.state, "share": search.share} if search else None,
        "failed": failed,
    }


def _there(shop: Shop, until: datetime) -> list[dict[str, datetime]]:
    """When somebody is there, until a day after everything is done; nothing if that is always."""
    if shop.presence.always:
        return []
    last = min((until - shop.now).total_seconds() / 86400 + 2, SHOWN_DAYS) * 86400
    return [
        {
            "begin": shop.now + timedelta(seconds=float(begin)),
            "end": shop.now + timedelta(seconds=float(end)),
        }
        for begin, end in shop.presence.spans
        if begin < last
    ]


def _machine(held: Held, shop: Shop) -> dict[str, Any]:
    of_bed = {
        bed.bed_id: line.order_id
        for key, line in shop.lines.items()
        for bed in shop.counts[key].beds
    }
    busy = [
        {
            "kind": "job",
            "id": job.pk,
            "title": job.title,
            "begin": held.slots[job.pk].begin,
            "end": held.slots[job.pk].end,
            "running": job.state in job.ACTIVE,
            "order": of_bed.get(job.bed.bed_id) if job.bed else None,
        }
        for job in held.jobs
    ]
    for bed, begin, end in held.made:
        busy.append(
            {
                "kind": "bed",
                "id": bed.bed_id,
                "title": _bed_title(bed.bed),
                "begin": shop.now + timedelta(seconds=begin),
                "end": shop.now + timedelta(seconds=end),
                "running": False,
                "order": of_bed.get(bed.bed_id),
            }
        )
    return {
        "id": held.machine.pk,
        "name": held.machine.name,
        "why": held.why,
        "simulated": factor_of(held.machine),
        "busy": busy,
    }


def _bed_title(bed: Bed) -> str:
    return bed.name or f"Bed {bed.number}"


def _outlooks(shop: Shop, found: Standing, at: Any) -> Iterable[dict[str, Any]]:
    """When each order is done; orders that are new since the schedule was made are left out."""
    promised = {one.order: one for one in found.promised}
    lacking: dict[str, list[str]] = defaultdict(list)
    for one in found.table.unplaced:
        name = shop.lines[int(one.line)].part.name
        lacking[one.order].append(f"{one.pieces} × {name}: {one.why}")
    out = []
    for end in found.table.orders:
        promise = promised.get(end.order)
        likely = promise.likely_s if promise else None
        kept = promise.promise_s if promise else None
        out.append(
            {
                "order": int(end.order),
                "done": None if end.done_s is None else at(end.done_s),
                "late_s": end.late_s,
                "likely": None if likely is None else at(likely),
                "promise": None if kept is None else at(kept),
                "on_time": promise.on_time if promise else None,
                "lacking": lacking[end.order],
            }
        )
    return out


def _needed(shop: Shop) -> list[dict[str, Any]]:
    """Filament by material: what is needed for everything that is still to be printed, a line by
    the plan that takes least a piece, and what is free.
    """
    needed: dict[str, float] = defaultdict(float)
    for order in shop.wanted:
        for line in order.lines:
            if line.beds and line.pieces:
                best = min(line.beds, key=lambda bed: bed.grams[-1] / bed.holds)
                needed[best.material] += line.pieces * best.grams[-1] / best.holds
    free: dict[str, float] = defaultdict(float)
    for spool in shop.problem.spools:
        free[spool.material] += spool.grams
    return [
        {"material": name, "needed_g": grams, "free_g": free[name]}
        for name, grams in sorted(needed.items())
    ]
