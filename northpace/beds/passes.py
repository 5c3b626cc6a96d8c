"""The order in which the visits of all placings are made."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from northpace.beds.bedplan import BedPlan


@dataclass(frozen=True)
class Passes:
    """Visits (K,) of all placings in the order they are made, in passes (P,)."""

    #: placing, and visit of its plan
    placing: np.ndarray
    visit: np.ndarray
    #: pass, from 0, and place of the group in the order of groups
    number: np.ndarray
    group: np.ndarray
    #: (P,) top of each pass in mm, and the greatest height of its beads
    top: np.ndarray
    height: np.ndarray


def passes(plans: Sequence[BedPlan], groups: Sequence[Sequence[int]], swing: bool) -> Passes:
    """The visits of placings (n,), ``plans`` theirs, group by group, what is in a group in order of
    its tops; equal tops are one pass.

    ``groups`` holds the placings of each, in the order a pass takes them. With ``swing`` every
    other pass takes them backwards, which saves the way back; otherwise each has the time of a
    whole round to set.
    """
    placing, visit, number, group, tops, heights = ([] for _ in range(6))
    passed = 0
    for turn, members in enumerate(groups):
        visits = [plans[k].visits for k in members]
        count = np.array([len(each.top) for each in visits])
        who = np.repeat(np.arange(len(members)), count)
        which = np.concatenate([np.arange(c) for c in count])
        tall = np.concatenate([plans[k].heights[plans[k].visits.layer] for k in members])
        found, at = np.unique(
            np.round(np.concatenate([each.top for each in visits]), 4), return_inverse=True
        )
        at = at.reshape(-1)
        order = np.lexsort((which, np.where(swing & (at % 2 == 1), -who, who), at))
        height = np.zeros(len(found))
        np.maximum.at(height, at, tall)
        placing.append(np.asarray(members)[who[order]])
        visit.append(which[order])
        number.append(at[order] + passed)
        group.append(np.full(len(order), turn))
        tops.append(found)
        heights.append(height)
        passed += len(found)
    return Passes(
        *(np.concatenate(each) for each in (placing, visit, number, group, tops, heights))
    )
