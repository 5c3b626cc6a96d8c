"""Machines and spools as they are now, for the schedule: what waits for each machine, when it is
free, and what is left on the spools.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from datetime import datetime

from pydantic import ValidationError

from northpace.material.amounts import cost_per_second
from northpace.schedule.problem import FloorMachine, FloorSpool
from northpace.schedule.week import AHEAD_S, Presence
from northpace.spec import Machine as MachineSpec
from northpace.spec import Material as MaterialSpec
from service.jobs.models import Job
from service.jobs.rules.schedule import HEAVY, Slot, factor_of, in_queue, schedule, turnover_of
from service.orders.rules.counted import WaitingBed
from service.workshop.models import Machine, Spool, Workshop, material_spec

#: g of filament on a new spool if nobody has entered it.
FULL_G = 1000.0
#: States in which a printer says that pieces still lie on its bed.
NOT_CLEAR = ("done", "failed", "cancelled")
#: Fields of jobs that are large and not needed here.
NOT_NEEDED = ("checks", *(name for name in HEAVY if "part" not in name))
#: The longest change of bed or spool that a schedule takes, in s.
LONGEST_CHANGE_S = 86400.0


@dataclass
class MachineNow:
    """A machine with its jobs and with the beds that wait to be committed."""

    machine: Machine
    #: its jobs that have not ended, in the order in which they are printed
    jobs: list[Job]
    #: when each of them begins and ends, by its key
    slots: dict[int, Slot]
    #: when it is free for another bed, in s from now
    free_s: float
    #: beds that wait to be committed, with when they begin and end in s from now
    made: list[tuple[WaitingBed, float, float]] = field(default_factory=list)

    @property
    def why_not(self) -> str:
        """Why nothing is scheduled on it; empty if it can be scheduled."""
        return f"the queue of {self.machine.name} is held" if self.machine.held else ""


def machines_now(
    workshop: Workshop, now: datetime, presence: Presence, waiting: Iterable[WaitingBed]
) -> list[MachineNow]:
    """All machines of a workshop. Beds that wait to be committed come after the jobs, in the order
    in which they were meant to begin.
    """
    machines = (
        Machine.objects.filter(workshop=workshop)
        .select_related("workshop", "loaded", "fitted")
        .prefetch_related("nozzles__machine")
    )
    jobs: dict[int | None, list[Job]] = defaultdict(list)
    open_ = Job.objects.filter(workshop=workshop, state__in=Job.OPEN)
    for job in open_.select_related("bed", "spool", "version").defer(*NOT_NEEDED):
        jobs[job.machine_id].append(job)
    out = {}
    for machine in machines:
        mine = in_queue(jobs[machine.pk])
        slots = schedule(machine, mine, now, presence)
        free = max([0.0, *((slot.end - now).total_seconds() for slot in slots.values())])
        free += clearing_s(machine) if mine else 0.0
        out[machine.pk] = MachineNow(machine, mine, slots, min(free, AHEAD_S))
    for bed in sorted(waiting, key=lambda bed: (bed.row.begin, bed.row.pk)):
        _put_last(out[bed.row.bed.nozzle.machine_id], bed, now, presence)
    return list(out.values())


def _put_last(now_on: MachineNow, bed: WaitingBed, now: datetime, presence: Presence) -> None:
    """Put a bed that waits to be committed behind everything else on its machine."""
    machine = now_on.machine
    busy = bool(now_on.jobs or now_on.made)
    hands = 0.0 if machine.clears_itself or not busy else turnover_of(machine).bed_change
    wanted = (bed.row.begin - now).total_seconds() - hands
    begin = min(presence.ready(max(now_on.free_s, wanted), hands), AHEAD_S)
    end = min(begin + bed.seconds / factor_of(machine), AHEAD_S)
    now_on.free_s = min(end + clearing_s(machine), AHEAD_S)
    now_on.made.append((bed, begin, end))


def clearing_s(machine: Machine) -> float:
    """How long a machine that clears its bed itself is busy with that after each print, in s; 0 for
    other machines.
    """
    return turnover_of(machine).bed_change if machine.clears_itself else 0.0


def floor_machine(now_on: MachineNow, real: bool = False) -> FloorMachine:
    """A machine as the core's schedule takes it, with times on the clock. A simulated machine may
    run faster than a real one; with ``real`` its times are those of a real one.
    """
    machine = now_on.machine
    quick = 1.0 if real else factor_of(machine)
    phase = (machine.contact.get("state") or {}).get("phase")
    busy = bool(now_on.jobs or now_on.made)
    hung = [job.spool_id for job in now_on.jobs]
    hung += [bed.row.bed.spool_id for bed, _, _ in now_on.made]
    hangs = next((key for key in reversed(hung) if key is not None), machine.loaded_id)
    spec = _spec_of(machine)
    hour = 3600 * cost_per_second(spec) if spec else 0.0
    return FloorMachine(
        key=str(machine.pk),
        name=machine.name,
        free_s=now_on.free_s,
        clear=not busy and phase not in NOT_CLEAR,
        spool=None if hangs is None else str(hangs),
        clears_itself=machine.clears_itself,
        bed_change_s=min(60 * machine.bed_change_min / quick, LONGEST_CHANGE_S),
        spool_change_s=min(60 * machine.spool_change_min / quick, LONGEST_CHANGE_S),
        hour=hour or None,
        spread=min((spec.estimate_spread if spec else 0.0) / 100, 2.0),
    )


def _spec_of(machine: Machine) -> MachineSpec | None:
    """The settings of a machine with its smallest nozzle; None if it has no nozzle, or if its
    settings were saved by an older version and are no longer allowed.
    """
    try:
        return next((MachineSpec(**nozzle.spec()) for nozzle in machine.nozzles.all()), None)
    except ValidationError:
        return None


def floor_spools(spools: Iterable[Spool], machines: Iterable[MachineNow]) -> list[FloorSpool]:
    """Spools as the core's schedule takes them: with the grams that are left once all jobs and all
    beds that wait to be committed are printed.
    """
    spools = list(spools)
    needed = _needed_by_queues(machines)
    prices: dict[int, float] = {}
    for spool in spools:
        if spool.material_id not in prices:
            prices[spool.material_id] = _price(spool)
    return [
        FloorSpool(
            key=str(spool.pk),
            material=spool.material.name,
            grams=max(spool.usable_mass - needed.get(spool.pk, 0.0), 0.0),
            price=prices[spool.material_id],
            purge_g=spool.material.purge_g,
            full_g=max(spool.net or FULL_G, 1.0),
        )
        for spool in spools
    ]


def _needed_by_queues(machines: Iterable[MachineNow]) -> Mapping[int | None, float]:
    """Grams that jobs and beds that wait to be committed will take, by the key of the spool."""
    needed: dict[int | None, float] = defaultdict(float)
    for now_on in machines:
        for job in now_on.jobs:
            needed[job.spool_id] += job.still_taken_g
        for bed, _, _ in now_on.made:
            needed[bed.row.bed.spool_id] += bed.grams
    return needed


def _price(spool: Spool) -> float:
    """€/kg of a spool's material; 0 if its settings are no longer allowed."""
    try:
        return float(MaterialSpec(**material_spec(spool.material, spool)).price)
    except ValidationError:
        return 0.0
