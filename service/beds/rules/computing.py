"""Computing a bed, in a process of its own: its plans, from the stages that are kept of them, then
the bed.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

import shapely

from northpace.beds.arrange import arranged
from northpace.beds.bed import Bed, lay_bed
from northpace.beds.fit import filled, shared_out
from northpace.beds.planning import Asked, Planner, Tell
from northpace.beds.report import bed_report
from northpace.beds.spec import MOST
from northpace.beds.write import write_bed
from northpace.moves import browser_bytes
from northpace.plan.pipeline import Cancelled
from northpace.spec import Machine
from service import limits
from service.beds.models import BedVersion
from service.beds.rules.versions import FILL, SHARE, share
from service.computed import keep_result, told, unwanted, within_limits
from service.core import pipeline
from service.files import keep
from service.plans.models import PlanVersion
from service.queue import LARGE, later
from service.workshop.rules.drawn import Ring, rings

#: mm to which the map's outlines are thinned.
THIN = 0.1


def compute(version_id: int, within_small: bool = False) -> None:
    """Compute a version of a bed; what is too much for the small lane goes on in the large one."""
    open_ = BedVersion.objects.filter(pk=version_id, state__in=BedVersion.OPEN)
    version = open_.select_related("bed").first()
    if version is None:
        return
    limit = limits.laying(*_work(version))

    def in_large() -> None:
        later("beds.tasks.compute_bed", LARGE, version.bed.workshop_id, version_id=version_id)

    near = str(version.bed_id)
    within_limits(open_, compute_here, limit, near, in_large if within_small else None)


def _work(version: BedVersion) -> tuple[int, int]:
    """Bytes of the meshes a bed is of, and moves it may come to."""
    size, moves = 0, {}
    for pin in version.pins.select_related("part", "plan__part"):
        size += pin.its_part.size_bytes
        moves[str(pin.pk)] = int((pin.report or {})["paths"]["moves"])
    placed = sum(moves.get(placing.plan, 0) for placing in version.whole_spec.placings)
    # what it is filled with is not there yet
    more = MOST * max(moves.values(), default=0) if version.wish.startswith((FILL, SHARE)) else 0
    return size, placed + more


def compute_here(version_id: int) -> None:
    """Compute a version; safe to run again after a worker was lost in the middle."""
    changed = BedVersion.objects.filter(pk=version_id, state__in=BedVersion.OPEN).update(
        state=BedVersion.State.COMPUTING, stage="plans", share=0
    )
    if not changed:
        return
    version = BedVersion.objects.select_related("bed__nozzle__machine").get(pk=version_id)
    mine = BedVersion.objects.filter(pk=version_id, state=BedVersion.State.COMPUTING)
    keep_result(mine, lambda: _computed(version, mine))


def _computed(version: BedVersion, mine: Any) -> dict[str, Any]:
    """What is kept of a version."""
    begun = time.perf_counter()
    spec = version.whole_spec

    def tell(done: int, count: int) -> None:
        told(mine)(f"plan {done + 1} of {count}", 0.7 * done / count)

    plans = planner(version, tell, unwanted(mine))
    own = plans.own(spec)
    beside: list[int] = []
    if version.wish == "arrange" and spec.placings:
        mine.update(stage="arranging", share=0.7)
        spec, beside = arranged(spec, own)
    elif version.wish.startswith(FILL):
        mine.update(stage="filling", share=0.7)
        spec = filled(spec, version.wish.split()[1], own)
    elif version.wish.startswith(SHARE):
        mine.update(stage="sharing out", share=0.7)
        _, key, count, evenly = version.wish.split()
        spec, *others = shared_out(spec, key, int(count), own, evenly == "evenly")
        share(version, spec, others)
    if not mine.exists():
        raise Cancelled
    known: dict[str, Any] = {"spec": spec.model_dump(mode="json"), "beside": beside}
    if not spec.placings:
        return known
    planned = plans.planned(spec, own)
    mine.update(stage="laying", share=0.85)
    bed = lay_bed(spec, planned.plans)
    report = bed_report(bed, planned)
    gcode = write_bed(
        bed.laid,
        {
            "bed": f"{version.bed.number} version {version.number}",
            "time": f"{report['total_s']:.1f} s",
            "mass": f"{report['mass_g']:.3f} g",
        },
    )
    return {
        **known,
        "report": report,
        "outlines": _outlines(bed),
        "moves_key": keep(browser_bytes(bed.laid.moves, bed.laid.order.top), ".arrow"),
        "gcode_key": keep(gcode, ".gcode"),
        "took_s": time.perf_counter() - begun,
    }


def planner(version: BedVersion, tell: Tell, cancelled: Callable[[], bool]) -> Planner:
    """What a version's pins are planned by."""
    pins = version.pins.select_related("part", "plan__part")
    machine = Machine(**version.bed.nozzle.spec())
    return Planner(
        pipeline(), {str(pin.pk): asked_of(pin) for pin in pins}, machine, tell, cancelled
    )


def asked_of(pin: PlanVersion) -> Asked:
    """A version of a plan as beds ask for it."""
    part = pin.its_part
    return Asked(part.name, part.source, pin.whole_spec, pin.correction)


def _outlines(bed: Bed) -> dict[str, Any]:
    """What the map draws, about the middle of a part: its outline, and what the head covers, by the
    key of the plan and the turn.
    """
    out = {}
    for plan, placing in zip(bed.laid.plans, bed.spec.placings, strict=False):
        key = f"{placing.plan} {placing.turn:g}"
        if key not in out:
            turned = plan.turned(placing.turn)
            out[key] = {
                "outline": _thin(turned.standing.footprint),
                "top_mm": turned.top,
                "sweeps": [
                    {"name": s.name, "over_mm": s.over, "outline": _thin(s.area)}
                    for s in (turned.sweeps if bed.spec.way != "together" else ())
                ],
            }
    return out


def _thin(area: shapely.Geometry) -> list[Ring]:
    return rings(shapely.simplify(area, THIN))
