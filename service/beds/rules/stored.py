"""What was computed of a bed, as it is stored."""

from __future__ import annotations

from functools import partial

from service.beds.models import BedVersion
from service.beds.rules.versions import again
from service.computed import whole_file


def moves(version: BedVersion) -> bytes:
    """The move table of a version; raises `InputError` as `whole_file` does."""
    return _whole(version, version.moves_key)


def gcode(version: BedVersion) -> bytes:
    """The G-code of a version; raises `InputError` as `whole_file` does."""
    return _whole(version, version.gcode_key)


def _whole(version: BedVersion, key: str) -> bytes:
    bed = version.bed
    newest = version.pk == bed.latest.pk
    return whole_file(key, bed, newest, "the newest one is not", partial(again, bed))
