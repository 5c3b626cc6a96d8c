"""The pace table: what is asked of every feature, the flow that takes, and what is really
reached.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np

from northpace.figures import Pace, PaceRow
from northpace.motion.dial import dial_figures
from northpace.motion.from_limits import PUSHES, RUNS, reference_height, sections
from northpace.motion.kinds import Kinds, kinds_of
from northpace.motion.pace import Timed
from northpace.motion.speeds import ACCELERATIONS, acceleration_of, safe_flow
from northpace.moves import (
    BRIDGE,
    FEATURES,
    FOOTING,
    GAP,
    INFILL,
    INNER,
    OUTER,
    ROOF,
    SOLID,
    SUPPORT,
    TOP,
    TRAVEL,
)
from northpace.spec import PlanSpec, resolve_heat

#: A speed counts as reached within this share of it.
REACHED = 0.97
#: Rows in the order a maker reads them: what it is called, its speed's setting, the features it
#: stands for.
ROWS: tuple[tuple[str, str, tuple[int, ...]], ...] = (
    ("outer wall", "outer_wall_speed", (OUTER,)),
    ("inner wall", "inner_wall_speed", (INNER,)),
    ("short loops", "short_loop_speed", (OUTER, INNER)),
    ("solid", "solid_speed", (SOLID,)),
    ("top", "top_speed", (TOP,)),
    ("infill", "infill_speed", (INFILL,)),
    ("thin fill", "gap_speed", (GAP,)),
    ("bridge", "bridge_speed", (BRIDGE,)),
    ("support", "support_speed", (SUPPORT, ROOF)),
    ("first layer", "first_layer_speed", ()),
    ("footing", "footing_speed", (FOOTING,)),
    ("travel", "travel_speed", (TRAVEL,)),
    ("z", "z_speed", (TRAVEL,)),
)
#: Rows whose features are another row's too.
SHARED = ("short loops", "z")
#: Rows that are there whatever the part has.
ALWAYS = ("first layer", "z", "travel")


class Measured(NamedTuple):
    """What the moves of an exact plan say for a row."""

    #: mean section of the beads in mm², 0 for moves that lay nothing
    section: float
    #: highest speed really reached in mm/s
    reached: float
    seconds: float
    #: what kept it below what was asked for, "" where nothing did
    held_by: str


def pace_rows(
    spec: PlanSpec, timed: Timed | None = None, seconds: Mapping[str, float] | None = None
) -> Pace:
    """Rows of the table: speed and acceleration asked for with their settings, section of the bead
    (mm²), flow at the speed (mm³/s), its share of the safe flow, and, from an exact plan, seconds,
    the highest speed really reached, and whether flow or a short layer held it.

    ``seconds`` by feature stand where nothing is measured yet.

    ``first_at_limit`` names the row whose flow comes closest to what is safe, or most above it.
    """
    plain = sections(spec, reference_height(spec))
    measured = _measured(spec, timed) if timed is not None else {}
    rows: list[PaceRow] = []
    for name, key, codes in ROWS:
        if name == "short loops" and spec.pace.short_loop <= 0:
            continue
        if timed is not None and name not in measured and name not in ALWAYS:
            continue  # the part has none of it
        usual = plain["outer_wall_speed"] if key == "first_layer_speed" else 0.0
        rows.append(
            _row(
                spec,
                name,
                key,
                codes[0] if codes else -1,
                measured.get(name),
                plain.get(key, usual),
            )
        )
    laid = [
        row
        for row in rows
        if row["section_mm2"] > 0 and row["name"] not in ("first layer", "short loops")
    ]
    safe, temp = safe_flow(spec), resolve_heat(spec)["nozzle_temp"]
    by_nozzle = spec.machine.nozzle_flow < float(spec.material.flow_at(temp))
    for row in rows if timed is None else ():
        row["seconds"] = _estimated(row["name"], seconds or {})
    return {
        "rows": rows,
        "safe_flow": safe,
        "most_flow": safe / (spec.pace.safe_flow / 100),
        "limited_by": "nozzle" if by_nozzle else "material",
        "temp": temp,
        "first_at_limit": max(laid, key=lambda row: row["share"])["name"] if laid else "",
        "dial": dial_figures(spec),
    }


def _estimated(name: str, seconds: Mapping[str, float]) -> float | None:
    """Seconds of a row by those of its features; None where they are not told apart from another
    row's.
    """
    own = next(codes for row, _, codes in ROWS if row == name)
    found = [seconds[FEATURES[code]] for code in own if FEATURES[code] in seconds]
    return sum(found) if found and name not in SHARED else None


def _row(
    spec: PlanSpec, name: str, key: str, code: int, found: Measured | None, plain: float
) -> PaceRow:
    """A row: ``code`` of its first feature, ``plain`` section (mm²) where none was measured."""
    pace, asked = spec.pace, getattr(spec.pace, key)
    if asked is None:
        asked = spec.machine.max_speed_z
    section = found.section if found else plain
    if name == "first layer":
        push, acceleration = "first_layer_acceleration", pace.first_layer_acceleration
    elif name in ("z", "short loops"):
        push, acceleration = "", None
    else:
        push = ACCELERATIONS.get(code, "acceleration")
        acceleration = acceleration_of(spec, code)
    follows = key in (*RUNS, "first_layer_speed") and key not in pace.by_hand
    return {
        "name": name,
        "setting": f"pace.{key}",
        "asked": float(asked),
        "acceleration": acceleration,
        "push": f"pace.{push}" if push else "",
        "section_mm2": section,
        "flow": section * asked,
        "share": section * asked / safe_flow(spec) if section else 0.0,
        "derived": pace.follows and follows,
        "push_derived": pace.follows and push in PUSHES and push not in pace.by_hand,
        "reached": found.reached if found else None,
        "seconds": found.seconds if found else None,
        "held_by": found.held_by if found else "",
    }


def _measured(spec: PlanSpec, timed: Timed) -> dict[str, Measured]:
    """What the moves of a plan say for every row that has some."""
    kinds, out = kinds_of(spec, timed), {}
    for name, key, codes in ROWS:
        mine = _kinds_of(name, codes, kinds)
        if not len(mine.moves):
            continue
        asked = float(getattr(spec.pace, key) or spec.machine.max_speed_z)
        best, section = float(mine.reached.max()), 0.0
        if not mine.bare.any():
            section = float(mine.volume.sum() / mine.length.sum())
        held = _held_by(spec, name, asked, best, mine)
        out[name] = Measured(section, best, float(mine.seconds.sum()), held)
    return out


def _kinds_of(name: str, codes: tuple[int, ...], kinds: Kinds) -> Kinds:
    """The kinds a row stands for; those above the first layer where there are any."""
    there = kinds.moves > 0
    if name == "first layer":
        lays = (kinds.bare < kinds.moves) & (kinds.feature != FOOTING)
        return kinds.some(there & lays & (kinds.level == 1))
    mine = there & np.isin(kinds.feature, codes)
    if name in ("travel", "z"):
        mine &= kinds.rises == (name == "z")
    elif name in ("outer wall", "inner wall", "short loops"):
        mine &= kinds.short == (name == "short loops")
    above = mine & (kinds.level == 2)
    return kinds.some(above if name != "footing" and above.any() else mine)


def _held_by(spec: PlanSpec, name: str, asked: float, best: float, mine: Kinds) -> str:
    """What kept a row at ``best`` of the ``asked`` mm/s."""
    first = spec.pace.first_layer_speed
    if name == "footing" and first < asked and best >= REACHED * first:
        return "the first layer's speed"
    if best >= REACHED * asked:
        return ""
    if not mine.unheld.any():
        return "the least layer time"
    if mine.laying.any() and float(mine.asked.max()) < REACHED * asked:
        return "the flow"
    if name == "z" and best >= REACHED * spec.machine.max_speed_z:
        return "the axis"
    return "short moves"
