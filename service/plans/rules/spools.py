"""How far spools reach for a plan, and what would make one more fit."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

import numpy as np
from django.utils import timezone

from northpace.errors import InputError
from northpace.material.amounts import parts_per_spool
from northpace.material.spools import reach
from service.plans.models import Plan
from service.plans.rules import figures
from service.workshop.models import Spool
from service.workshop.rules.spools import reserved


def spools_reach(
    plan: Plan, keys: list[int], copies: int, start: datetime | None
) -> dict[str, Any]:
    """Copies that spools give, one after the other, where each runs out, and changes that make one
    more fit; raises `InputError` for spools that do not go with the plan.
    """
    version = figures.last_exact(plan)
    if version is None or version.report is None:
        raise InputError("the exact figures are not computed yet", str(plan))
    known = {
        spool.pk: spool
        for spool in Spool.objects.filter(pk__in=keys, material__workshop=plan.workshop)
    }
    spools = [known[key] for key in keys if key in known]
    if not spools:
        raise InputError("choose at least one spool", "spools")
    if any(spool.material_id != version.material_id for spool in spools):
        raise InputError(
            f"the plan is in {version.material}; spools of another material do not go with it",
            "spools",
        )
    report, machine, spec = version.report, version.nozzle.machine, version.whole_spec
    layers, begin = report["layers"], start or timezone.now()
    free = [max(spool.usable_mass - reserved(spool), 0.0) for spool in spools]
    found = reach(
        np.array(layers["mass_g"]),
        np.array(layers["seconds"]),
        float(report["time_s"]["by_feature"].get("start", 0.0)),
        free,
        copies,
        60 * machine.bed_change_min,
    )
    share = parts_per_spool(sum(free), float(report["filament"]["mass_g"]))
    ways = figures.made_lighter(
        plan, spec, np.array(layers["heights_mm"]), share.lighter_for_one_more_g
    )
    return {
        "copies": share.parts,
        "left_over_g": share.left_over_g,
        "missing_g": found.missing_g,
        "free_g": sum(free),
        "end": begin + timedelta(seconds=found.seconds),
        "one_more": share.parts + 1,
        "lighter_g": share.lighter_for_one_more_g,
        "ways": ways,
        "runs_out": [
            {
                "label": spools[end.spool].label,
                "copy": end.copy,
                "layer": end.layer,
                "z_mm": layers["tops_mm"][end.layer - 1],
                "at": begin + timedelta(seconds=end.seconds),
            }
            for end in found.runs_out
        ],
    }
