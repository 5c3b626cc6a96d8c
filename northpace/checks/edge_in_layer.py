"""Bands with an edge inside a layer."""

from __future__ import annotations

import numpy as np

from northpace.checks.check import check
from northpace.checks.facts import Facts
from northpace.checks.finding import Finding


@check(
    "outlines",
    codes=("edge-in-layer",),
    reads=(
        "surface.bands",
        "machine.z_step",
    ),
)
def edge_in_layer(facts: Facts) -> list[Finding]:
    outlines, spec = facts.outlines, facts.spec
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
        return [
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
        ]
    return []
