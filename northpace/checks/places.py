"""Findings about bands and regions: what changes nothing, and edges no layer could meet."""

from __future__ import annotations

import numpy as np
import shapely

from northpace.checks.finding import Finding
from northpace.outlines.sections import Outlines
from northpace.paths.places import Places
from northpace.spec import PlanSpec


def place_findings(places: Places, outlines: Outlines, spec: PlanSpec) -> list[Finding]:
    """Regions that do not reach into the part; bands with an edge inside a layer."""
    found = []
    outside = [
        region.title
        for region, areas in zip(places.regions, places.sections, strict=True)
        if not shapely.intersects(areas, outlines.areas).any()
    ]
    if outside:
        lies, changes = ("lies", "changes") if len(outside) == 1 else ("lie", "change")
        found.append(
            Finding(
                "region-outside",
                "look",
                f"{'; '.join(outside)} {lies} outside the part and {changes} nothing.",
                help="Move it, or choose its face again; the stage shows where it is.",
            )
        )
    borders = np.r_[0.0, outlines.tops]
    half = spec.machine.z_step / 2 + 1e-9
    missed = [
        (band, edge)
        for band in spec.surface.bands
        if band.says_something
        for edge in (band.from_mm, band.to_mm)
        if edge < borders[-1] and np.abs(borders - edge).min() > half
    ]
    if missed:
        band, edge = missed[0]
        found.append(
            Finding(
                "edge-in-layer",
                "note",
                f"{band.title} has an edge at {edge:g} mm, inside a layer: the layer whose middle "
                "lies in the band belongs to it."
                + (f" So do {len(missed) - 1} more edges." if len(missed) > 1 else ""),
                edge,
                None,
                "The heights asked for do not divide the band; an edge at a layer, or "
                "another height in it, makes it exact.",
            )
        )
    return found
