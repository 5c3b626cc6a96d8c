"""What becomes of a job on its machine, and what is heard from the machine: written down with what
it took off the spool, all or nothing.
"""

from __future__ import annotations

from dataclasses import asdict, replace

from django.utils import timezone

from service.jobs.models import Job
from service.jobs.rules.prints import note_prints
from service.queue import SMALL, later
from service.workshop.models import Machine, SpoolEntry
from service.workshop.rules.printers import State
from service.workshop.rules.spools import book

#: What a printer's phase makes of a job.
PHASES = {
    "heating": Job.State.HEATING,
    "printing": Job.State.PRINTING,
    "paused": Job.State.PAUSED,
    "done": Job.State.DONE,
    "failed": Job.State.FAILED,
    "cancelled": Job.State.CANCELLED,
}


def locked(job_id: int) -> Machine | None:
    """The machine of a job, locked."""
    return Machine.objects.select_for_update(no_key=True, of=("self",)).filter(jobs=job_id).first()


def heard(machine: Machine, state: State | None = None, error: str = "", trouble: str = "") -> None:
    """Keep what was heard from a machine, or since when nothing was."""
    before = machine.contact
    now = timezone.now().isoformat()
    if error:
        machine.contact = {**before, "error": error, "lost": before.get("lost") or now}
    else:
        assert state is not None
        machine.contact = {
            "state": asdict(state),
            "seen": now,
            "error": "",
            "lost": None,
            "trouble": trouble,
        }
    machine.save(update_fields=["contact"])


def settle(job: Job, state: State) -> None:
    """Write a printer's word about a job's run down."""
    new = PHASES.get(state.phase)
    if new is None:
        return
    job.progress = {
        "layer": state.layer,
        "layers": state.layers,
        "seconds": state.seconds,
        "left_s": state.left_s,
        "extruded_mm": state.extruded_mm,
        "nozzle": state.nozzle,
        "bed": state.bed,
    }
    if new == Job.State.DONE and (lacks := _lacks(job, state)):
        new, state = Job.State.FAILED, replace(state, reason=lacks)
    if new in Job.ENDED:
        job.actual_s = state.seconds if new == Job.State.DONE else job.actual_s
        finish(job, new, state.reason)
        return
    if job.started is None:
        job.started = timezone.now()
    job.state, job.reason = new, state.reason
    job.save(update_fields=["state", "reason", "progress", "started"])


def _lacks(job: Job, state: State) -> str:
    """What a printer that says it is done has left out by its own count; empty where it counts what
    the plan has, or does not count.
    """
    planned = int(job.figures.get("layers", 0))
    if not state.layers or not planned or min(state.layer, state.layers) >= planned:
        return ""
    return (
        f"the printer says it is done after {min(state.layer, state.layers)} of {planned} layers; "
        "look at the piece, and print it again"
    )


def finish(job: Job, state: str, reason: str) -> None:
    """End a job: its state, what it took off the spool, and what its machine learns, all or
    nothing.
    """
    take_off(job)
    job.state, job.reason, job.ended, job.wish = state, reason[:300], timezone.now(), ""
    job.save(update_fields=["state", "reason", "ended", "wish", "progress", "actual_s"])
    note_prints(job)
    if state == Job.State.DONE and job.actual_s:
        later("jobs.tasks.learn_from", SMALL, job.workshop_id, machine_id=job.machine_id)


def take_off(job: Job) -> None:
    """Book what a job has extruded since it was last booked."""
    extruded = float(job.progress.get("extruded_mm", 0.0))
    new = extruded - job.booked_mm
    if new <= 0:
        return
    job.booked_mm = extruded
    job.save(update_fields=["booked_mm"])
    if job.spool is not None:
        book(
            job.spool,
            -new * job.grams_per_mm,
            SpoolEntry.Kind.TAKEN,
            f"job {job.number}, {extruded / 1000:.3f} m extruded",
            job.pk,
        )
