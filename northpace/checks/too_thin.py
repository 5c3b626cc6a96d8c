"""Places too thin for any bead."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding, at_places, cubic_mm, some
from northpace.checks.narrow import missing_matters, whole_of, widest, worth_measuring


@check(
    "outlines",
    "gaps",
    codes=("too-thin",),
    reads=(
        "body.build",
        "body.outer_width",
        "body.thin_beads",
    ),
)
def too_thin(facts: Facts) -> list[Finding]:
    outlines, spec = facts.outlines, facts.spec
    if spec.body.build == "spiral":
        return []
    lost, tops = facts.gaps.missing, outlines.tops
    layer = outlines.islands.owner[lost.owner]
    _, big, chosen = worth_measuring(lost)
    if len(big) == 0:
        return []
    width = widest(lost.polygons[chosen]) + outlines.heights[layer[chosen]] * (1 - np.pi / 4)
    least = 0.6 * spec.body.outer_width
    # what is wide enough is too short, or its beads would lie over each other
    short = bool((width >= least).any()) and spec.body.thin_beads
    narrow = "thin or too short" if short else "thin"
    fit = "" if spec.body.thin_beads else " 'Fit thin parts' lays one bead in most of them."
    volume = shapely.area(lost.polygons) * outlines.heights[layer]
    share = float(volume.sum()) / max(whole_of(outlines), 1e-9)
    return [
        at_places(
            "too-thin",
            missing_matters(volume, outlines),
            f"{some(len(big), 'place is', 'places are')} too {narrow} for any bead and will be "
            f"missing, {cubic_mm(volume.sum())} or {100 * share:.2g} % of the part: up to "
            f"{_below(width.max(), least)} mm wide, and a bead needs {least:.2f}"
            f"{' and some way to run' if short else ''}. The first at "
            f"{tops[layer[big]].min():.2f} mm.",
            lost.polygons[big],
            tops[layer[big]],
            volume[big],
            "Narrower outer walls, a smaller nozzle, or a thicker part." + fit,
            {} if spec.body.thin_beads else {"body.thin_beads": True},
        )
    ]


def _below(width: float, least: float) -> str:
    """A width with as many digits as it takes to show that it is less than what is needed."""
    digits = next((n for n in (2, 3, 4) if f"{width:.{n}f}" != f"{least:.{n}f}"), 4)
    return f"{width:.{digits}f}"
