"""What lies inside the walls: solid layers and why they are, infill."""

from __future__ import annotations

from typing import Any

import numpy as np

from northpace.geometry.polygons import collect
from northpace.moves import SOLID, TOP
from northpace.outlines.sections import Outlines
from northpace.paths import ranks
from northpace.paths.fill import skins as faces
from northpace.paths.fill.areas import FillAreas, SkinRules
from northpace.paths.fill.bridges import bridge_paths
from northpace.paths.fill.by_place import (
    DENSITY,
    INFILL_SETTINGS,
    PATTERN_SETTINGS,
    SKIN_SETTINGS,
    alike,
    by_pattern,
    laid_density,
    local_infill,
    split_areas,
)
from northpace.paths.fill.by_place import skin_rules as rules_by_layer
from northpace.paths.fill.shown import shown
from northpace.paths.fill.skins import Skins, among
from northpace.paths.fill.solid import SolidLines, solid_paths
from northpace.paths.fill.voids import Voids, with_floors
from northpace.paths.fill.voids import voids as voids_of
from northpace.paths.fill.why import Why, reasons
from northpace.paths.places import Places
from northpace.paths.supports.stands import Stands
from northpace.paths.table import PathTable
from northpace.paths.walls.loops import Walls
from northpace.paths.walls.spans import bridge_bead
from northpace.plan.again import by_layers
from northpace.plan.stage import Names, stage
from northpace.plan.stages.heights import outlines
from northpace.plan.stages.places import REGIONS
from northpace.plan.stages.portions import (
    NOMINAL,
    changing,
    layered,
    widths,
)
from northpace.plan.stages.supports import stands
from northpace.plan.stages.walls import Turns, shells, turns, walls
from northpace.spec import PlanSpec


@stage(
    outlines,
    turns,
    phase="paths",
    local=(DENSITY, "body.build"),
    known_by=lambda full: full.tolist(),
)
def full(spec: PlanSpec, outlines: Outlines, turns: Turns) -> np.ndarray:
    """(N,) whether a layer is solid throughout."""
    return np.asarray(laid_density(layered(spec, outlines), turns) >= 100)


@stage(outlines, turns, full, phase="paths", reads=("body.floor_every",), local=SKIN_SETTINGS)
def skin_rules(spec: PlanSpec, outlines: Outlines, turns: Turns, full: np.ndarray) -> SkinRules:
    """What is solid in every layer, and why. ``full`` (N,) are layers that are filled whole."""
    return rules_by_layer(layered(spec, outlines), turns, outlines, full)


def _of_areas(spec: PlanSpec) -> Names:
    names: Names = (
        *("body.tie_length", "body.caught_infill", "body.caught_height", "body.patches"),
        *("body.solid_width", "body.build", changing(*SKIN_SETTINGS, DENSITY)),
    )
    if spec.body.caught_infill == "keep":
        return names
    names = (*names, "body.infill_width")
    if spec.body.caught_infill != "when-quicker":
        return names
    return (*names, DENSITY, "pace.infill_speed", "pace.solid_speed", "pace.acceleration")


def _split_alone(spec: PlanSpec, values: tuple[Any, ...]) -> bool:
    """Whether what is solid in a layer depends on the infill of no other."""
    body = spec.body
    return body.caught_infill == "keep" and all(patch.keep for patch in body.patches)


@stage(
    outlines,
    shells,
    walls,
    skin_rules,
    REGIONS,
    phase="paths",
    reads=_of_areas,
    again=by_layers(alone=_split_alone),
)
def split(
    spec: PlanSpec,
    outlines: Outlines,
    shells: Outlines | None,
    walls: Walls,
    rules: SkinRules,
    regions: Places,
) -> FillAreas:
    """Where solid fill and where infill goes, by what lies open above and below."""
    here = regions.among(spec.body.regions)
    return split_areas(shells or outlines, walls.border, spec, here, rules)


@stage(
    outlines,
    split,
    turns,
    REGIONS,
    phase="paths",
    local=(DENSITY, "body.build", "body.infill_width"),
    known_by=lambda found: found.digest(),
)
def voids(
    spec: PlanSpec, outlines: Outlines, split: FillAreas, turns: Turns, regions: Places
) -> Voids:
    """Where nothing, or next to nothing, lies inside the walls."""
    here = regions.among(spec.body.regions)
    return voids_of(split, outlines, layered(spec, outlines), here, turns)


@stage(outlines, split, voids, skin_rules, phase="paths", reads=("body.tie_length",))
def areas(
    spec: PlanSpec, outlines: Outlines, split: FillAreas, voids: Voids, rules: SkinRules
) -> FillAreas:
    """Where solid fill and where infill goes, with floors under infill that begins over a void."""
    return with_floors(split, outlines, voids.empty, rules, spec.body.tie_length)


@stage(
    outlines,
    shells,
    areas,
    voids,
    stands,
    phase="paths",
    reads=("body.solid_width", "body.tie_length"),
    # a bottom depends on what the layer below leaves open
    again=by_layers(reach=1),
)
def skins(
    spec: PlanSpec,
    outlines: Outlines,
    shells: Outlines | None,
    areas: FillAreas,
    voids: Voids,
    stands: Stands,
) -> Skins:
    """Which solid areas show, which bridge, and which lie inside."""
    body, held = spec.body, stands.held if len(stands.at) else None
    return faces.skins(
        areas.solid, shells or outlines, body.solid_width, body.tie_length, held, voids.open
    )


@stage(outlines, shells, areas, voids, skin_rules, phase="paths")
def why(
    spec: PlanSpec,
    outlines: Outlines,
    shells: Outlines | None,
    areas: FillAreas,
    voids: Voids,
    rules: SkinRules,
) -> Why:
    """Why every solid patch is solid."""
    return reasons(areas, shells or outlines, rules, voids.empty)


@stage(
    outlines,
    skins,
    REGIONS,
    phase="paths",
    reads=(
        "body.solid_angles",
        "body.bridge_width",
        "body.first_layer_width",
        "machine.nozzle",
    ),
    local=("body.solid_width", "body.top_width", *PATTERN_SETTINGS),
    again=by_layers(),
)
def lines(spec: PlanSpec, outlines: Outlines, skins: Skins, regions: Places) -> SolidLines:
    """Lines of solid layers, tops and bridges, with the solid piece each belongs to."""
    body, local = spec.body, layered(spec, outlines)
    here = regions.among(spec.body.regions)
    bridge = bridge_bead(body, spec.machine)
    inner = widths(spec, outlines, "body.solid_width")
    top = widths(spec, outlines, "body.top_width", "body.solid_width")
    tables = [bridge_paths(skins.bridges, outlines, bridge, skins.bridges_of)]
    # where a top meets what is solid beside it, lines go on across: turns of both at the border
    # would lay too much there
    layer = outlines.islands.owner
    across = alike(local, here, PATTERN_SETTINGS, "lines") & (inner == top)
    over = across[layer[skins.both.owner]]
    both, of = skins.both.some(over), skins.both_of[over]
    going_on = solid_paths(
        both, outlines, inner, body.solid_angles, "lines", ranks.SOLID, SOLID, of
    )
    tops = collect(skins.tops, len(layer))
    tables.append(shown(going_on, tops, float(np.median(inner))))
    for pieces, of, width, name, order, feature in (
        (skins.inner, skins.inner_of, inner, "body.solid_pattern", ranks.SOLID, SOLID),
        (skins.tops, skins.tops_of, top, "body.top_pattern", ranks.TOP, TOP),
    ):
        at = layer[pieces.owner]
        alone = ~(across[at] & among(at, of, layer[skins.both.owner], skins.both_of))
        cause = of[alone]
        for some, whose, pattern in by_pattern(pieces.some(alone), outlines, local, here, name):
            tables.append(
                solid_paths(
                    some, outlines, width, body.solid_angles, pattern, order, feature, cause[whose]
                )
            )
    return SolidLines(PathTable.joined(tables))


@stage(outlines, areas, lines, why, phase="paths")
def solid(
    spec: PlanSpec, outlines: Outlines, areas: FillAreas, lines: SolidLines, why: Why
) -> PathTable:
    """Lines of solid layers, tops and bridges, and why they are there."""
    return lines.caused(outlines.islands.owner[areas.solid.owner], why.of)


@stage(
    outlines,
    turns,
    areas,
    REGIONS,
    phase="paths",
    reads=(*NOMINAL, "machine.nozzle", "machine.greatest_height"),
    local=INFILL_SETTINGS,
)
def infill(
    spec: PlanSpec,
    outlines: Outlines,
    turns: Turns,
    areas: FillAreas,
    regions: Places,
) -> PathTable:
    """Infill, with the pattern and density that hold in every layer and region."""
    here = regions.among(spec.body.regions)
    return local_infill(areas.sparse, outlines, layered(spec, outlines), here, turns)
