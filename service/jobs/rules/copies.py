"""The copies of a bed's job: given up while it runs, and what came of each."""

from __future__ import annotations

from django.db import transaction

from northpace.errors import InputError
from service.jobs.models import Job
from service.jobs.rules.minding import mind
from service.jobs.rules.prints import note_prints
from service.workshop.rules.printers import printer_of

#: What can come of a copy; one that was taken off on the way was given up.
STATES = ("", "good", "flaws", "failed", "given-up")


def give_up(job: Job, number: int) -> Job:
    """Leave out what is not laid yet of a copy while the others go on; it waits for a machine that
    does not answer. Raises `InputError` where that cannot be.
    """
    with transaction.atomic():
        job = (
            Job.objects.select_for_update(no_key=True, of=("self",))
            .select_related("machine", "bed")
            .get(pk=job.pk)
        )
        copy = next((copy for copy in job.copies if copy["number"] == number), None)
        if copy is None:
            raise InputError(f"{job} has no copy {number}", str(job))
        if job.state not in Job.ACTIVE:
            raise InputError(
                f"{job} is {job.state}; a copy is given up while the machine lays it", str(job)
            )
        if copy["state"] == "given-up":
            return job
        if all(c["state"] == "given-up" for c in job.copies if c is not copy):
            raise InputError("no other copy is left; cancel the job instead", str(job))
        if job.bed is None or not (job.bed.report or {}).get("labels"):
            raise InputError(
                "the file does not say which placing a move belongs to; set 'Labels of placings' "
                f"of {job.machine} to M486, with filament counted from move to move, in the "
                "Workshop before the next bed; or pause the job and take the piece off",
                str(job),
            )
        printer = printer_of(job.machine) if job.machine is not None else None
        if printer is None or not printer.tells:
            raise InputError(
                f"nobody listens on {job.machine}; give the copy up there, and say here what came "
                "of it when the job has ended",
                str(job),
            )
        copy |= {"state": "given-up", "asked": True}
        job.save(update_fields=["copies"])
    assert job.machine_id is not None
    mind(job.machine_id)
    job.refresh_from_db()
    return job


def tell(job: Job, said: dict[int, str]) -> Job:
    """Say what came of copies by their number; the outcome of the job follows from them."""
    with transaction.atomic():
        job = Job.objects.select_for_update(no_key=True).get(pk=job.pk)
        known = {copy["number"] for copy in job.copies}
        wrong = set(said) - known
        if wrong:
            raise InputError(f"{job} has no copy {min(wrong)}", str(job))
        if job.state in Job.OPEN:
            raise InputError(
                f"{job} has not ended; what came of its copies is told afterwards", str(job)
            )
        job.copies = [
            {**copy, "state": said.get(copy["number"], copy["state"])} for copy in job.copies
        ]
        job.save(update_fields=["copies"])
    note_prints(job)
    return job
