"""What stands under and around the part: supports and footing."""

from __future__ import annotations

import numpy as np

from northpace.heights.surface import Facets
from northpace.outlines.sections import Outlines
from northpace.part.place import Placed
from northpace.paths import footing as footings
from northpace.paths.footing import Foot
from northpace.paths.places import Places
from northpace.paths.supports.overhangs import Leaning, overhangs
from northpace.paths.supports.stands import Stands, no_stands
from northpace.paths.supports.stands import stands as build_stands
from northpace.plan.stage import stage
from northpace.plan.stages.heights import outlines
from northpace.plan.stages.places import REGIONS
from northpace.plan.stages.portions import (
    saying,
)
from northpace.plan.stages.shape import facets, placed
from northpace.spec import PlanSpec
from northpace.spec.portion import View


@stage(outlines, placed, phase="paths", reads=("supports.angle",))
def leaning(spec: PlanSpec, outlines: Outlines, placed: Placed) -> Leaning:
    """What leans out further than it carries itself, for supports and for what is said of it."""
    return overhangs(outlines, placed, spec.supports.angle)


#: Middles (K, 3) and areas (K,) of the facets that are seen.
Seen = tuple[np.ndarray, np.ndarray]


def _any_seen(spec: PlanSpec) -> bool:
    return "seen" in [
        *(mark.attention for mark in spec.surface.marks),
        *(region.attention for region in spec.body.regions),
    ]


@stage(
    facets.where(_any_seen, None),
    phase="paths",
    reads=("surface.marks", saying("attention")),
)
def seen(spec: PlanSpec, facets: Facets | None) -> Seen | None:
    """What of the surface is marked as seen; None where nothing is."""
    if facets is None:
        return None
    chosen = facets.weights > 1
    middles = facets.vertices[facets.faces[chosen]].mean(axis=1)
    return middles, facets.areas[chosen]


def _held(spec: PlanSpec) -> bool:
    return spec.supports.stands or any(region.support == "ask" for region in spec.body.regions)


@stage(
    outlines,
    placed.where(_held, None),
    leaning.where(_held, None),
    seen.where(_held, None),
    REGIONS,
    phase="paths",
    reads=lambda spec: (
        ("supports", saying("support"))
        if _held(spec)
        else (
            *("supports.enabled", "supports.marks", "supports.decided"),
            View("body.regions", lambda regions: ()),
        )
    ),
)
def stands(
    spec: PlanSpec,
    outlines: Outlines,
    placed: Placed | None,
    leaning: Leaning | None,
    seen: Seen | None,
    regions: Places,
) -> Stands:
    """Supports, where they are asked for."""
    if placed is None or leaning is None:
        return no_stands(len(outlines.tops))
    here = regions.among(spec.body.regions)
    ask, forbid = here.areas("support", "ask"), here.areas("support", "forbid")
    return build_stands(outlines, placed, leaning, spec.supports, seen, ask, forbid)


@stage(
    outlines,
    stands,
    phase="paths",
    reads=("footing", "machine.nozzle", "machine.greatest_height", "machine.z_step"),
)
def footing(spec: PlanSpec, outlines: Outlines, stands: Stands) -> Foot:
    """Skirt, brim and raft."""
    held = stands.areas[0] if len(stands.at) else None
    return footings.footing(outlines, spec.footing, spec.machine, held)
