"""Copies of a plan on plates instead of one by one."""

from __future__ import annotations

from northpace.beds.planning import Planner
from northpace.beds.plates import Plates, plates
from northpace.beds.spec import BedSpec
from northpace.spec import Machine
from service.beds.rules.computing import asked_of
from service.core import pipeline
from service.limits import planning
from service.plans.models import Plan, PlanVersion
from service.plans.rules.beside import beside


@beside("exact", planning)
def plates_of(plan: Plan, version: PlanVersion, copies: int) -> Plates:
    """Plates of a computed version on its machine as it is now, together in order of height; raises
    `InputError` where not even one copy fits.
    """
    key, spec = str(version.pk), BedSpec()
    planner = Planner(pipeline(), {key: asked_of(version)}, Machine(**version.nozzle.spec()))
    return plates(spec, key, planner.own(spec)[key], copies)
