"""Work in the queue about parts."""

from __future__ import annotations

from procrastinate.contrib.django import app

from service.parts.models import Part
from service.parts.rules import parts
from service.queue import LARGE, TRY_AGAIN


@app.task(queue=LARGE, retry=TRY_AGAIN)
def read_part(part_id: int, workshop: int = 0, person: int = 0) -> None:
    """Read an uploaded file; run again after a lost worker it does the same."""
    part = Part.objects.filter(pk=part_id, state=Part.State.READING).first()
    if part is not None:
        parts.read(part)
