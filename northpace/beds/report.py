"""What a bed takes: time, grams and money, by placing, by feature, by pass, and the ways to lay it
beside each other.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import get_args

import numpy as np

from northpace.beds.bed import Bed, lay_bed
from northpace.beds.bedplan import BedPlan
from northpace.beds.figures import (
    BedReport,
    Breakdown,
    PassFigures,
    Pause,
    PlacingFigures,
    StackFigures,
)
from northpace.beds.findings import bed_findings, sentence
from northpace.beds.laying import Laid
from northpace.beds.planning import Planned
from northpace.beds.spec import BedSpec, Way
from northpace.beds.write import labelled, placing_names
from northpace.material.amounts import cost_per_second, lost_factor
from northpace.motion.slowing import layer_starts
from northpace.moves import FEATURES, PAUSE, RETRACTION, START, TRAVEL

#: Times of a placing that are nearer to each other than this share of the bed's are one.
NEAR = 1 / 400


def bed_report(bed: Bed, planned: Planned) -> BedReport:
    """The figures of a bed laid as it says, and in the other ways."""
    laid = bed.laid
    moves = laid.moves
    grams, costs = laid.grams, _costs(laid)
    drawn = moves.width > 0
    return {
        "total_s": laid.seconds,
        "by_feature": _by_feature(moves.feature, moves.seconds),
        "flow_floor_s": sum(plan.report["time_s"]["flow_floor"] for plan in laid.plans[: laid.own]),
        "start_s": float(moves.seconds[0]),
        "length_mm": float(moves.filament[drawn].sum()),
        "volume_mm3": _volume(laid),
        "mass_g": float(grams.sum()),
        "cost": float(costs.sum()),
        "moves": len(moves),
        "labels": labelled(laid),
        "order": [[k + 1 for k in group] for group in bed.groups],
        "placings": _placings(laid, grams, costs),
        "passes": _passes(laid, grams),
        "pauses": _pauses(laid),
        "ways": [breakdown(bed), *_others(bed, planned)],
        "stack": _stack(planned, bed.spec) if planned.stack else None,
        "findings": [finding.as_dict() for finding in bed_findings(bed, planned)],
    }


def _volume(laid: Laid) -> float:
    section = np.array([plan.spec.material.section for plan in laid.plans])
    drawn = laid.moves.width > 0
    return float((laid.moves.filament * laid.of_plan(section))[drawn].sum())


def _costs(laid: Laid) -> np.ndarray:
    lost = np.array([lost_factor(p.spec.machine, p.spec.material) for p in laid.plans])
    price = np.array([p.spec.material.price / 1000 for p in laid.plans])
    second = cost_per_second(laid.plans[0].spec.machine)
    return (laid.grams * laid.of_plan(price) + laid.moves.seconds * second) * laid.of_plan(lost)


def _by_feature(feature: np.ndarray, values: np.ndarray) -> dict[str, float]:
    found = np.bincount(feature, values, minlength=len(FEATURES))
    return {FEATURES[k]: float(v) for k, v in enumerate(found) if v > 0}


def _placings(laid: Laid, grams: np.ndarray, costs: np.ndarray) -> list[PlacingFigures]:
    moves, ends = laid.moves, np.cumsum(laid.moves.seconds)
    begins, names, out = ends - moves.seconds, placing_names(laid), []
    for k, plan in enumerate(laid.plans[: laid.own]):
        mine = np.flatnonzero(laid.placing == k)
        cut = np.flatnonzero(begins[mine[1:]] - ends[mine[:-1]] > NEAR * laid.seconds)
        spans = np.stack([begins[mine[np.r_[0, cut + 1]]], ends[mine[np.r_[cut, len(mine) - 1]]]])
        out.append(
            PlacingFigures(
                number=k + 1,
                name=names[k],
                plan=laid.placings[k].plan,
                seconds=float(moves.seconds[mine].sum()),
                grams=float(grams[mine].sum()),
                cost=float(costs[mine].sum()),
                by_feature=_by_feature(moves.feature[mine], moves.seconds[mine]),
                begin_s=float(begins[mine[0]]),
                end_s=float(ends[mine[-1]]),
                laid_s=[[round(float(v), 2) for v in span] for span in spans.T],
                top_mm=plan.top,
                passes=int((laid.order.placing == k).sum()),
                mean_error_um=plan.report["surface"]["mean_um"],
                p95_um=plan.report["surface"]["p95_um"],
            )
        )
    return out


def _passes(laid: Laid, grams: np.ndarray) -> PassFigures:
    order, above = laid.order, laid.moves.layer >= 0
    count = len(order.top)
    layer = laid.moves.layer[above]
    seconds = np.bincount(layer, laid.moves.seconds[above], count)
    mass = np.bincount(layer, grams[above], count)
    return {
        "tops_mm": [round(float(v), 4) for v in order.top],
        "heights_mm": [round(float(v), 4) for v in order.height],
        "seconds": [round(float(v), 4) for v in seconds],
        "grams": [round(float(v), 5) for v in mass],
        "placings": [
            int(v) for v in np.bincount(order.number[order.placing < laid.own], minlength=count)
        ],
    }


def _pauses(laid: Laid) -> list[Pause]:
    ends = np.cumsum(laid.moves.seconds)
    return [
        Pause(
            at_s=float(ends[row] - laid.pause_seconds),
            seconds=laid.pause_seconds,
            after=int(laid.order.placing[laid.merged.visit[row] - 1]) + 1,
        )
        for row in np.flatnonzero(laid.moves.feature == PAUSE)
    ]


def breakdown(bed: Bed) -> Breakdown:
    """Where the seconds go, in rows that add up."""
    laid = bed.laid
    moves, quick = laid.moves, laid.quick.copy()
    begins = layer_starts(moves.layer)
    overhead = laid.plans[0].spec.machine.layer_overhead
    quick[begins] -= overhead
    between, rises = laid.source < 0, _rises(laid)
    travel = moves.feature == TRAVEL
    slowing = float((moves.seconds - laid.quick).sum())
    rows = {
        "start": float(quick[moves.feature == START].sum()),
        **{
            FEATURES[k]: float(quick[moves.feature == k].sum())
            for k in range(len(FEATURES))
            if k not in (START, TRAVEL, RETRACTION, PAUSE) and (moves.feature == k).any()
        },
        "travel within placings": float(quick[travel & ~between & ~rises].sum()),
        "travel between placings": float(quick[travel & between & ~rises].sum()),
        "up and down": float(quick[travel & rises].sum()),
        "retraction": float(quick[moves.feature == RETRACTION].sum()),
        "pauses": float(quick[moves.feature == PAUSE].sum()),
        "pass changes": overhead * len(begins),
        "slowing for layer times": slowing,
    }
    return {
        "way": bed.spec.way,
        "heights": bed.spec.heights,
        "total_s": laid.seconds,
        "rows": {name: value for name, value in rows.items() if abs(value) > 1e-9},
        "travel_between_mm": float(moves.lengths()[travel & between].sum()),
        "z_moves": int((travel & rises).sum()),
        "retractions": int(((moves.feature == RETRACTION) & (moves.filament < 0)).sum()),
        "passes": len(laid.order.top),
        "slowing_s": slowing,
        "against": sentence(bed, bed.clashes[0]) if bed.clashes else "",
    }


def _rises(laid: Laid) -> np.ndarray:
    moves = laid.moves
    flat = (np.diff(moves.x, prepend=0) == 0) & (np.diff(moves.y, prepend=0) == 0)
    return np.asarray(flat & (np.diff(moves.z, prepend=0) != 0))


def _stack(planned: Planned, spec: BedSpec) -> StackFigures:
    stack = planned.stack
    assert stack is not None
    keys = dict.fromkeys(placing.plan for placing in spec.placings)
    return {
        "measure": stack.measure,
        "target_um": 1000 * stack.target,
        "reached_um": 1000 * stack.reached,
        "passes": stack.passes,
        "own_passes": stack.own_passes,
        "seconds": stack.seconds,
        "own_seconds": stack.own_seconds,
        "plans": [
            {"plan": key, "name": planned.plans[key].name, "um": 1000 * one, "own_um": 1000 * own}
            for key, one, own in zip(keys, stack.errors, stack.own_errors, strict=True)
        ],
    }


def _others(bed: Bed, planned: Planned) -> list[Breakdown]:
    """The other ways to lay it: together, in turn, in groups where there are some, with heights of
    their own where one stack is for all, and as jobs of their own.
    """
    spec, plans, out = bed.spec, planned.plans, []
    if planned.own is not None:
        apart = spec.model_copy(update={"heights": "own"})
        out.append(breakdown(lay_bed(apart, planned.own, first_clash=True)))
    for way in get_args(Way):
        same = way == "groups" and len({placing.group for placing in spec.placings}) < 2
        if way != spec.way and not same:
            other = spec.model_copy(update={"way": way})
            out.append(breakdown(lay_bed(other, plans, first_clash=True)))
    return [*out, _one_by_one(spec, planned.own or plans)]


def _one_by_one(spec: BedSpec, plans: Mapping[str, BedPlan]) -> Breakdown:
    """Every placing as a job of its own."""
    alone = {}
    for placing in spec.placings:
        if placing.plan not in alone:
            middle = placing.model_copy(update={"x": 0.0, "y": 0.0, "turn": 0.0})
            single = BedSpec(placings=(middle,), loops=spec.loops)
            alone[placing.plan] = breakdown(lay_bed(single, plans))
    each = [alone[placing.plan] for placing in spec.placings]
    rows: dict[str, float] = {}
    for one in each:
        for name, value in one["rows"].items():
            rows[name] = rows.get(name, 0.0) + value
    return {
        "way": "one-by-one",
        "heights": "own",
        "total_s": sum(one["total_s"] for one in each),
        "rows": rows,
        "travel_between_mm": 0.0,
        "z_moves": sum(one["z_moves"] for one in each),
        "retractions": sum(one["retractions"] for one in each),
        "passes": sum(one["passes"] for one in each),
        "slowing_s": sum(one["slowing_s"] for one in each),
        "against": "",
    }
