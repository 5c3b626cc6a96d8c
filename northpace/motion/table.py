"""The pace table: what is asked of every feature, the flow that takes, and what is really
reached.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from northpace.motion.derive import PUSHES, RUNS, reference_height, sections
from northpace.motion.kinematics import limits_of, peaks
from northpace.motion.pace import LIFT_SPEED, Timed
from northpace.motion.speeds import ACCELERATIONS, acceleration_of, safe_flow, short_loops
from northpace.moves import (
    BRIDGE,
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


def pace_rows(spec: PlanSpec, timed: Timed | None = None) -> dict[str, Any]:
    """Rows of the table: speed and acceleration asked for with their settings, section of the bead
    (mm²), flow at the speed (mm³/s), its share of the safe flow, and, from an exact plan, seconds,
    the highest speed really reached, and whether flow or a short layer held it.

    ``first_at_limit`` names the row whose flow comes closest to what is safe, or most above it.
    """
    safe, plain = safe_flow(spec), sections(spec, reference_height(spec))
    measured = _measured(spec, timed) if timed is not None else {}
    rows: list[dict[str, Any]] = []
    for name, key, codes in ROWS:
        found = measured.get(name)
        if name == "short loops" and spec.pace.short_loop <= 0:
            continue
        if found is None and timed is not None and name not in ("first layer", "z", "travel"):
            continue  # the part has none of it
        asked = getattr(spec.pace, key)
        if asked is None:
            asked = min(spec.machine.max_speed_z, LIFT_SPEED)
        section = (
            found["section"]
            if found
            else plain.get(key, plain["outer_wall_speed"] if key == "first_layer_speed" else 0.0)
        )
        code = codes[0] if codes else -1
        push = (
            "first_layer_acceleration"
            if name == "first layer"
            else ""
            if name in ("z", "short loops")
            else ACCELERATIONS.get(code, "acceleration")
        )
        rows.append(
            {
                "name": name,
                "setting": f"pace.{key}",
                "asked": float(asked),
                "acceleration": _push(spec, name, code),
                "push": f"pace.{push}" if push else "",
                "section_mm2": section,
                "flow": section * asked,
                "share": section * asked / safe if section else 0.0,
                "derived": spec.pace.derived
                and key in (*RUNS, "first_layer_speed")
                and key not in spec.pace.by_hand,
                "push_derived": spec.pace.derived
                and push in PUSHES
                and push not in spec.pace.by_hand,
                "reached": found["reached"] if found else None,
                "seconds": found["seconds"] if found else None,
                "held_by": found["held_by"] if found else "",
            }
        )
    laid = [
        row
        for row in rows
        if row["section_mm2"] > 0 and row["name"] not in ("first layer", "short loops")
    ]
    first = max(laid, key=lambda row: row["share"])["name"] if laid else ""
    limit = (
        "nozzle"
        if spec.machine.nozzle_flow
        < float(spec.material.flow_at(resolve_heat(spec)["nozzle_temp"]))
        else "material"
    )
    return {
        "rows": rows,
        "safe_flow": safe,
        "most_flow": safe / (spec.pace.safe_flow / 100),
        "limited_by": limit,
        "temp": resolve_heat(spec)["nozzle_temp"],
        "first_at_limit": first,
    }


def _push(spec: PlanSpec, name: str, code: int) -> float | None:
    if name == "first layer":
        return spec.pace.first_layer_acceleration
    return None if name in ("z", "short loops") else acceleration_of(spec, code)


def _measured(spec: PlanSpec, timed: Timed) -> dict[str, dict[str, Any]]:
    """What the moves of a plan say for every row that has some."""
    moves = timed.moves
    length, laid = moves.lengths(), moves.width > 0
    reached = peaks(
        moves.x,
        moves.y,
        moves.z,
        moves.filament,
        moves.speed,
        moves.acceleration * (spec.machine.acceleration_reached / 100),
        limits_of(spec.machine),
    )
    rises = np.diff(moves.z, prepend=moves.z[:1]) != 0
    loops = short_loops(moves.feature, laid, moves.x, moves.y, spec.pace.short_loop)
    above = moves.layer > 0
    free = np.r_[True, timed.slowed > 0.995][moves.layer + 1]
    out = {}
    for name, key, codes in ROWS:
        if name == "first layer":
            mine = laid & (moves.layer == 0) & (moves.feature != FOOTING)
        else:
            mine = np.isin(moves.feature, codes) & (length > 0)
            if name in ("travel", "z"):
                mine &= rises == (name == "z")
            elif name in ("outer wall", "inner wall"):
                mine &= ~loops
            elif name == "short loops":
                mine &= loops
            if name != "footing" and (mine & above).any():
                mine &= above
        if not mine.any():
            continue
        asked = float(getattr(spec.pace, key) or spec.machine.max_speed_z)
        bound = min(asked, spec.pace.first_layer_speed) if name == "footing" else asked
        best = float(reached[mine].max())
        held = ""
        if bound < asked and best >= REACHED * bound:
            held = "the first layer's speed"
        elif best < REACHED * asked:
            unheld = mine & free
            if not unheld.any():
                held = "the least layer time"
            elif laid[mine].any() and float(moves.speed[unheld].max()) < REACHED * asked:
                held = "the flow"
            else:
                held = (
                    "the axis"
                    if name == "z" and best >= REACHED * spec.machine.max_speed_z
                    else "short moves"
                )
        section = (
            float(np.average(moves.flow[mine] / moves.speed[mine], weights=length[mine]))
            if laid[mine].all()
            else 0.0
        )
        out[name] = {
            "section": section,
            "reached": best,
            "seconds": float(moves.seconds[mine].sum()),
            "held_by": held,
        }
    return out
