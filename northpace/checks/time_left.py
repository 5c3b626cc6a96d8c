"""A time cap of which much stays unused."""

from __future__ import annotations

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, minutes

#: Share of a cap that may stay unused without a word.
LEFT = 0.003


@check("amounts", codes=("time-left",), reads=("surface",))
def time_left(facts: Facts) -> list[Finding]:
    surface, took = facts.spec.surface, facts.amounts.seconds
    if surface.kind != "best-fit" or surface.time_cap_min is None or surface.stack:
        return []
    left = surface.time_cap_min * 60.0 - took
    if left <= LEFT * surface.time_cap_min * 60.0:
        return []
    return [
        Finding(
            "time-left",
            "note",
            f"{minutes(left)} of the time cap stay unused: no stack of those tried shows less "
            "within it, because the next finer one takes longer or shows no less.",
            help="A step limit further from 1, fewer pins or bands leave more stacks to choose "
            "from.",
        )
    ]
