"""What came of the jobs of a plan."""

from __future__ import annotations

from typing import Any

from service.plans.models import Plan


def experience(plan: Plan) -> dict[str, Any]:
    """What the jobs of a plan came to: how many of them ended how, mean finishing work (min), and
    what that costs a part (€).
    """
    told = plan.versions.exclude(jobs__outcome="").exclude(jobs=None)
    jobs = list(told.values_list("jobs__outcome", "jobs__finishing_min"))
    minutes = [spent for outcome, spent in jobs if outcome != "failed"]
    mean = sum(minutes) / len(minutes) if minutes else 0.0
    return {
        "jobs": len(jobs),
        **{word: sum(word == said for said, _ in jobs) for word in ("good", "flaws", "failed")},
        "finishing_min": mean,
        "finishing_cost": mean / 60 * plan.workshop.labour_rate,
    }
