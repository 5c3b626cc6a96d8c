"""Findings about what the paths reach, and how fast."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.finding import Finding, some
from northpace.motion.pace import Timed, safe_flow
from northpace.outlines.polygons import difference, offset
from northpace.outlines.sections import Outlines
from northpace.spec import PlanSpec, resolve_heat


def path_findings(outlines: Outlines, spec: PlanSpec) -> list[Finding]:
    """Places too thin for the bead, layers that start on nothing, and empty layers in between."""
    found: list[Finding] = []
    islands = outlines.islands
    empty = np.flatnonzero(shapely.is_empty(outlines.areas))
    if len(empty):
        z = float(outlines.tops[empty[0]])
        found.append(Finding("empty-layer", "stop", f"{some(len(empty), 'layer has', 'layers have')} no outline, the first at "
                                                    f"{z:.2f} mm: what lies above starts on nothing.", z))
    if spec.body.walls:
        thin = shapely.is_empty(offset(islands.polygons, -spec.body.outer_width / 2))
        if thin.any():
            k = int(np.flatnonzero(thin)[0])
            spot = shapely.point_on_surface(islands.polygons[k])
            z = float(outlines.tops[islands.owner[k]])
            found.append(Finding("too-thin", "look", f"{some(int(thin.sum()), 'outline is', 'outlines are')} narrower than the outer wall "
                                                     f"({spec.body.outer_width:g} mm) and will be missing, the first at {z:.2f} mm.",
                                 z, (float(spot.x), float(spot.y), z)))
    below = np.r_[-1, np.arange(len(outlines.areas) - 1)]
    above = islands.owner > 0
    if above.any():
        floating = np.zeros(len(islands), bool)
        floating[above] = ~shapely.intersects(islands.polygons[above], outlines.areas[below[islands.owner[above]]])
        if floating.any():
            k = int(np.flatnonzero(floating)[0])
            spot, z = shapely.point_on_surface(islands.polygons[k]), float(outlines.tops[islands.owner[k]])
            found.append(Finding("starts-in-air", "stop", f"{some(int(floating.sum()), 'outline starts', 'outlines start')} in mid-air, "
                                                          f"the first at {z:.2f} mm.", z, (float(spot.x), float(spot.y), z)))
    found.extend(_overhang(outlines, spec))
    return found


def _overhang(outlines: Outlines, spec: PlanSpec) -> list[Finding]:
    """The layer that reaches furthest past the one below it, when more than a bead is left hanging."""
    if len(outlines.areas) < 2:
        return []
    bead = max(spec.body.outer_width, 0.1)
    hanging = difference(outlines.areas[1:], offset(outlines.areas[:-1], bead))
    size = shapely.area(hanging)
    if size.max() < bead * bead:
        return []
    k = int(size.argmax())
    spot, z = shapely.point_on_surface(hanging[k]), float(outlines.tops[k + 1])
    return [Finding("hangs", "look", f"{size[k]:.1f} mm² at {z:.2f} mm hang free, more than a bead beyond the layer below "
                                     f"({some(int((size > bead * bead).sum()), 'layer', 'layers')} in all).",
                    z, (float(spot.x), float(spot.y), z))]


def pace_findings(timed: Timed, outlines: Outlines, spec: PlanSpec) -> list[Finding]:
    """Layers slowed for their least time, those still too fast, and speeds held by the flow."""
    found = []
    slowed = np.flatnonzero(timed.slowed < 0.995)
    least = resolve_heat(spec)["least_layer_time"]
    if len(slowed):
        z = float(outlines.tops[slowed[0]])
        found.append(Finding("slowed", "note", f"{some(len(slowed), 'layer', 'layers')} slowed to last {least:g} s, "
                                               f"from {z:.2f} mm on; "
                                               f"the most to {100 * timed.slowed.min():.0f} % of the speed asked for.", z))
    short = np.flatnonzero(timed.layer_seconds < 0.97 * least)
    if len(short):
        k = int(short[np.argmin(timed.layer_seconds[short])])
        found.append(Finding("short-layer", "look", f"{some(len(short), 'layer stays', 'layers stay')} under {least:g} s "
                                                    "even at the floor speed; "
                                                    f"the shortest lasts {timed.layer_seconds[k]:.1f} s at {outlines.tops[k]:.2f} mm.",
                             float(outlines.tops[k])))
    if timed.flow_limited.any():
        found.append(Finding("flow-limit", "note", f"Speeds are held at the safe flow of {safe_flow(spec):.1f} mm³/s in "
                                                   f"{int(timed.flow_limited.sum())} layers."))
    return found
