"""Taking parts in: keep the file, queue the reading."""

from __future__ import annotations

import hashlib
import logging
from pathlib import PurePath
from typing import Any

from django.db import transaction

from northpace.errors import InputError
from northpace.outlines.picture import contour_picture
from northpace.part.body import MOST_BYTES
from northpace.part.place import flat_faces
from northpace.part.stl import binary_stl, mesh_arrays
from northpace.plan.file import PlanFile, read_plan
from northpace.spec import PlanSpec
from service import limits
from service.core import pipeline
from service.files import keep
from service.hands import Unwanted, apart
from service.parts.models import Part
from service.queue import AWAY, LARGE, SMALL, later
from service.workshop.models import Workshop

#: A file up to so many bytes is read in the small lane.
SMALL_FILE = 3_000_000
#: Names of bodies that are kept; a file of thousands is only counted.
MOST_NAMED = 40

log = logging.getLogger(__name__)


def take_in(workshop: Workshop, filename: str, data: bytes, read_now: bool = False) -> Part:
    """Keep a file and queue its reading, both or neither; ``read_now`` for a file of our own that
    is known to be sound.
    """
    clean = PurePath(filename.replace("\\", "/")).name[:200] or "part"
    if len(data) > MOST_BYTES:
        raise InputError(
            f"the file has {len(data) / 1e6:.0f} MB; at most {MOST_BYTES / 1e6:.0f} MB are read",
            clean,
        )
    if not data:
        raise InputError("the file is empty", clean)
    found = read_plan(data)
    if found is not None:
        data, clean = found.source.read(), found.source.filename
    suffix = PurePath(clean).suffix.lower()
    key = keep(data, suffix if suffix in (".stl", ".obj", ".ply", ".3mf") else ".bin")
    checksum = hashlib.sha256(data).hexdigest()
    with transaction.atomic():
        # the same file once more, after it was refused, is the same part
        same = Part.objects.filter(workshop=workshop, checksum=checksum, filename=clean)
        part = same.filter(state=Part.State.REFUSED).first()
        if part is not None:
            return read_again(part)
        part = Part.objects.create(
            workshop=workshop,
            name=PurePath(clean).stem[:120] or "part",
            filename=clean,
            file_key=key,
            checksum=checksum,
            size_bytes=len(data),
            planned=None if found is None else planned(found),
        )
        if read_now:
            read(part, "quick")
        else:
            _queue(part)
    return part


def read_again(part: Part) -> Part:
    """Queue the reading of a part that was refused once more: what was wrong may have been the
    machine, not the file. Raises `InputError` for one that was not refused.
    """
    with transaction.atomic():
        waiting = Part.objects.filter(pk=part.pk, state=Part.State.REFUSED)
        if not waiting.update(state=Part.State.READING, message=""):
            raise InputError("it was not refused, so there is nothing to try again", part.name)
        part.refresh_from_db()
        _queue(part)
    return part


def _queue(part: Part) -> None:
    lane = SMALL if part.size_bytes <= SMALL_FILE else LARGE
    later("parts.tasks.read_part", lane, part.workshop_id, part_id=part.pk)


def planned(found: PlanFile) -> dict[str, Any]:
    """What a part keeps of the plan that its file held."""
    spec = found.spec
    own = spec.model_dump(mode="json", exclude_defaults=True, exclude={"machine", "material"})
    return {
        "name": found.name,
        "machine": spec.machine.name,
        "bore": spec.machine.nozzle,
        "material": spec.material.name,
        "settings": {group: values for group, values in own.items() if values},
        "correction": found.correction,
    }


def read(part: Part, room: str = "work") -> None:
    """Read, mend and measure a part in a process of a room; what is wrong with it becomes its
    message.
    """
    reading = Part.objects.filter(pk=part.pk, state=Part.State.READING)
    try:
        found = apart(
            room,
            _measured,
            (part,),
            limits.reading(part.size_bytes),
            part.checksum,
            reading.exists,
        )
    except Unwanted:
        return  # the part was removed
    except InputError as error:
        _refuse(part, error.message)
        return
    except AWAY:
        raise  # tried again by the queue
    except Exception:
        log.exception("part %s could not be read", part.pk)
        _refuse(
            part, "a fault of the program, not of your file; the log of the worker has the details"
        )
        return
    for name, value in found.items():
        setattr(part, name, value)
    part.state = Part.State.READY
    part.save(update_fields=[*found, "state"])


def _measured(part: Part) -> dict[str, Any]:
    """What a part's file holds, with the mended solid already stored."""
    solid = pipeline().part(part.source)
    placed = pipeline().placed(part.source, PlanSpec())
    return {
        "mesh_key": keep(binary_stl(*mesh_arrays(solid.bodies)[:2]), ".stl"),
        "facts": facts_of(solid, placed),
        "picture": contour_picture(placed),
    }


def _refuse(part: Part, message: str) -> None:
    part.state, part.message = Part.State.REFUSED, message
    part.save(update_fields=["state", "message"])


def facts_of(solid: Any, placed: Any) -> dict[str, Any]:
    """What the Parts screen says of a part."""
    return {
        "triangles": solid.triangles_in_file,
        "size_mm": list(placed.size),
        "volume_mm3": solid.volume,
        "bodies": list(solid.names[:MOST_NAMED]),
        "body_count": len(solid.names),
        "mended": list(solid.mended),
        "closed": not solid.doubtful,
        "widest_opening_mm": solid.widest_opening,
        "added_volume_mm3": solid.added_volume,
        "faces": flat_faces(solid),
    }
