"""What a plan takes in filament and money, and how many parts a spool gives."""

from __future__ import annotations

import math
from dataclasses import dataclass

from northpace.spec import Machine, Material


@dataclass(frozen=True)
class Amounts:
    """What a plan takes."""

    #: filament in mm³, in mm of its length, and in g
    volume_mm3: float
    #: its length in mm
    length_mm: float
    #: its mass in g
    mass_g: float
    #: € in all, and the shares it is the sum of
    cost: float
    #: of the filament
    cost_material: float
    #: of the machine's hours
    cost_machine: float
    #: of electricity
    cost_power: float
    #: of parts that fail
    cost_failed: float
    #: time in s
    seconds: float


def amounts(length: float, seconds: float, material: Material, machine: Machine) -> Amounts:
    """Amounts for a length of filament (mm) and a time (s).

    cost = (mass · price + time · (machine rate + power · tariff)) · `lost_factor`
    """
    volume = length * material.section
    mass = volume / 1000.0 * material.density
    stuff = mass / 1000.0 * material.price
    work = seconds / 3600.0 * machine.hourly_rate
    power = seconds * cost_per_second(machine) - work
    whole = (stuff + work + power) * lost_factor(machine, material)
    return Amounts(
        volume, length, mass, whole, stuff, work, power, whole - stuff - work - power, seconds
    )


def cost_per_second(machine: Machine) -> float:
    """Machine and electricity in €/s."""
    return (machine.hourly_rate + machine.power / 1000.0 * machine.tariff) / 3600.0


def lost_factor(machine: Machine, material: Material) -> float:
    """By how much good parts cost more for those that fail."""
    return 1 / ((1 - machine.failed_share / 100) * (1 - material.failed_share / 100))


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
