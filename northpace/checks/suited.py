"""What does not fit between a machine with its nozzle and a material."""

from __future__ import annotations

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding
from northpace.spec import Machine, Material


@check(
    codes=(
        "too-hot",
        "bed-too-cool",
        "abrasive",
    ),
    reads=(
        "machine",
        "material",
    ),
)
def suited(facts: Facts) -> list[Finding]:
    return suits(facts.spec.machine, facts.spec.material)


def suits(machine: Machine, material: Material) -> list[Finding]:
    """What does not fit between a machine with its nozzle and a material, said before anything is
    planned.
    """
    found = []
    hot = max(material.nozzle_temp, material.first_nozzle_temp)
    if hot > machine.hottest_nozzle:
        found.append(
            Finding(
                "too-hot",
                "stop",
                f"{material.name} needs {hot:g} °C at the nozzle; {machine.name} reaches "
                f"{machine.hottest_nozzle:g} °C.",
                help="Another machine, or a material that melts cooler.",
            )
        )
    warm = max(material.bed_temp, material.first_bed_temp)
    if warm > machine.hottest_bed:
        found.append(
            Finding(
                "bed-too-cool",
                "stop",
                f"{material.name} needs a bed of {warm:g} °C; that of {machine.name} reaches "
                f"{machine.hottest_bed:g} °C.",
                help="Another machine, or a material that holds on a cooler bed.",
            )
        )
    if material.abrasive and not machine.nozzle_hard:
        found.append(
            Finding(
                "abrasive",
                "look",
                f"{material.name} is abrasive and wears the soft {machine.nozzle:g} mm nozzle of "
                f"{machine.name}: beads get wider and the surface rough.",
                help="Take a hard nozzle.",
            )
        )
    return found
