"""Parts that do not fit the machine with their footing."""

from __future__ import annotations

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding
from northpace.part.place import kept_out, misfits
from northpace.paths.footing import extent_of, lift_of


@check(
    "placed",
    codes=("too-tall", "outside-bed", "keep-out"),
    reads=(
        "machine",
        "footing",
    ),
)
def fit(facts: Facts) -> list[Finding]:
    spec = facts.spec
    around, raised = extent_of(spec.footing), lift_of(spec.footing, spec.machine)
    found = [
        Finding(code, "stop", sentence, help=help)
        for code, sentence, help in misfits(facts.placed, spec.machine, around, raised)
    ]
    return found + [
        Finding(
            "keep-out",
            "stop",
            f"The part or its footing stands on a keep-out place of {spec.machine.name}: {name}.",
            help="Shift or turn it, or put it on a bed and arrange that.",
        )
        for name in kept_out(facts.placed, spec.machine, around)
    ]
