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
    cap = 60.0 * (surface.time_cap_min or 0.0)
    left = cap - took
    if not surface.has_time_cap or left <= LEFT * cap:
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
