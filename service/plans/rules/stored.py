"""What was computed of a version, as it is stored."""

from __future__ import annotations

import re

from northpace.plan.file import PlanFile, write_plan
from service.computed import whole_file
from service.core import pipeline
from service.files import Damaged, fetch
from service.limits import figuring
from service.plans.models import Plan, PlanVersion
from service.plans.rules.beside import beside
from service.plans.rules.versions import change_plan, choice_of


def moves(version: PlanVersion) -> bytes:
    """The move table of a version; raises `InputError` as `whole_file` does."""
    return _whole(version, version.moves_key)


def laid(version: PlanVersion) -> bytes | None:
    """The beads there are of a version that is being computed; None where there are none, or none
    any more.
    """
    try:
        return fetch(version.laid_key) if version.laid_key else None
    except Damaged:
        return None  # others took their place a moment ago


def gcode(version: PlanVersion) -> bytes:
    """The G-code of a version; raises `InputError` as `whole_file` does."""
    return _whole(version, version.gcode_key)


@beside("quick", figuring)
def as_file(plan: Plan, version_id: int) -> bytes:
    """A version of a plan as a 3MF file, read back to the same plan."""
    version = PlanVersion.objects.select_related("part", "plan__part").get(pk=version_id)
    part, spec = version.its_part, version.whole_spec
    name = plan.name or f"{part.name}, plan {plan.number}"
    file = PlanFile(part.source, spec, name, version.correction)
    return write_plan(file, pipeline().placed(part.source, spec))


def file_name(version: PlanVersion) -> str:
    """What the file of a version is called; no two share its numbers."""
    part = re.sub(r"[^\w. -]+", "_", version.its_part.name)[:80]
    return f"{part} plan {version.plan.number}-v{version.number}.3mf"


def _whole(version: PlanVersion, key: str) -> bytes:
    plan = version.plan
    return whole_file(
        key,
        plan,
        version.pk == plan.latest.pk,
        "take its settings again to have it computed anew",
        lambda: change_plan(plan, choice_of(version), again=True),
    )
