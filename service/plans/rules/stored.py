"""What was computed of a version, as it is stored."""

from __future__ import annotations

from service.computed import whole_file
from service.plans.models import PlanVersion
from service.plans.rules.versions import change_plan, choice_of


def moves(version: PlanVersion) -> bytes:
    """The move table of a version; raises `InputError` as `whole_file` does."""
    return _whole(version, version.moves_key)


def gcode(version: PlanVersion) -> bytes:
    """The G-code of a version; raises `InputError` as `whole_file` does."""
    return _whole(version, version.gcode_key)


def _whole(version: PlanVersion, key: str) -> bytes:
    plan = version.plan
    return whole_file(
        key,
        plan,
        version.pk == plan.latest.pk,
        "take its settings again to have it computed anew",
        lambda: change_plan(plan, choice_of(version), again=True),
    )
