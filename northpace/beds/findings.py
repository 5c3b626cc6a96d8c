"""What a maker should know of a bed."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from northpace.beds.bed import Bed
from northpace.beds.bedplan import BedPlan
from northpace.beds.planning import Planned
from northpace.beds.turns import Clash
from northpace.beds.write import placing_names
from northpace.checks.finding import Finding
from northpace.figures import Severity
from northpace.geometry.polygons import intersection, rounded, within
from northpace.part.plate import keep_out, plate, standing_up

#: Codes of findings about a piece that stands where it must not.
MISPLACED = ("beyond-the-bed", "keep-out")
#: Room between placings of which a bead is surely laid into another one, in bores.
LEAST_ROOM = 1.0
#: mm beyond the edge, and mm² on a keep-out place, that do not count.
LEAST_OUT, NOTHING = 0.01, 0.01
#: With one stack for all, the step error of a part may be this many times what was asked for.
ROUGHER = 1.1


def bed_findings(bed: Bed, planned: Planned | None = None) -> list[Finding]:
    """All findings, the most severe first. ``planned`` tells what the plans come to with heights of
    their own.
    """
    found = [
        *_off_the_plate(bed),
        *_across_places(bed),
        *_too_tall(bed),
        *_near(bed),
        *_in_the_way(bed),
        *_spirals(bed),
        *_heat(bed),
        *_rougher(bed, planned),
        *_above_the_machine(bed),
    ]
    # loops find no room around what stands in a wrong place, which is said already
    if not any(finding.code in MISPLACED for finding in found):
        found += _unprimed(bed)
    rank: dict[Severity, int] = {"stop": 0, "look": 1, "note": 2}
    return sorted(found, key=lambda finding: rank[finding.severity])


def named(bed: Bed, k: int) -> str:
    """A placing as sentences call it."""
    return f"{k + 1} ({placing_names(bed.laid)[k]})"


def sentence(bed: Bed, clash: Clash) -> str:
    """What stands against laying a bed in its order."""
    one, two = named(bed, clash.one), named(bed, clash.two)
    part = clash.part.lower()
    if clash.only_order:
        return f"While {one} is laid the {part} hits {two}, which is finished by then."
    return f"Neither {one} nor {two} can come first: the {part} hits the one that is finished."


def remedy(clash: Clash) -> str:
    """What would help against a clash."""
    if clash.only_order:
        return f"Lay {clash.one + 1} before {clash.two + 1}, or leave the order open."
    by, direction = clash.parting
    if not np.isfinite(by):
        return "Lay them together."
    return f"Move {clash.two + 1} {by:.1f} mm {direction}, or lay them together."


def _at(bed: Bed, k: int) -> tuple[float, float, float]:
    placing = bed.spec.placings[k]
    return (placing.x, placing.y, 0.0)


def _off_the_plate(bed: Bed) -> Iterator[Finding]:
    machine = bed.laid.plans[0].spec.machine
    bed_area = plate(machine)
    for k, stand in enumerate(bed.stands):
        out = _outside(stand, bed_area)
        if out > LEAST_OUT:
            yield Finding(
                "beyond-the-bed",
                "stop",
                f"{named(bed, k)} reaches {out:.1f} mm beyond the bed of {machine.name}.",
                0.0,
                _at(bed, k),
                "Move it inwards, turn it, or arrange the bed.",
            )
        for name, place in keep_out(machine):
            if shapely.area(intersection(stand, place)) > NOTHING:
                yield Finding(
                    "keep-out",
                    "stop",
                    f"{named(bed, k)} stands on a keep-out place: {name}.",
                    0.0,
                    _at(bed, k),
                    "Move it off, or arrange the bed.",
                )


def _across_places(bed: Bed) -> Iterator[Finding]:
    """Moves that lead through a place that stands up from the plate, such as a clip."""
    machine, moves = bed.laid.plans[0].spec.machine, bed.laid.moves
    ends = np.stack([moves.x, moves.y], axis=1) - machine.origin
    for name, area, height in standing_up(machine):
        if any(shapely.area(intersection(stand, area)) > NOTHING for stand in bed.stands):
            continue  # it is said already that something stands there
        low = np.flatnonzero(np.minimum(moves.z[1:], moves.z[:-1]) < height - 1e-6) + 1
        lines = shapely.linestrings(np.stack([ends[low - 1], ends[low]], axis=1))
        inside = rounded(area, -LEAST_OUT, 4)
        shapely.prepare(inside)
        through = np.flatnonzero(shapely.intersects(inside, lines))
        if not len(through):
            continue
        row = low[through[0]]
        (x, y), z = ends[row].tolist(), float(moves.z[row])
        length = float(shapely.length(within(lines[through], inside)).sum())
        yield Finding(
            "keep-out",
            "stop",
            f"{length:.0f} mm of moves lead through a keep-out place: {name}, which stands "
            f"{height:g} mm up; the first at {z:.2f} mm.",
            z,
            (round(x, 3), round(y, 3), z),
            "Move what stands beside it, or give the place its true height.",
        )


def _outside(stand: shapely.Geometry, bed_area: shapely.Geometry) -> float:
    """How far a placing reaches beyond the bed in mm."""
    corners = shapely.points(shapely.get_coordinates(stand))
    return float(shapely.distance(corners, bed_area).max())


def _too_tall(bed: Bed) -> Iterator[Finding]:
    machine = bed.laid.plans[0].spec.machine
    for k, plan in enumerate(bed.laid.plans[: bed.laid.own]):
        if plan.top > machine.size_z + 1e-6:
            yield Finding(
                "too-tall",
                "stop",
                f"{named(bed, k)} is {plan.top:.1f} mm tall; {machine.name} builds up to "
                f"{machine.size_z:g} mm.",
                plan.top,
                _at(bed, k),
                "Take it off the bed, or take a taller machine.",
            )


def _near(bed: Bed) -> Iterator[Finding]:
    stands, bore = np.array(bed.stands, object), bed.laid.plans[0].spec.machine.nozzle
    clear = bed.spec.clearance
    one, two = shapely.STRtree(stands).query(stands, "dwithin", distance=clear - 0.01)
    for a, b in zip(one, two, strict=True):
        if a >= b:
            continue
        room = float(shapely.distance(stands[a], stands[b]))
        stop = room < LEAST_ROOM * bore
        yield Finding(
            "too-near",
            "stop" if stop else "look",
            f"{named(bed, a)} and {named(bed, b)} "
            + ("lie on each other." if room == 0 else f"are {room:.1f} mm apart.")
            + ("" if stop else f" The bed asks for {clear:g} mm."),
            0.0,
            _at(bed, b),
            f"Move {b + 1} until {clear:g} mm are open, or arrange the bed.",
        )


def _in_the_way(bed: Bed) -> Iterator[Finding]:
    for clash in bed.clashes:
        yield Finding(
            "head-hits",
            "stop",
            sentence(bed, clash),
            bed.laid.plans[clash.two].top,
            _at(bed, clash.two),
            remedy(clash),
        )


def _spirals(bed: Bed) -> Iterator[Finding]:
    for group in bed.groups:
        if len(group) < 2:
            continue
        for k in group:
            if bed.laid.plans[k].visits.rising:
                yield Finding(
                    "spiral-together",
                    "stop",
                    f"{named(bed, k)} is a spiral, which is laid without a stop; together with "
                    "others it would stop in every turn.",
                    0.0,
                    _at(bed, k),
                    "Lay the bed in turn, or give it a group of its own.",
                )


def _heat(bed: Bed) -> Iterator[Finding]:
    plans = bed.laid.plans[: bed.laid.own]
    materials = sorted({plan.spec.material.name for plan in plans})
    if len(materials) > 1:
        together = any(len({plans[k].spec.material.name for k in g}) > 1 for g in bed.groups)
        pauses = bed.spec.pauses != "none"
        yield Finding(
            "materials-differ",
            "stop" if together or not pauses else "note",
            f"The placings are of {' and '.join(materials)}"
            + (
                "; one nozzle lays one material at a time."
                if together
                else ", which are changed by hand in a pause."
            ),
            help="Lay them in turn with pauses for the change, or put them on beds of their own."
            if together or not pauses
            else "",
        )
    for what, unit, word in (("nozzle", "°C", "nozzle"), ("bed", "°C", "bed")):
        values = [set(np.unique(getattr(plan.heat, what)[1:]).tolist()) for plan in plans]
        changing = [g for g in bed.groups if len(set().union(*(values[k] for k in g))) > 1]
        if changing and len({frozenset(v) for v in values}) > 1:
            every = sorted(set().union(*values))
            yield Finding(
                "heat-differs",
                "look",
                f"The {word} goes between {every[0]:g} and {every[-1]:g} {unit} from placing to "
                "placing in every pass; heating takes longer than the way there.",
                help="Give the plans the same temperature, or lay the bed in turn.",
            )


def _rougher(bed: Bed, planned: Planned | None) -> Iterator[Finding]:
    """Parts whose step error with one stack for all is larger than with heights of their own, and
    larger than was asked for.
    """
    if planned is None or planned.own is None:
        return
    for k, placing in enumerate(bed.spec.placings):
        if any(one.plan == placing.plan for one in bed.spec.placings[:k]):
            continue
        own, now = planned.own[placing.plan], planned.plans[placing.plan]
        surface = own.spec.surface
        measure = "max" if surface.kind == "adaptive" else surface.measure
        alone, here = (_shown(plan, measure) for plan in (own, now))
        asked = surface.target_um if surface.has_target else 0.0
        if here <= ROUGHER * max(alone, asked):
            continue
        word = {"mean": "mean step error", "p95": "P95", "max": "largest step error"}[measure]
        yield Finding(
            "rougher-together",
            "look",
            f"With one stack for all {own.name} comes to a {word} of {here:.0f} µm; with heights "
            f"of its own it has {alone:.0f} µm"
            + (f", and {asked:g} µm were asked for." if asked else "."),
            0.0,
            _at(bed, k),
            "Lay the bed with heights of their own, or give the stack a lower surface target.",
        )


def _shown(plan: BedPlan, measure: str) -> float:
    """The step error of a plan in µm: its mean, P95 or max."""
    surface = plan.report["surface"]
    return {"mean": surface["mean_um"], "p95": surface["p95_um"], "max": surface["max_um"]}[measure]


def _unprimed(bed: Bed) -> Iterator[Finding]:
    asked = bed.laid.plans[bed.groups[0][0]].loops
    if bed.spec.loops == "shared" and (asked.skirt_loops or asked.prime_volume) and not bed.primed:
        yield Finding(
            "no-priming",
            "look",
            "Priming loops around everything would reach beyond the bed or into a keep-out place; "
            "they are left out, and the first bead primes the nozzle.",
            help="Move the placings inwards or away from the place, or give the loops less "
            "distance in the first plan.",
        )


def _above_the_machine(bed: Bed) -> Iterator[Finding]:
    machine, moves = bed.laid.plans[0].spec.machine, bed.laid.moves
    top = float(moves.z.max())
    if top > machine.size_z + 1e-6 and max(p.top for p in bed.laid.plans) <= machine.size_z + 1e-6:
        yield Finding(
            "passes-over",
            "stop",
            f"On its way over what is finished the head would rise to {top:.1f} mm; "
            f"{machine.name} goes up to {machine.size_z:g} mm.",
            top,
            help="Lay the tall placings last, or move them out of the way.",
        )
