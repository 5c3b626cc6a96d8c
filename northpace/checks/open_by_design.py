"""Parts that are asked to stay open."""

from __future__ import annotations

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding


@check(
    codes=("open-by-design",),
    reads=(
        "body.build",
        "body.infill_density",
        "body.top_thickness",
        "body.top_layers",
        "body.bottom_thickness",
        "body.bottom_layers",
    ),
)
def open_by_design(facts: Facts) -> list[Finding]:
    body = facts.spec.body.as_laid()
    found: list[Finding] = []
    if body.infill_density < 100:
        sides = [
            name
            for name, thick, least in (
                ("top", body.top_thickness, body.top_layers),
                ("bottom", body.bottom_thickness, body.bottom_layers),
            )
            if thick <= 0 and least <= 0
        ]
        if sides:
            found.append(
                Finding(
                    "open-by-design",
                    "note",
                    f"The part stays open at the {' and the '.join(sides)}: no solid layers "
                    "are asked for there.",
                    help="Give it a thickness if that is not meant.",
                )
            )
    return found
