"""Findings about speed: flow, speeds that are never reached, layers too quick to cool, zigzags that
shake the machine.
"""

from __future__ import annotations

import numpy as np

from northpace.checks.finding import MOST_PLACES, Finding, some
from northpace.motion.pace import SPEEDS, Timed, safe_flow, speed_of
from northpace.motion.table import pace_rows
from northpace.moves import FEATURES
from northpace.outlines.sections import Outlines
from northpace.paths.bead import area
from northpace.spec import PlanSpec, resolve_heat

#: A speed counts as never reached when no move comes within this share of it.
REACHED = 0.9
#: So many short strokes in a row, each turning back, shake a machine from this frequency (strokes a
#: second) on.
STROKES, SHAKES, SHORT = 24, 12.0, 4.0


def pace_findings(timed: Timed, outlines: Outlines, spec: PlanSpec) -> list[Finding]:
    """Everything the motion of a plan shows."""
    return [
        *_layer_times(timed, outlines, spec),
        *_flow(timed, outlines, spec),
        *_never(timed, spec),
        *_zigzags(timed, outlines, spec),
    ]


def _layer_times(timed: Timed, outlines: Outlines, spec: PlanSpec) -> list[Finding]:
    found = []
    slowed = np.flatnonzero(timed.slowed < 0.995)
    least = resolve_heat(spec)["least_layer_time"]
    if len(slowed):
        z = float(outlines.tops[slowed[0]])
        found.append(
            Finding(
                "slowed",
                "note",
                f"{some(len(slowed), 'layer', 'layers')} slowed to last {least:g} s, from {z:.2f} "
                f"mm on; the most to {100 * timed.slowed.min():.0f} % of the speed asked for.",
                z,
                help="Make several at once, or accept a shorter layer time with more fan.",
            )
        )
    short = np.flatnonzero(timed.layer_seconds < 0.97 * least)
    if len(short):
        k = int(short[np.argmin(timed.layer_seconds[short])])
        found.append(
            Finding(
                "short-layer",
                "look",
                f"{some(len(short), 'layer stays', 'layers stay')} under {least:g} s even at the "
                f"floor speed; the shortest lasts {timed.layer_seconds[k]:.1f} s at "
                f"{outlines.tops[k]:.2f} mm.",
                float(outlines.tops[k]),
                help="Lower the floor speed, or make several at once.",
            )
        )
    return found


def _flow(timed: Timed, outlines: Outlines, spec: PlanSpec) -> list[Finding]:
    """Features whose speed asks for more than the safe flow, and by how much."""
    if not timed.flow_limited.any():
        return []
    moves, safe = timed.moves, safe_flow(spec)
    laid = moves.width > 0
    section = (
        area(moves.width[laid].astype(np.float64), moves.height[laid].astype(np.float64))
        * spec.material.flow
        / 100
    )
    asked = np.zeros(len(FEATURES))
    for code in SPEEDS:
        mine = (moves.feature[laid] == code) & (moves.layer[laid] > 0)
        if mine.any():
            asked[code] = float(section[mine].max()) * speed_of(spec, code)
    over = np.flatnonzero(asked > safe + 1e-6)
    if len(over) == 0:
        over = np.array([int(np.argmax(asked))])
    worst = int(over[np.argmax(asked[over])])
    names = ", ".join(f"{_word(int(k))} {asked[k]:.1f}" for k in over[np.argsort(-asked[over])])
    z = float(outlines.tops[int(np.argmax(timed.flow_limited))])
    name = f"pace.{SPEEDS[worst]}"
    slower = np.floor(speed_of(spec, worst) * safe / asked[worst] * 10) / 10
    return [
        Finding(
            "flow-limit",
            "note",
            f"Asked flow is above the safe {safe:.1f} mm³/s, at most by "
            f"{100 * (asked[worst] / safe - 1):.0f} %: {names} mm³/s. "
            f"Speeds are held in {some(int(timed.flow_limited.sum()), 'layer', 'layers')}.",
            z,
            help=f"{_word(worst).capitalize()} at {slower:g} mm/s or a narrower bead asks for "
            "no more; a wider nozzle melts more.",
            change={name: float(slower)} if slower >= 1 else {},
        )
    ]


def _never(timed: Timed, spec: PlanSpec) -> list[Finding]:
    """Speeds that no move of their feature comes near, because its moves are too short."""
    out = [
        (row["name"], row["asked"], row["reached"])
        for row in pace_rows(spec, timed)["rows"]
        if row["held_by"] == "short moves"
        and row["reached"] < REACHED * row["asked"]
        and row["name"] not in ("first layer", "z")
    ]
    if not out:
        return []
    text = "; ".join(
        f"{name} asks for {asked:g} and reaches {reached:.0f} mm/s" for name, asked, reached in out
    )
    return [
        Finding(
            "never-reached",
            "note",
            f"Speeds that are never reached on this part: {text}. Its moves are too short for "
            "the acceleration.",
            help="A lower speed takes no longer and runs calmer; more acceleration would "
            "shorten the time.",
        )
    ]


def _zigzags(timed: Timed, outlines: Outlines, spec: PlanSpec) -> list[Finding]:
    moves = timed.moves
    laid = moves.width > 0
    dx, dy = np.diff(moves.x, prepend=moves.x[:1]), np.diff(moves.y, prepend=moves.y[:1])
    length = np.hypot(dx, dy)
    # a stroke goes back against the last but one move, with a short step between
    back = np.zeros(len(moves.x), bool)
    back[2:] = dx[2:] * dx[:-2] + dy[2:] * dy[:-2] < -0.8 * length[2:] * length[:-2]
    stroke = back & laid & (length < SHORT) & (length > 0)
    run = stroke.copy()
    run[1:] |= stroke[:-1] & laid[1:] & (length[1:] < SHORT)
    edge = np.flatnonzero(np.diff(np.r_[False, run, False].astype(np.int8)))
    first, last = edge[::2], edge[1::2]
    total, count = np.r_[0.0, np.cumsum(moves.seconds)], np.r_[0, np.cumsum(stroke)]
    strokes, seconds = count[last] - count[first], total[last] - total[first]
    rate = strokes / np.maximum(seconds, 1e-9)
    bad = np.flatnonzero((strokes >= STROKES) & (rate > SHAKES))
    if len(bad) == 0:
        return []
    order = bad[np.argsort(-rate[bad])][:MOST_PLACES]
    origin = spec.machine.origin
    where = first[order]
    places = tuple(
        (
            round(float(moves.x[k] - origin[0]), 3),
            round(float(moves.y[k] - origin[1]), 3),
            float(outlines.tops[max(moves.layer[k], 0)]),
        )
        for k in where
    )
    worst = int(moves.feature[where[0]])
    return [
        Finding(
            "shaking",
            "look",
            f"{some(len(bad), 'place', 'places')} where short fast strokes shake the machine, up "
            f"to {rate[order[0]]:.0f} a second, {seconds[bad].sum():.0f} s in all, mostly "
            f"{_word(worst)}.",
            places[0][2],
            places[0],
            "One more or wider wall closes narrow places without zigzag; a lower speed or "
            "acceleration there calms it.",
            places,
        )
    ]


def _word(code: int) -> str:
    return FEATURES[code].replace("-", " ")
