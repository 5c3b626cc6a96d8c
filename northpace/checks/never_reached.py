"""Speeds that no move of their feature comes near, because its moves are too short."""

from __future__ import annotations

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding

#: A speed counts as never reached when no move comes within this share of it.
REACHED = 0.9


@check("paces", codes=("never-reached",))
def never_reached(facts: Facts) -> list[Finding]:
    out = [
        (row["name"], row["asked"], row["reached"])
        for row in facts.paces["rows"]
        if row["held_by"] == "short moves"
        and row["reached"] is not None
        and row["reached"] < REACHED * row["asked"]
        and row["name"] not in ("first layer", "z")
    ]
    if not out:
        return []
    text = "; ".join(
        f"{name} asks for {asked:g} and reaches {reached:.0f} mm/s" for name, asked, reached in out
    )
    return [
        Finding(
            "never-reached",
            "note",
            f"Speeds that are never reached on this part: {text}. Its moves are too short for "
            "the acceleration.",
            help="A lower speed takes no longer and runs calmer; more acceleration would "
            "shorten the time.",
        )
    ]
