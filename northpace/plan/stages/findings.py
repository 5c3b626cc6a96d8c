"""Every check as a stage: handed the facts it names, run again when one of them changed."""

from __future__ import annotations

from typing import Any

from northpace.checks.check import Check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding
from northpace.checks.registry import CHECKS
from northpace.plan.stage import Stage
from northpace.plan.stages import fill, heights, moves, order, places, shape, supports, walls
from northpace.spec import PlanSpec

#: The stage each fact comes from.
FACTS: dict[str, Stage[Any]] = {
    "part": shape.part,
    "placed": shape.placed,
    "outlines": heights.outlines,
    "stack": heights.stack,
    "surface": shape.surface,
    "leaning": supports.leaning,
    "counts": walls.counts,
    "turns": walls.turns,
    "gaps": walls.gaps,
    "regions": places.regions,
    "areas": fill.areas,
    "voids": fill.voids,
    "skins": fill.skins,
    "why": fill.why,
    "stands": supports.stands,
    "footing": supports.footing,
    "rows": order.rows,
    "resting": moves.resting,
    "timed": moves.timed,
    "paces": moves.paces,
    "amounts": moves.amounts,
}


def _as_stage(check: Check) -> Stage[list[Finding]]:
    def run(spec: PlanSpec, *results: Any) -> list[Finding]:
        found = check.run(Facts.only(spec=spec, **dict(zip(check.uses, results, strict=True))))
        strange = {finding.code for finding in found} - set(check.codes)
        assert not strange, f"{check.name} found {strange}, which it does not declare"
        return found

    on = tuple(FACTS[name] for name in check.uses)
    return Stage(f"check {check.name}", "checks", run, on, check.reads)


#: The checks that need nothing but what the stages know.
STAGES: dict[str, Stage[list[Finding]]] = {
    check.name: _as_stage(check) for check in CHECKS if set(check.uses) <= set(FACTS)
}
