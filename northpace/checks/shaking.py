"""Short fast strokes that shake the machine."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import (
    MOST_PLACES,
    Finding,
    feature_word,
    some,
)

#: So many short strokes in a row, each turning back, shake a machine from this frequency (strokes a
#: second) on.
STROKES, SHAKES, SHORT = 24, 12.0, 4.0


@check(
    "outlines",
    "timed",
    codes=("shaking",),
    reads=("machine",),
)
def shaking(facts: Facts) -> list[Finding]:
    outlines, timed, spec = facts.outlines, facts.timed, facts.spec
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
            f"{feature_word(worst)}.",
            places[0][2],
            places[0],
            "One more or wider wall closes narrow places without zigzag; a lower speed or "
            "acceleration there calms it.",
            places,
        )
    ]
