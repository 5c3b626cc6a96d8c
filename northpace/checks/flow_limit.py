"""Features whose speed asks for more than the safe flow."""

from __future__ import annotations

import numba
import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import (
    Finding,
    feature_word,
    minutes,
    some,
)
from northpace.motion.speeds import SPEEDS, safe_flow, speed_of
from northpace.moves import FEATURES
from northpace.paths.bead import compiled_area

#: It is said only if it costs at least so many seconds and this share of the time: a few beads that
#: are wider than the others for a moment cost nothing.
LEAST_LOST, LEAST_SHARE = 5.0, 0.002


@check(
    "outlines",
    "timed",
    codes=("flow-limit",),
    reads=(
        "pace",
        "air",
        "material",
        "machine",
    ),
)
def flow_limit(facts: Facts) -> list[Finding]:
    outlines, timed, spec = facts.outlines, facts.timed, facts.spec
    if not timed.flow_limited.any():
        return []
    moves, safe = timed.moves, safe_flow(spec)
    widest = _largest(moves.layer, moves.feature, moves.width, moves.height, len(FEATURES))
    asked = np.zeros(len(FEATURES))
    for code in SPEEDS:
        asked[code] = widest[code] * spec.material.flow / 100 * speed_of(spec, code)
    over = np.flatnonzero(asked > safe + 1e-6)
    if len(over) == 0:
        over = np.array([int(np.argmax(asked))])
    speeds = np.array(
        [speed_of(spec, code) if code in SPEEDS else 0.0 for code in range(len(FEATURES))]
    )
    most = safe / (spec.material.flow / 100)
    lost = _lost(
        moves.layer, moves.feature, moves.lengths(), moves.width, moves.height, speeds, most
    )
    if lost < max(LEAST_LOST, LEAST_SHARE * float(moves.seconds.sum())):
        return []
    worst = int(over[np.argmax(asked[over])])
    names = ", ".join(
        f"{feature_word(int(k))} {asked[k]:.1f}" for k in over[np.argsort(-asked[over])]
    )
    z = float(outlines.tops[int(np.argmax(timed.flow_limited))])
    name = f"pace.{SPEEDS[worst]}"
    slower = np.floor(speed_of(spec, worst) * safe / asked[worst] * 10) / 10
    return [
        Finding(
            "flow-limit",
            "note",
            f"Asked flow is above the safe {safe:.1f} mm³/s, at most by "
            f"{100 * (asked[worst] / safe - 1):.0f} %: {names} mm³/s. "
            f"Speeds are held in {some(int(timed.flow_limited.sum()), 'layer', 'layers')}, which "
            f"takes {minutes(lost)} more.",
            z,
            help=f"{feature_word(worst).capitalize()} at {slower:g} mm/s or a narrower bead asks "
            "for no more; a wider nozzle melts more.",
            change={name: float(slower)} if slower >= 1 else {},
        )
    ]


@numba.njit(cache=True, nogil=True)
def _largest(layer, feature, width, height, features):  # type: ignore[no-untyped-def]
    """(F,) largest section in mm² of the beads of each feature above the first layer."""
    out = np.zeros(features)
    for m in range(len(layer)):
        if layer[m] > 0 and width[m] > 0:
            section = compiled_area(np.float64(width[m]), np.float64(height[m]))
            out[feature[m]] = max(out[feature[m]], section)
    return out


@numba.njit(cache=True, nogil=True)
def _lost(layer, feature, length, width, height, speed, most):  # type: ignore[no-untyped-def]
    """By how many seconds beads above the first layer take longer than at the ``speed`` (F,) asked
    of their feature, because the nozzle lays at most ``most`` mm³/s.
    """
    lost = 0.0
    for m in range(len(layer)):
        asked = speed[feature[m]]
        if layer[m] > 0 and width[m] > 0 and asked > 0:
            held = most / compiled_area(np.float64(width[m]), np.float64(height[m]))
            if held < asked:
                lost += length[m] * (1 / held - 1 / asked)
    return lost
