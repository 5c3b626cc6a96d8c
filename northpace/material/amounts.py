"""What a plan takes in filament and money, and how many parts a spool gives."""

from __future__ import annotations

import math
from dataclasses import asdict, dataclass

from northpace.spec import Machine, Material


@dataclass(frozen=True)
class Amounts:
    """Volume in mm³, length in mm, mass in g, and the cost in € with its shares."""

    volume_mm3: float
    length_mm: float
    mass_g: float
    cost: float
    cost_material: float
    cost_machine: float
    cost_power: float
    cost_failed: float

    def as_dict(self) -> dict[str, float]:
        return asdict(self)


def amounts(length: float, seconds: float, material: Material, machine: Machine) -> Amounts:
    """Amounts for a length of filament (mm) and a time (s).

    cost = (mass · price + time · (machine rate + power · tariff)) / ((1 − failed share of the
    machine) · (1 − that of the material))
    """
    volume = length * math.pi * material.diameter**2 / 4.0
    mass = volume / 1000.0 * material.density
    hours = seconds / 3600.0
    stuff = mass / 1000.0 * material.price
    work = hours * machine.hourly_rate
    power = hours * machine.power / 1000.0 * machine.tariff
    whole = (stuff + work + power) / (
        (1.0 - machine.failed_share / 100.0) * (1.0 - material.failed_share / 100.0)
    )
    return Amounts(volume, length, mass, whole, stuff, work, power, whole - stuff - work - power)


@dataclass(frozen=True)
class SpoolShare:
    """Parts a spool gives, what is left over (g), and how much lighter each must get for one more
    (g).
    """

    parts: int
    left_over_g: float
    lighter_for_one_more_g: float


def parts_per_spool(usable: float, each: float) -> SpoolShare:
    """Share out ``usable`` g of filament to parts of ``each`` g."""
    if each <= 0:
        return SpoolShare(0, usable, 0.0)
    count = math.floor(usable / each + 1e-9)
    return SpoolShare(count, usable - count * each, each - usable / (count + 1))
