"""How many copies of a plan a bed holds, and copies shared out over several."""

from __future__ import annotations

from collections.abc import Mapping

from northpace.beds.bedplan import BedPlan
from northpace.beds.filling import Room, as_it_lies, turns_of
from northpace.beds.packer import OnGrid, Packer, Rule
from northpace.beds.spec import MOST, MOST_BEDS, BedSpec, Placing
from northpace.errors import InputError

#: Rules tried together, and in turn.
RULES: dict[bool, tuple[Rule, ...]] = {
    False: ("front-left", "compact"),
    True: ("front-left", "front-right", "back-left", "back-right"),
}


def filled(spec: BedSpec, plan: str, plans: Mapping[str, BedPlan], most: int = MOST) -> BedSpec:
    """The bed with as many more copies of a plan as it holds, at most so many placings; what is on
    it already stays where it is. Together or in turn, as the bed says.
    """
    if plan not in plans:
        raise InputError(f"there is no plan '{plan}'", "plan")
    machine, shapes = plans[plan].spec.machine, turns_of(spec, plans[plan], plan)
    best: list[Placing] = []
    known = OnGrid()
    for rule in RULES[spec.way != "together"]:
        room = Room(machine, spec)
        for k, placing in enumerate(spec.placings):
            room.group = spec.group_of(k)
            room.add(as_it_lies(placing, plans), placing.at)
        before = len(room.shapes)
        packer = Packer(room, shapes, known)
        # what is added is of the first group, or one of its own
        room.group = before if room.single else Placing().group
        while len(room.shapes) < most and packer.place(shapes, rule, spec.centre):
            room.group += room.single
        found = [
            Placing(plan=plan, turn=shape.turn, x=round(float(at[0]), 3), y=round(float(at[1]), 3))
            for shape, at in zip(room.shapes[before:], room.at[before:], strict=True)
        ]
        if len(found) > len(best):
            best = found
        if len(spec.placings) + len(best) >= most:
            break
    return spec.model_copy(update={"placings": (*spec.placings, *best), "order": ()})


def shared_out(
    spec: BedSpec, plan: str, count: int, plans: Mapping[str, BedPlan], evenly: bool
) -> list[BedSpec]:
    """Beds with so many copies of a plan in all: one filled after the other, or each with as many
    as the others; those that are alike are one that is wanted several times. Raises `InputError`
    where not even one fits, or too many beds would be needed.
    """
    empty = spec.model_copy(update={"placings": ()})
    full = filled(empty, plan, plans, min(count, MOST))
    each = len(full.placings)
    if not each:
        raise InputError(f"not one copy of '{plan}' fits on the bed", "plan")
    beds = -(-count // each)
    if beds > MOST_BEDS:
        raise InputError(
            f"{count} copies would take {beds} beds; at most {each * MOST_BEDS} copies are shared "
            "out at once",
            "count",
        )
    sizes = [each] * (count // each) + ([count % each] if count % each else [])
    if evenly:
        sizes = [count // beds + (k < count % beds) for k in range(beds)]
    made = {each: full}
    for size in set(sizes) - {each}:
        made[size] = filled(empty, plan, plans, size)
    return [
        made[size].model_copy(update={"times": sizes.count(size)}) for size in sorted(set(sizes))
    ][::-1]
