"""Made-up orders and machines, and a checker of schedules that shares no code with them."""

from datetime import UTC, datetime

from northpace.schedule.problem import (
    BedTime,
    FloorMachine,
    FloorSpool,
    Problem,
    WantedOrder,
    WantedPieces,
)
from northpace.schedule.week import HandHours, Week

#: A Wednesday, 10:00 in UTC.
NOW = datetime(2026, 12, 2, 10, tzinfo=UTC)
HOUR, DAY = 3600.0, 86400.0
OFFICE = Week(hours=(HandHours(days=(0, 1, 2, 3, 4), begin="08:00", end="17:00"),))


def bed(machine="a", hours=1.0, holds=1, material="PLA", grams=10.0, plan="p"):
    """The times of a bed on which every piece takes the same time and filament."""
    pieces = (1,) if holds == 1 else (1, holds)
    return BedTime(
        plan=plan,
        machine=machine,
        material=material,
        pieces=pieces,
        seconds=tuple(hours * HOUR * count for count in pieces),
        grams=tuple(grams * count for count in pieces),
    )


def machine(key="a", **said):
    return FloorMachine(**{"key": key, "name": key.upper(), "spool": f"s-{key}", **said})


def order(key, *lines, due_h=None, urgency=2, fails=0.0):
    """An order with lines of (pieces, beds)."""
    return WantedOrder(
        key=key,
        name=key,
        due_s=None if due_h is None else due_h * HOUR,
        urgency=urgency,
        lines=tuple(
            WantedPieces(key=f"{key}.{k}", name=f"{key}.{k}", pieces=pieces, beds=beds, fails=fails)
            for k, (pieces, beds) in enumerate(lines)
        ),
    )


def problem(orders, machines=None, spools=None, week=None, **said):
    machines = (machine(),) if machines is None else tuple(machines)
    if spools is None:
        spools = [FloorSpool(key=f"s-{one.key}", material="PLA", grams=1000) for one in machines]
    return Problem(
        now=NOW,
        week=week or Week(),
        machines=machines,
        spools=tuple(spools),
        orders=tuple(orders),
        **said,
    )


def faults(asked, table):
    """A sentence for every rule that a schedule breaks."""
    found = []
    machines = {one.key: one for one in asked.machines}
    spans = asked.week.spans(asked.now)

    def there(begin, end):
        long = end - begin > (spans[:, 1] - spans[:, 0]).max(initial=0) + 1e-3
        return long or any(s <= begin + 1e-3 and end <= e + 1e-3 for s, e in spans)

    for key, one in machines.items():
        mine = [laid for laid in table.beds if laid.machine == key]
        free, clear, hangs = one.free_s, one.clear or one.clears_itself, one.spool
        for laid in mine:
            if laid.hands_s < free - 1e-3 or laid.begin_s < laid.hands_s - 1e-3:
                found.append(f"{key} is used twice at {laid.begin_s}")
            hands = 0 if clear else one.bed_change_s
            hands += one.spool_change_s if laid.spool != hangs and hangs is not None else 0
            if laid.begin_s + 1e-3 < free + hands:
                found.append(f"{key} at {laid.begin_s}: no time for hands")
            if hands and not there(laid.begin_s - hands, laid.begin_s) and asked.unattended:
                found.append(f"{key} at {laid.begin_s}: nobody is there")
            if not asked.unattended and not there(laid.begin_s, laid.end_s):
                found.append(f"{key} at {laid.begin_s}: runs while nobody is there")
            if asked.longest_h and laid.end_s - laid.begin_s > asked.longest_h * HOUR + 1e-3:
                found.append(f"{key} at {laid.begin_s}: longer than any print may be")
            free, clear, hangs = laid.end_s, one.clears_itself, laid.spool
    for spool in asked.spools:
        mine = sorted(
            (laid for laid in table.beds if laid.spool == spool.key), key=lambda laid: laid.begin_s
        )
        if sum(laid.grams for laid in mine) > spool.grams + 1e-3:
            found.append(f"{spool.key} is used up")
        for one, other in zip(mine, mine[1:], strict=False):
            if other.begin_s < one.end_s - 1e-3:
                found.append(f"{spool.key} hangs in two places at {other.begin_s}")
    lines = {line.key: (o, line) for o in asked.orders for line in o.lines}
    none = {one.line: one.pieces for one in table.unplaced}
    for key, (of, line) in lines.items():
        mine = [laid for laid in table.beds if laid.line == key]
        if sum(laid.pieces for laid in mine) + none.get(key, 0) != line.pieces:
            found.append(f"{key}: not all pieces are made")
        for laid in mine:
            ways = [w for w in line.beds if (w.plan, w.machine) == (laid.plan, laid.machine)]
            way = ways[0] if ways else None
            if way is None or laid.pieces > way.holds or laid.order != of.key:
                found.append(f"{key}: no plan for {laid.pieces} on {laid.machine}")
            elif abs(laid.end_s - laid.begin_s - way.takes(laid.pieces)) > 1e-3:
                found.append(f"{key}: takes another time than its bed")
    return found
