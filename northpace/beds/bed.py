"""A bed from its placings: laid in the way that was chosen, and in the others to compare."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from northpace.beds.bedplan import BedPlan, plans_of
from northpace.beds.crossings import crossings
from northpace.beds.laying import Laid, lay
from northpace.beds.loops import shared_loops
from northpace.beds.passes import passes
from northpace.beds.reach import Turned, moved
from northpace.beds.spec import BedSpec, Placing
from northpace.beds.turns import Clash, GroupOrder, Hits, find_order, shortest


@dataclass(frozen=True)
class Bed:
    """A bed as it was said, and as it is laid."""

    spec: BedSpec
    laid: Laid
    #: numbers of the placings of every group, in the order they are laid
    groups: tuple[tuple[int, ...], ...]
    #: what of the order the head does not allow
    clashes: tuple[Clash, ...]
    #: what each placing covers, about the middle of the bed
    stands: list[shapely.Geometry]
    #: whether loops run around everything
    primed: bool


def lay_bed(spec: BedSpec, plans: Mapping[str, BedPlan], first_clash: bool = False) -> Bed:
    """Lay a bed of plans, given by their names. With ``first_clash`` the search for what stands
    against the order ends at the first clash. Raises `InputError` for plans that cannot be on one
    bed.
    """
    own = plans_of(spec, plans)
    turned = [plan.turned(placing.turn) for plan, placing in zip(own, spec.placings, strict=True)]
    groups = groups_of(spec)
    order = order_of(spec, turned, groups, first_clash)
    groups = [_round(spec.placings, groups[k]) for k in order.groups]
    stands = [
        moved(stand.standing.footprint, placing.at)
        for stand, placing in zip(turned, spec.placings, strict=True)
    ]
    loops = shared_loops(own[groups[0][0]], stands) if spec.loops == "shared" else None
    laid = _quickest(spec, own, stands, groups, loops)
    return Bed(spec, laid, tuple(map(tuple, groups)), order.clashes, stands, loops is not None)


def groups_of(spec: BedSpec) -> list[list[int]]:
    """The placings of every group: all, each for itself, or as they say."""
    out: dict[int, list[int]] = {}
    for k in range(len(spec.placings)):
        out.setdefault(spec.group_of(k), []).append(k)
    return [out[number] for number in sorted(out)]


def order_of(
    spec: BedSpec,
    turned: Sequence[Turned],
    groups: Sequence[Sequence[int]],
    first_clash: bool = False,
) -> GroupOrder:
    """The order of the groups: the one asked for, or the one with the least travel."""
    at = np.array([placing.at for placing in spec.placings])
    if len(groups) == 1:
        return GroupOrder((0,), ())
    asked: list[int] = []
    for number in spec.order:
        # placings count from 1; of a group the first one named stands for it
        found = [g for g, group in enumerate(groups) if number - 1 in group]
        asked += [g for g in found if g not in asked]
    if asked and len(asked) < len(groups):
        asked += [g for g in range(len(groups)) if g not in asked]
    return find_order(Hits(turned, at), groups, asked, first_clash)


def _round(placings: Sequence[Placing], group: Sequence[int]) -> list[int]:
    """The placings of a group in the order of a short way over all of them."""
    middles = np.array([placings[k].at for k in group])
    return [group[k] for k in shortest(middles, [])]


def _quickest(
    spec: BedSpec,
    plans: list[BedPlan],
    stands: list[shapely.Geometry],
    groups: list[list[int]],
    loops: BedPlan | None,
) -> Laid:
    """Placings laid group by group, back and forth or round, whichever takes less time; the loops
    are laid with the first of them.
    """
    own, placings, turns = len(plans), list(spec.placings), groups
    if loops is not None:
        plans, placings = [*plans, loops], [*placings, Placing()]
        turns = [[own, *groups[0]], *groups[1:]]
    found: list[Laid] = []
    for swing in (True, False):
        order = passes(plans, turns, swing)
        ways = crossings(spec, plans, stands, order)
        found.append(lay(plans, placings, order, ways, spec.pause_seconds, own))
        if all(len(group) < 2 for group in groups):
            break
    return min(found, key=lambda laid: laid.seconds)
