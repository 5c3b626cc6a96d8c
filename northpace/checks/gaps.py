"""Findings about what no bead reaches, and about gaps so narrow that beads on both sides fuse."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.finding import Finding, at_places, some
from northpace.outlines.polygons import Pieces, difference, explode, offset
from northpace.outlines.sections import Outlines
from northpace.outlines.stacks import stacked
from northpace.paths.bead import spacing
from northpace.paths.build import Built
from northpace.spec import PlanSpec

#: Beads closer to each other than this share of a bead's width fuse.
FUSE = 0.5
#: Most pieces whose width is measured.
MEASURED = 60
#: Gaps of less than this area (mm²) in a layer are the grain of corners.
LEAST = 0.05


def gap_findings(outlines: Outlines, built: Built, spec: PlanSpec) -> list[Finding]:
    """Gaps between walls with their width, parts too thin for any bead, and gaps that
    would fuse.
    """
    return [
        *_gaps(outlines, built, spec),
        *_missing(outlines, built, spec),
        *_fusing(outlines, spec),
    ]


def widest(polygons: np.ndarray) -> np.ndarray:
    """(P,) greatest width of areas in mm: the diameter of the largest circle inside."""
    return 2 * shapely.length(shapely.maximum_inscribed_circle(polygons, 0.004))


def _worth_measuring(pieces: Pieces) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Area (P,) of every piece in mm², the index of those that count, and of those the largest, one
    of each size: of equal pieces, as in every layer of an upright slot, one is measured.
    """
    size = shapely.area(pieces.polygons)
    big = np.flatnonzero(size > LEAST)
    key, place = np.unique(np.round(size[big], 4), return_index=True)
    return size, big, big[place[np.argsort(-key)[:MEASURED]]]


def _gaps(outlines: Outlines, built: Built, spec: PlanSpec) -> list[Finding]:
    inner, tops = built.between, outlines.tops
    layer = outlines.islands.owner[inner.owner]
    size, big, chosen = _worth_measuring(inner)
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
    count = built.count
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
    return [
        at_places(
            "gap",
            "look",
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


def _missing(outlines: Outlines, built: Built, spec: PlanSpec) -> list[Finding]:
    lost, tops = built.missing, outlines.tops
    layer = outlines.islands.owner[lost.owner]
    _, big, chosen = _worth_measuring(lost)
    if len(big) == 0:
        return []
    width = widest(lost.polygons[chosen]) + outlines.heights[layer[chosen]] * (1 - np.pi / 4)
    least = 0.6 * spec.body.outer_width
    fit = "" if spec.body.thin_beads else " 'Fit thin parts' lays one bead in most of them."
    return [
        at_places(
            "too-thin",
            "look",
            f"{some(len(big), 'place is', 'places are')} too thin for any bead and will be "
            f"missing: up to {width.max():.2f} mm, and a bead needs {least:.2f}. The first at "
            f"{tops[layer[big]].min():.2f} mm.",
            lost.polygons[big],
            tops[layer[big]],
            None,
            "Narrower outer walls, a smaller nozzle, or a thicker part." + fit,
            {} if spec.body.thin_beads else {"body.thin_beads": True},
        )
    ]


def _fusing(outlines: Outlines, spec: PlanSpec) -> list[Finding]:
    """Gaps in the outline narrower than half a bead: between bodies that should move, and within
    one.
    """
    tolerance = FUSE * spec.body.outer_width
    islands, tops = outlines.islands, outlines.tops
    closed = offset(offset(outlines.coarse, tolerance / 2), -tolerance / 2)
    index = np.flatnonzero(shapely.area(closed) - shapely.area(outlines.coarse) > LEAST)
    if len(index) == 0:
        return []
    slots = explode(
        offset(offset(difference(closed[index], outlines.areas[index]), -0.02), 0.02), LEAST
    )
    slots = Pieces(slots.polygons, index[slots.owner])
    if len(slots) == 0:
        return []
    _, body = stacked(islands.polygons, islands.owner)
    moving = np.zeros(len(slots), bool)
    # every slot touches one island or several; several bodies mean that something was meant to move
    near = offset(slots.polygons, 0.05)
    for k in np.unique(slots.owner):
        mine, here = np.flatnonzero(slots.owner == k), np.flatnonzero(islands.owner == k)
        for m in mine:
            touched = here[shapely.intersects(islands.polygons[here], near[m])]
            moving[m] = len(np.unique(body[touched])) > 1
    found = []
    for chosen, code, severity, what, help in (
        (
            moving,
            "fuses",
            "look",
            "between bodies that are apart",
            "Leave more room between them, or take it off with a negative outline offset.",
        ),
        (
            ~moving,
            "narrow-slot",
            "note",
            "in the outline",
            "They close while printing; widen them, or fill them in the part.",
        ),
    ):
        if not chosen.any():
            continue
        width = widest(slots.polygons[chosen][:200])
        found.append(
            at_places(
                code,
                severity,
                f"Gaps {what} are narrower than {tolerance:.2f} mm, down to {width.min():.2f} mm, "
                f"in {some(len(np.unique(slots.owner[chosen])), 'layer', 'layers')}: beads on "
                "both sides fuse.",
                slots.polygons[chosen],
                tops[slots.owner[chosen]],
                None,
                help,
            )
        )
    return found
