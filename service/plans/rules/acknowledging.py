"""Findings a maker has seen and accepts."""

from __future__ import annotations

from typing import Any

from northpace.errors import InputError
from service.plans.models import Acknowledgement, Plan
from service.plans.rules.figures import last_exact


def acknowledge(plan: Plan, code: str, reason: str, user: Any) -> Acknowledgement:
    """Accept a finding of the newest exact version with a reason."""
    exact = last_exact(plan)
    finding = (
        next(
            (entry for entry in (exact.report or {}).get("findings", []) if entry["code"] == code),
            None,
        )
        if exact
        else None
    )
    if finding is None:
        raise InputError(f"the newest exact plan has no finding '{code}'", "code")
    return Acknowledgement.objects.update_or_create(
        plan=plan, code=code, defaults={"message": finding["message"], "reason": reason, "by": user}
    )[0]
