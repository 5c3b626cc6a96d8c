"""Which spool hangs on a machine and which nozzle is fitted, and what has to be changed before a
job may begin. A job never begins with another spool or nozzle than its own.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from django.db import transaction
from django.utils import timezone
from pydantic import ValidationError

from northpace.errors import InputError
from northpace.spec import Material as MaterialSpec
from service.jobs.models import Job
from service.workshop.models import Machine, Nozzle, Spool, SpoolEntry, material_spec
from service.workshop.rules.printers import Declined, NoContact, printer_of
from service.workshop.rules.spools import book

Kind = Literal["spool", "nozzle", "short"]


@dataclass(frozen=True)
class Change:
    """What has to be changed on a machine before a job may begin."""

    #: the job that waits
    job: Job
    #: whether spool or nozzle is another one, or the right spool has too little left (short)
    kind: Kind
    #: why it waits, and how the change is done, step by step
    words: str
    steps: list[str]
    #: what the change takes, in minutes and in g of filament
    minutes: float
    grams: float
    #: what has to hang there, or to be fitted
    spool: Spool | None = None
    nozzle: Nozzle | None = None


def needed_change(machine: Machine, job: Job) -> Change | None:
    """What has to be changed on a machine before a job may begin; None if it may."""
    nozzle = job.version.nozzle
    if machine.fitted_id is not None and machine.fitted_id != nozzle.pk:
        return Change(
            job,
            "nozzle",
            f"{job} is for the {nozzle} nozzle, and {machine.fitted} is fitted",
            ["Let the nozzle cool down.", f"Fit the {nozzle} nozzle."],
            machine.spool_change_min,
            0.0,
            nozzle=nozzle,
        )
    if job.spool is None:
        there = machine.loaded
        if there is None or there.material_id == job.version.material_id:
            return None
        words = f"{job} is for {job.version.material}, and {_named(there)} hangs there"
        return _spool_change(machine, job, words, None)
    if machine.loaded_id is None:
        words = f"nobody has said what hangs there; {job} needs {_named(job.spool)}"
        return _spool_change(machine, job, words, job.spool)
    if machine.loaded_id != job.spool_id:
        assert machine.loaded is not None
        words = f"{job} needs {_named(job.spool)}, and {_named(machine.loaded)} hangs there"
        return _spool_change(machine, job, words, job.spool)
    left = job.spool.usable_mass
    if left + 1e-6 < job.still_taken_g and not job.begin_short:
        words = f"{job.spool.label} has {left:.1f} g left and {job} takes {job.still_taken_g:.1f} g"
        return Change(job, "short", words, [], 0.0, 0.0, spool=job.spool)
    return None


def next_change(machine: Machine) -> Change | None:
    """What has to be changed before the next job in a queue may begin; None if nothing."""
    job = (
        Job.objects.filter(machine=machine, state=Job.State.QUEUED)
        .select_related("version__nozzle", "version__material", "spool__material")
        .order_by("position", "number")
        .first()
    )
    return None if job is None else needed_change(machine, job)


def hang_up(machine: Machine, spool: Spool | None, user: Any) -> None:
    """Note what a person says: which spool hangs on a machine, or None for none. If it is another
    one than before, the filament fed until it ran clean is taken off it. The printer is told.

    Raises `InputError` while a job is on the machine: that one goes on with another spool only
    when it is paused, by `instructions.change_spool`.
    """
    with transaction.atomic():
        machine = _free(machine)
        if spool is not None:
            _take_over(machine, spool, user)
        note_loaded(machine, spool, user)
        machine.save(update_fields=["loaded", "loaded_since", "loaded_by"])
        if spool is not None:
            tell(machine, spool)


def fit(machine: Machine, nozzle: Nozzle) -> None:
    """Note which nozzle is fitted. Raises `InputError` while a job is on the machine."""
    with transaction.atomic():
        machine = _free(machine)
        machine.fitted = nozzle
        machine.save(update_fields=["fitted"])


def _free(machine: Machine) -> Machine:
    """The machine, locked. Raises `InputError` while a job is on it."""
    found = Machine.objects.select_for_update(no_key=True).get(pk=machine.pk)
    running = Job.objects.filter(machine=found, state__in=Job.ACTIVE).first()
    if running is not None:
        raise InputError(
            f"{running} is on {found.name}; pause it and choose there what it goes on with",
            found.name,
        )
    return found


def _take_over(machine: Machine, spool: Spool, user: Any) -> None:
    """Take a spool off the machine where it hung, and book what is fed until it runs clean."""
    there = Machine.objects.filter(loaded=spool).exclude(pk=machine.pk)
    busy = there.filter(jobs__state__in=Job.ACTIVE, jobs__spool=spool).first()
    if busy is not None:
        raise InputError(f"{busy.name} prints from {spool.label}", spool.label)
    there.update(loaded=None, loaded_since=timezone.now(), loaded_by=_person(user))
    if machine.loaded_id is not None and machine.loaded_id != spool.pk:
        grams = spool.material.purge_g
        book(spool, -grams, SpoolEntry.Kind.TAKEN, f"laid until clean on {machine.name}")


def note_loaded(machine: Machine, spool: Spool | None, user: Any) -> None:
    """Set which spool hangs on a machine, since when, and who said so. The caller saves it."""
    machine.loaded, machine.loaded_since = spool, timezone.now()
    machine.loaded_by = _person(user)


def tell(machine: Machine, spool: Spool) -> None:
    """Tell a printer on the network which filament hangs on it, and how much."""
    printer = printer_of(machine)
    if printer is None:
        return
    try:
        grams_per_mm = MaterialSpec(**material_spec(spool.material, spool)).grams_per_mm
    except ValidationError:  # kept by an older program
        return
    try:
        printer.reload(spool.usable_mass / grams_per_mm, spool.material.name)
    except (NoContact, Declined) as error:
        raise InputError(str(error), machine.name) from error


def _person(user: Any) -> Any:
    return user if getattr(user, "is_authenticated", False) else None


def _named(spool: Spool) -> str:
    return f"{spool.label} ({spool.material})"


def _spool_change(machine: Machine, job: Job, words: str, spool: Spool | None) -> Change:
    """The change to a spool; to any spool of the job's material if the job names none."""
    material = job.version.material
    hottest = max(_temperature(material, spool), _temperature_there(machine))
    what = f"{_named(spool)}{f', {spool.colour}' if spool.colour else ''}" if spool else material
    steps = [
        f"Heat the nozzle to {hottest:g} °C.",
        "Pull out what is in it.",
        f"Hang up {what}{_elsewhere(machine, spool)}.",
        f"Feed it until it runs clean, about {material.purge_g:g} g.",
    ]
    if machine.loaded_id is None:
        steps = [f"Hang up {what}, if it does not hang there already."]
    grams = material.purge_g if machine.loaded_id is not None else 0.0
    return Change(job, "spool", words, steps, machine.spool_change_min, grams, spool=spool)


def _elsewhere(machine: Machine, spool: Spool | None) -> str:
    """Where else a spool hangs now, as the end of a step; "" if it hangs nowhere."""
    if spool is None:
        return ""
    there = Machine.objects.filter(loaded=spool).exclude(pk=machine.pk).first()
    return f", which hangs on {there.name} now" if there else ""


def _temperature(material: Any, spool: Spool | None) -> float:
    """Temperature in °C at which the nozzle lays a material (of a spool, if one is given); 0 if its
    figures were kept by an older program and are no longer allowed.
    """
    try:
        return float(MaterialSpec(**material_spec(material, spool)).nozzle_temp)
    except ValidationError:
        return 0.0


def _temperature_there(machine: Machine) -> float:
    """The same of what hangs on a machine; 0 if nothing does."""
    there = machine.loaded
    return 0.0 if there is None else _temperature(there.material, there)
