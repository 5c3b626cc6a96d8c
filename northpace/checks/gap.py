"""Gaps between walls that no bead reaches."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, at_places, some
from northpace.checks.narrow import missing_matters, widest, worth_measuring
from northpace.paths.bead import spacing
from northpace.spec.whole import TALLEST


@check(
    "outlines",
    "gaps",
    "counts",
    codes=("gap",),
    reads=(
        *TALLEST,
        "body.build",
        "body.outer_width",
        "body.inner_width",
        "body.fill_gaps",
    ),
)
def gap(facts: Facts) -> list[Finding]:
    outlines, spec = facts.outlines, facts.spec
    if spec.body.build == "spiral":
        return []
    inner, tops = facts.gaps.left, outlines.tops
    layer = outlines.islands.owner[inner.owner]
    size, big, chosen = worth_measuring(inner)
    if len(big) == 0:
        return []
    # lanes of neighbouring beads overlap by the room their round sides leave: what is seen as open
    # is that much less
    side = outlines.heights[layer[chosen]] * (1 - np.pi / 4)
    width = widest(inner.polygons[chosen])
    seen = width - side
    if seen.max() <= 0.01:
        return []
    k = chosen[int(np.argmax(seen))]
    height = float(outlines.heights[layer[k]])
    change: dict[str, float | int | str | bool] = {}
    help = "Turn on 'Fill gaps', or change a wall's width."
    count = int(facts.counts.max(initial=0))
    if count:
        name = "inner_width" if count > 1 else "outer_width"
        lanes = 2 * max(count - 1, 1)
        wider = round(getattr(spec.body, name) + float(width.max()) / lanes, 3)
        if wider <= 1.8 * spec.machine.nozzle and wider > spec.tallest:
            change = {f"body.{name}": wider}
            help = (
                f"{'Inner' if count > 1 else 'Outer'} walls of {wider:g} instead of "
                f"{getattr(spec.body, name):g} mm close it; the part keeps its measures."
            )
    elif not spec.body.fill_gaps:
        change = {"body.fill_gaps": True}
    layers = len(np.unique(layer[big]))
    volume = size * outlines.heights[layer]
    return [
        at_places(
            "gap",
            missing_matters(volume, outlines),
            f"Gaps of up to {seen.max():.2f} mm between walls, widest at {tops[layer[k]]:.2f} mm, "
            f"in {some(layers, 'layer', 'layers')}; {size[big].sum() / layers:.1f} mm² a layer "
            f"(lanes there are {float(spacing(spec.body.inner_width, height)):.3f} mm).",
            inner.polygons[big],
            tops[layer[big]],
            size[big],
            help,
            change,
        )
    ]
