"""What was computed of a bed, as it is stored."""

from __future__ import annotations

from northpace.errors import InputError
from service.beds.models import BedVersion
from service.beds.rules.versions import again
from service.files import Damaged, fetch


def moves(version: BedVersion) -> bytes:
    """The move table of a version; raises `InputError` as `_whole` does."""
    return _whole(version, version.moves_key)


def gcode(version: BedVersion) -> bytes:
    """The G-code of a version; raises `InputError` as `_whole` does."""
    return _whole(version, version.gcode_key)


def _whole(version: BedVersion, key: str) -> bytes:
    """A stored file. One that is damaged is computed anew, and the `InputError` says so."""
    try:
        return fetch(key)
    except Damaged as damaged:
        bed = version.bed
        if version.pk != bed.latest.pk:
            raise InputError(
                "what was computed of this version is damaged on disk; the newest one is not",
                str(bed),
            ) from damaged
        again(bed)
        raise InputError(
            "what was computed is damaged on disk; nothing of yours is lost, it is computed anew",
            str(bed),
        ) from damaged
