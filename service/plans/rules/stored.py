"""What was computed of a version, as it is stored."""

from __future__ import annotations

from northpace.errors import InputError
from service.files import Damaged, fetch
from service.plans.models import PlanVersion
from service.plans.rules.versions import change_plan, choice_of


def moves(version: PlanVersion) -> bytes:
    """The move table of a version; raises `InputError` as `_whole` does."""
    return _whole(version, version.moves_key)


def gcode(version: PlanVersion) -> bytes:
    """The G-code of a version; raises `InputError` as `_whole` does."""
    return _whole(version, version.gcode_key)


def _whole(version: PlanVersion, key: str) -> bytes:
    """A stored file. One that is damaged is computed anew, and the `InputError` says so."""
    try:
        return fetch(key)
    except Damaged as damaged:
        plan = version.plan
        if version.pk != plan.latest.pk:
            raise InputError(
                "what was computed of this version is damaged on disk; take its settings again to "
                "have it computed anew",
                str(plan),
            ) from damaged
        change_plan(plan, choice_of(version), again=True)
        raise InputError(
            "what was computed is damaged on disk; nothing of yours is lost, it is computed anew",
            str(plan),
        ) from damaged
