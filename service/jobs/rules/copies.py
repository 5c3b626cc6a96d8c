"""What came of every copy of a bed's job."""

from __future__ import annotations

from django.db import transaction

from northpace.errors import InputError
from service.jobs.models import Job

#: What can come of a copy; one that was taken off on the way was given up.
STATES = ("", "good", "flaws", "failed", "given-up")


def tell(job: Job, said: dict[int, str]) -> Job:
    """Say what came of copies by their number; the outcome of the job follows from them."""
    with transaction.atomic():
        job = Job.objects.select_for_update().get(pk=job.pk)
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
    return job
