"""Laying out a bed: every placing where it is clear of the others, of the edge and of keep-out
places, as compact as it goes, or row by row. What does not fit stays beside the bed.
"""

from __future__ import annotations

import itertools
from collections.abc import Mapping

import numpy as np
import shapely

from northpace.beds.bedplan import BedPlan, plans_of
from northpace.beds.filling import Room, Shape, as_it_lies, turns_of
from northpace.beds.packer import MANY, OnGrid, Packer, Rule
from northpace.beds.spec import BedSpec, Placing
from northpace.part.plate import plate
from northpace.paths.footing import room_for_loops
from northpace.spec import Machine


def arranged(spec: BedSpec, plans: Mapping[str, BedPlan]) -> tuple[BedSpec, list[int]]:
    """The bed with its placings arranged, those that are locked left where they are; and the
    numbers of those that do not fit, which lie beside it. Raises `InputError` for an empty bed.
    """
    machine = plans_of(spec, plans)[0].spec.machine
    there = [as_it_lies(placing, plans) for placing in spec.placings]
    known: dict[tuple[str, float], list[Shape]] = {}
    for placing in spec.placings:
        now = 0.0 if spec.turn_step else placing.turn
        if (placing.plan, now) not in known:
            shapes = turns_of(spec, plans[placing.plan], placing.plan, now)
            known[placing.plan, now] = shapes
    choices = [known[p.plan, 0.0 if spec.turn_step else p.turn] for p in spec.placings]
    rules: tuple[Rule, ...] = ("compact", "front-left")
    if spec.way != "together":
        rules = ("front-left", "front-right", "back-left", "back-right")
    if sum(map(len, known.values())) > MANY:
        rules = rules[:1]
    best: tuple[int, list[Placing], list[int]] | None = None
    on_grid = OnGrid()
    for margins, rule in itertools.product(_margins(spec, plans, choices), rules):
        room = Room(machine, spec, margins=margins)
        placings, beside = _one_way(room, choices, there, rule, on_grid)
        if best is None or len(beside) < best[0]:
            best = (len(beside), placings, beside)
        if not beside:
            break
    assert best is not None
    return spec.model_copy(update={"placings": tuple(best[1]), "order": ()}), best[2]


def _margins(
    spec: BedSpec, plans: Mapping[str, BedPlan], choices: list[list[Shape]]
) -> tuple[tuple[float, float], ...]:
    """Margins to try for a room (see `Room.margins`), in order of preference: first as much as the
    shared loops need, then none, in case the placings do not fit otherwise.
    """
    if spec.loops != "shared":
        return ((0.0, 0.0),)
    # the shortest hull takes the most loops
    shortest = min(float(shapely.length(shapely.convex_hull(s[0].outline))) for s in choices)
    needed = [
        room_for_loops(shortest, float(one.heights[0]), one.loops) for one in plans_of(spec, plans)
    ]
    most = max(inside for inside, _ in needed), max(beside for _, beside in needed)
    return (most, (0.0, 0.0)) if any(most) else ((0.0, 0.0),)


def _one_way(
    room: Room,
    choices: list[list[Shape]],
    there: list[Shape],
    rule: Rule,
    on_grid: OnGrid,
) -> tuple[list[Placing], list[int]]:
    """The placings arranged in an empty room by a rule, ``choices`` their turns and ``there`` how
    they lie now, and the numbers of those that do not fit.
    """
    spec, placings = room.spec, list(room.spec.placings)
    group = [spec.group_of(k) for k in range(len(placings))]
    area = [float(shapely.area(shapes[0].outline)) for shapes in choices]
    tops = [shapes[0].turned.top for shapes in choices]
    for k, (placing, lies) in enumerate(zip(placings, there, strict=True)):
        if placing.locked:
            room.group = group[k]
            room.add(lies, placing.at)
    distinct = list({id(s): s for shapes in choices for s in shapes}.values())
    packer = Packer(room, distinct, on_grid)
    free = [k for k, placing in enumerate(placings) if not placing.locked]
    # group by group, the lowest first, because the head passes over what is low; the largest first
    height = {g: max(tops[k] for k in free if group[k] == g) for g in {group[k] for k in free}}
    free.sort(key=lambda k: (height[group[k]], 0 if room.single else group[k], -area[k]))
    beside = []
    hopeless: set[tuple[str, float]] = set()
    for k in free:
        room.group = group[k]
        kind = (placings[k].plan, choices[k][0].turn)
        if kind in hopeless or not packer.place(choices[k], rule, spec.centre):
            hopeless.add(kind)
            beside.append(k)
            continue
        shape, at = room.shapes[-1], room.at[-1]
        placings[k] = placings[k].model_copy(
            update={
                "x": round(float(at[0]), 3),
                "y": round(float(at[1]), 3),
                "turn": shape.turn,
            }
        )
    return _beside(placings, beside, choices, room.machine), [k + 1 for k in beside]


def _beside(
    placings: list[Placing], beside: list[int], choices: list[list[Shape]], machine: Machine
) -> list[Placing]:
    """Placings that do not fit put in a row to the right of the bed."""
    _, low_y, high_x, _ = plate(machine).bounds
    x = high_x + 20.0
    for k in beside:
        low, high = np.array(choices[k][0].outline.bounds).reshape(2, 2)
        placings[k] = placings[k].model_copy(
            update={"x": round(float(x - low[0]), 3), "y": round(float(low_y - low[1]), 3)}
        )
        x += high[0] - low[0] + 10.0
    return placings
