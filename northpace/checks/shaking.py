"""Short fast strokes that shake the machine."""

from __future__ import annotations

import numba
import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import (
    MOST_PLACES,
    Finding,
    feature_word,
    some,
)
from northpace.geometry.scanline import grown

#: So many short strokes in a row, each turning back, shake a machine from this frequency (strokes a
#: second) on.
STROKES, SHAKES, SHORT = 24, 12.0, 4.0
#: It matters if it goes on for at least this share of the print.
MUCH = 0.02


@check(
    "outlines",
    "timed",
    codes=("shaking",),
    reads=("machine",),
)
def shaking(facts: Facts) -> list[Finding]:
    outlines, timed, spec = facts.outlines, facts.timed, facts.spec
    moves = timed.moves
    first, strokes, seconds = _runs(moves.x, moves.y, moves.width, moves.seconds)
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
    share = float(seconds[bad].sum() / max(moves.seconds.sum(), 1e-9))
    return [
        Finding(
            "shaking",
            "look" if share >= MUCH else "note",
            f"{some(len(bad), 'place', 'places')} where short fast strokes shake the machine, up "
            f"to {rate[order[0]]:.0f} a second, {seconds[bad].sum():.0f} s in all, mostly "
            f"{feature_word(worst)}.",
            places[0][2],
            places[0],
            "One more or wider wall closes narrow places without zigzag; a lower speed or "
            "acceleration there calms it.",
            places,
            count=len(bad),
        )
    ]


@numba.njit(cache=True, nogil=True)
def _runs(x, y, width, seconds):  # type: ignore[no-untyped-def]
    """(R,) the first move of every run of short strokes, how many strokes it has and how long it
    takes. A stroke goes back against the last but one move, with a short step between.
    """
    runs, used = np.empty((64, 3)), 0
    going = before = False  # whether a run goes on, and whether the move before was a stroke
    old = older = (0.0, 0.0, 0.0)  # dx, dy and length of the move before, and of the one before it
    for m in range(1, len(x)):
        dx, dy = x[m] - x[m - 1], y[m] - y[m - 1]
        length = np.hypot(dx, dy)
        short = width[m] > 0 and length < SHORT
        turned = dx * older[0] + dy * older[1] < -0.8 * length * older[2]
        stroke = short and turned and length > 0
        if stroke or (short and before):
            if not going:
                runs = grown(runs, used + 1)
                runs[used, 0], runs[used, 1:] = m, 0.0
                used += 1
            runs[used - 1, 1] += stroke
            runs[used - 1, 2] += seconds[m]
            going = True
        else:
            going = False
        before = stroke
        older, old = old, (dx, dy, length)
    return runs[:used, 0].astype(np.int64), runs[:used, 1], runs[:used, 2]
