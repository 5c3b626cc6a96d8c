"""The moves of several plans as one course: each visit as its plan has it, unchanged but for its
place, and the ways between them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numba
import numpy as np

from northpace.beds.bedplan import BedPlan, cosine_sine
from northpace.beds.passes import Passes
from northpace.beds.spec import Placing
from northpace.motion.speeds import rising_speed, sayable
from northpace.moves import PAUSE, RETRACTION, START, TRAVEL

#: Decimals of positions: what is turned is not on the grid of its plan, and is kept closer to it
#: than a millionth of a millimetre.
DECIMALS = 6


class Crossings(NamedTuple):
    """How the head gets to the visits (K,) that begin elsewhere than the one before ended."""

    #: z in mm to rise to at least; NaN where nothing stands in the way
    over: np.ndarray
    #: whether a hand takes something off before
    pause: np.ndarray
    #: (2,) where the head waits
    park: np.ndarray
    #: (n, 2) corners of ways around, in machine coordinates, and (K + 1,) where those of a visit
    #: begin
    corners: np.ndarray
    begins: np.ndarray


@dataclass(frozen=True)
class Merged:
    """Rows (M,) of a bed before they are timed."""

    #: row among those of all plans one after the other; −1 for ways between placings
    source: np.ndarray
    #: visit in the order they are made; −1 before the first
    visit: np.ndarray
    #: end of the move in machine coordinates, mm
    x: np.ndarray
    y: np.ndarray
    z: np.ndarray
    feature: np.ndarray
    #: mm fed, mm/s, and mm/s² as the file says it, before any slowing
    filament: np.ndarray
    speed: np.ndarray
    acceleration: np.ndarray
    #: (K + 1,) where the rows of a visit begin, with the way to it, and (K,) where its own begin
    starts: np.ndarray
    own: np.ndarray


class Sources(NamedTuple):
    """Rows of all plans one after the other, for the kernel."""

    xyz: np.ndarray
    feature: np.ndarray
    #: mm fed, mm/s, mm/s²
    figures: np.ndarray


class Steps(NamedTuple):
    """Visits (K,) in the order they are made, for the kernel."""

    #: rows: first with the way there, first that lays, end
    rows: np.ndarray
    placing: np.ndarray
    #: (K, 6): cosine and sine of the turn, middle of the part in its rows, and on the bed
    place: np.ndarray
    #: (K, 7): mm pulled back, mm given back, lift in mm, then mm/s of pulling, travel and z,
    #: mm/s² of travel
    habits: np.ndarray
    #: mm/s² of pulling
    pull_push: np.ndarray


class Out(NamedTuple):
    """Rows as they are written."""

    source: np.ndarray
    visit: np.ndarray
    feature: np.ndarray
    xyz: np.ndarray
    figures: np.ndarray


def merge(
    plans: Sequence[BedPlan], placings: Sequence[Placing], order: Passes, ways: Crossings
) -> Merged:
    """The rows of placings (n,), ``plans`` theirs, visited in an order."""
    kinds = different(plans)
    ends = np.cumsum([len(plan.paced.rows.layer) for plan in kinds])
    at = {id(plan): end - len(plan.paced.rows.layer) for plan, end in zip(kinds, ends, strict=True)}
    sources = _sources(kinds)
    steps = _steps(plans, placings, order, np.array([at[id(plan)] for plan in plans]))
    out, starts, own = _merge(sources, steps, ways, DECIMALS)
    x, y, z = (np.ascontiguousarray(out.xyz[:, k]) for k in range(3))
    filament, speed, push = (np.ascontiguousarray(out.figures[:, k]) for k in range(3))
    return Merged(out.source, out.visit, x, y, z, out.feature, filament, speed, push, starts, own)


def different(plans: Sequence[BedPlan]) -> list[BedPlan]:
    """Every plan once, in the order in which `Merged.source` counts their rows."""
    return list({id(plan): plan for plan in plans}.values())


def _sources(kinds: Sequence[BedPlan]) -> Sources:
    courses = [plan.paced.course for plan in kinds]
    return Sources(
        np.concatenate([np.stack([c.x, c.y, c.z], axis=1) for c in courses]),
        np.concatenate([plan.paced.rows.feature for plan in kinds]),
        np.concatenate(
            [
                np.stack([c.e, c.speed, plan.paced.acceleration], axis=1)
                for c, plan in zip(courses, kinds, strict=True)
            ]
        ),
    )


def _steps(
    plans: Sequence[BedPlan], placings: Sequence[Placing], order: Passes, at: np.ndarray
) -> Steps:
    count = len(order.placing)
    rows, habits = np.empty((count, 3), np.int64), np.empty((count, 7))
    place, pushes = np.empty((count, 6)), np.empty(count)
    for k in np.unique(order.placing):
        mine = np.flatnonzero(order.placing == k)
        plan, placing, visits = plans[k], placings[k], plans[k].visits
        own = order.visit[mine]
        rows[mine] = at[k] + np.stack([visits.first, visits.laid, visits.last], axis=1)[own]
        layer, spec = visits.layer[own], plan.spec
        drawn = np.round(plan.drawn[layer], 5)
        habits[mine, 0] = drawn
        habits[mine, 1] = np.round(drawn + plan.extra[layer], 5)
        habits[mine, 2:] = (
            spec.pace.lift,
            *sayable(
                np.array([spec.pace.retraction_speed, spec.pace.travel_speed, rising_speed(spec)])
            ),
            spec.pace.acceleration
            if spec.pace.travel_acceleration is None
            else spec.pace.travel_acceleration,
        )
        pushes[mine] = spec.machine.max_acceleration_e
        origin = np.array(spec.machine.origin)
        place[mine] = (
            *cosine_sine(placing.turn),
            *plan.middle,
            *(origin + (placing.x, placing.y)),
        )
    return Steps(rows, order.placing, place, habits, pushes)


@numba.njit(cache=True, nogil=True)
def _merge(sources, steps, ways, decimals):  # type: ignore[no-untyped-def]
    """Rows (M,), where those of a visit begin, and where its own begin."""
    count, room = len(steps.placing), 1 + len(ways.corners)
    for k in range(count):
        room += 10 + steps.rows[k, 2] - steps.rows[k, 0]
    out = Out(
        np.full(room, -1, np.int64),
        np.full(room, -1, np.int32),
        np.zeros(room, np.uint8),
        np.zeros((room, 3)),
        np.zeros((room, 3)),
    )
    starts, own = np.empty(count + 1, np.int64), np.empty(count, np.int64)
    x, y, z, row = 0.0, 0.0, 0.0, 1
    out.feature[0] = START
    for k in range(count):
        first, laid, last = steps.rows[k]
        starts[k] = row
        begin = first
        if k == 0 or steps.placing[k] != steps.placing[k - 1]:
            begin = laid
            gx, gy = _put(sources.xyz, laid - 1, steps.place[k], decimals)
            row = _cross(out, row, k, steps, ways, (x, y, z), (gx, gy, sources.xyz[laid - 1, 2]))
        own[k] = row
        for r in range(begin, last):
            x, y = _put(sources.xyz, r, steps.place[k], decimals)
            z = sources.xyz[r, 2]
            out.source[row], out.visit[row], out.feature[row] = r, k, sources.feature[r]
            out.xyz[row, 0], out.xyz[row, 1], out.xyz[row, 2] = x, y, z
            out.figures[row] = sources.figures[r]
            row += 1
    starts[count] = row
    done = Out(
        out.source[:row].copy(),
        out.visit[:row].copy(),
        out.feature[:row].copy(),
        out.xyz[:row].copy(),
        out.figures[:row].copy(),
    )
    return done, starts, own


@numba.njit(cache=True, nogil=True)
def _put(xyz, r, place, decimals):  # type: ignore[no-untyped-def]
    """Where a row ends on the bed."""
    dx, dy = xyz[r, 0] - place[2], xyz[r, 1] - place[3]
    return (
        np.round(place[4] + place[0] * dx - place[1] * dy, decimals),
        np.round(place[5] + place[1] * dx + place[0] * dy, decimals),
    )


@numba.njit(cache=True, nogil=True)
def _cross(out, row, k, steps, ways, head, goal):  # type: ignore[no-untyped-def]
    """Rows of the way to a visit from where the head is; returns the next row."""
    (x, y, z), (gx, gy, level) = head, goal
    before = steps.habits[max(k - 1, 0)]
    back = k > 0 and before[0] > 0
    if back:
        row = _row(out, row, k, RETRACTION, (x, y, z), (-before[0], before[3], steps.pull_push[k]))
    habits = steps.habits[k]
    travel, rise = (0.0, habits[4], habits[6]), (0.0, habits[5], habits[6])
    high = max(level, z) + habits[2] if k > 0 else level
    if not np.isnan(ways.over[k]):
        high = max(high, ways.over[k])
    if high != z:
        row = _row(out, row, k, TRAVEL, (x, y, high), rise)
    if ways.pause[k]:
        row = _row(out, row, k, PAUSE, (ways.park[0], ways.park[1], high), travel)
    for c in range(ways.begins[k], ways.begins[k + 1]):
        row = _row(out, row, k, TRAVEL, (ways.corners[c, 0], ways.corners[c, 1], high), travel)
    row = _row(out, row, k, TRAVEL, (gx, gy, high), travel)
    if high != level:
        row = _row(out, row, k, TRAVEL, (gx, gy, level), rise)
    if back:
        given = before[1]
        row = _row(out, row, k, RETRACTION, (gx, gy, level), (given, habits[3], steps.pull_push[k]))
    return row


@numba.njit(cache=True, nogil=True)
def _row(out, row, k, feature, end, figures):  # type: ignore[no-untyped-def]
    """Write a row of a way; returns the next one."""
    out.visit[row], out.feature[row] = k, feature
    out.xyz[row, 0], out.xyz[row, 1], out.xyz[row, 2] = end
    out.figures[row, 0], out.figures[row, 1], out.figures[row, 2] = figures
    return row + 1
