"""What a maker holds while a plan is made quicker: thickness of walls and skins, surface,
stiffness, mass, money, and settings that stay.
"""

from __future__ import annotations

import math
from dataclasses import asdict, dataclass
from typing import Any

from northpace.figures import Report
from northpace.paths.walls.loops import wall_count, wall_thickness
from northpace.spec import PlanSpec

#: Share by which what is held may fall short, unless the maker says otherwise.
GIVE = 0.05
#: A surface of less than this (µm) is flat as far as anyone can tell.
SMOOTH_UM = 5.0


@dataclass(frozen=True)
class Held:
    """What a proposal must keep."""

    #: least thickness in mm of walls, top and bottom skins
    wall_mm: float
    top_mm: float
    bottom_mm: float
    #: highest 95th percentile of the step error in µm
    p95_um: float
    #: least mean stiffness relative to a solid part
    stiffness: float
    #: most grams and euros; None for whatever they come to
    mass_g: float | None = None
    cost: float | None = None
    #: names of settings that stay
    keep: tuple[str, ...] = ()
    #: families that may vary; empty for all
    families: tuple[str, ...] = ()

    def as_dict(self) -> dict[str, Any]:
        return asdict(self)


def skin_mm(thickness: float, layers: int, height: float) -> float:
    """Thickness in mm that skins of a thickness (mm) and a least count come to with layers of a
    height in mm.
    """
    return max(math.ceil(thickness / height - 1e-6), layers) * height


def held_now(report: Report, spec: PlanSpec, height: float, give: float = GIVE) -> Held:
    """What a computed plan has now, less the share that may be given; ``height`` is its usual layer
    height in mm.
    """
    body, less = spec.body, 1 - give
    return Held(
        less * report["paths"]["wall_thickness_mm"],
        less * skin_mm(body.top_thickness, body.top_layers, height),
        less * skin_mm(body.bottom_thickness, body.bottom_layers, height),
        max((1 + give) * report["surface"]["p95_um"], SMOOTH_UM),
        less * report["strength"]["mean_stiffness"],
    )


def thinner(held: Held, spec: PlanSpec, height: float) -> list[str]:
    """What settings alone make thinner than is held, at a usual layer height in mm."""
    body = spec.body.as_laid()
    if body.build != "ordinary":
        return []
    out = []
    wall = wall_thickness(body, wall_count(body, height), height)
    for name, now, least in (
        ("walls", wall, held.wall_mm),
        ("top", skin_mm(body.top_thickness, body.top_layers, height), held.top_mm),
        ("bottom", skin_mm(body.bottom_thickness, body.bottom_layers, height), held.bottom_mm),
    ):
        if now < least - 1e-9:
            out.append(f"{name} of {now:.2f} mm instead of at least {least:.2f} mm")
    return out


def broken(held: Held, spec: PlanSpec, height: float, report: Report) -> list[str]:
    """Every limit an exact plan does not keep, in words."""
    out = thinner(held, spec, height)
    surface, firm, stuff = (
        report["surface"]["p95_um"],
        report["strength"]["mean_stiffness"],
        report["filament"],
    )
    if surface > held.p95_um + 1e-6:
        out.append(f"step error of {surface:.0f} µm instead of at most {held.p95_um:.0f} µm")
    if firm < held.stiffness - 1e-9:
        out.append(f"stiffness proxy of {firm:.2f} instead of at least {held.stiffness:.2f}")
    if held.mass_g is not None and stuff["mass_g"] > held.mass_g + 1e-9:
        out.append(f"{stuff['mass_g']:.1f} g instead of at most {held.mass_g:g} g")
    if held.cost is not None and stuff["cost"] > held.cost + 1e-9:
        out.append(f"{stuff['cost']:.2f} € instead of at most {held.cost:g} €")
    return out
