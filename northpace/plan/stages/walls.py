"""The walls of a plan: how many, where, what they leave, and what is laid as a spiral."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from northpace.geometry.polygons import Pieces, by_owner, joined
from northpace.geometry.threads import ahead
from northpace.moves import GAP
from northpace.outlines.sections import Outlines
from northpace.paths.apart import Apart
from northpace.paths.fill.by_place import shelled
from northpace.paths.fill.gaps import Gaps, compact, dabs, gap_paths
from northpace.paths.places import Places
from northpace.paths.ranks import BETWEEN
from northpace.paths.spiral.stretches import spirals
from northpace.paths.table import PathTable
from northpace.paths.walls import loops
from northpace.paths.walls.by_region import zones_of
from northpace.paths.walls.loops import Walls, nominal_height, wall_count, wall_counts
from northpace.paths.walls.widen import widen
from northpace.paths.walls.zones import Zones
from northpace.plan.again import by_layers
from northpace.plan.stage import in_parts, stage
from northpace.plan.stages.heights import outlines
from northpace.plan.stages.places import REGIONS
from northpace.plan.stages.portions import (
    NOMINAL,
    layered,
    widths,
)
from northpace.spec import Body, PlanSpec

Turns = tuple[tuple[int, int], ...]
#: What says how many walls there are.
HOW_MANY = ("body.walls", "body.wall_thickness", "body.outer_width", "body.inner_width")

#: Corners of the outlines whose gaps are looked for at once: that takes 1 kB of room for each.
AT_ONCE = 60_000


@stage(
    outlines,
    phase="paths",
    reads=("body.bottom_thickness", "body.bottom_layers"),
    local=("body.build",),
)
def turns(spec: PlanSpec, outlines: Outlines) -> Turns:
    """First layer and end of every stretch that is laid as one spiral."""
    return tuple(spirals(layered(spec, outlines), outlines))


@stage(
    outlines,
    turns,
    phase="paths",
    reads=NOMINAL,
    local=HOW_MANY,
    known_by=lambda counts: counts.tobytes().hex(),
)
def counts(spec: PlanSpec, outlines: Outlines, turns: Turns) -> np.ndarray:
    """(N,) number of walls in every layer; a spiral's wall is not among them."""
    found = wall_counts(layered(spec, outlines), nominal_height(spec.surface, outlines))
    for begin, end in turns:
        found[begin:end] = 0
    return found


@stage(outlines, counts, REGIONS, phase="paths", reads=NOMINAL, local=HOW_MANY)
def zones(spec: PlanSpec, outlines: Outlines, counts: np.ndarray, regions: Places) -> Zones:
    """Where regions ask for another number of walls than the layer has (N,)."""
    height = nominal_height(spec.surface, outlines)
    here = regions.among(spec.body.regions)
    return zones_of(outlines, counts, here, spec, lambda body: wall_count(body, height))


@in_parts(
    outlines,
    counts,
    zones,
    joined=Walls.joined,
    phase="paths",
    reads=("body.first_layer_width", "body.wall_order", "body.thin_beads"),
    local=("body.outer_width", "body.inner_width"),
    again=by_layers(),
)
def walls(spec: PlanSpec, outlines: Outlines, counts: np.ndarray, zones: Zones) -> Iterator[Walls]:
    """Closed beads along the outlines, and what they leave, from the bed up. ``counts`` (N,) is how
    many in each layer.
    """
    asked = loops.Asked(
        counts,
        widths(spec, outlines, "body.outer_width"),
        widths(spec, outlines, "body.inner_width"),
        spec.body.wall_order == "outside-first",
        spec.body.thin_beads,
    )
    return loops.walls_from_the_bed(outlines, asked, zones)


@in_parts(
    outlines,
    walls,
    joined=Gaps.joined,
    phase="paths",
    reads=(
        "body.first_layer_width",
        "body.fill_gaps",
        "body.thin_beads",
        "body.inner_width",
        "body.outer_width",
    ),
    local=("body.solid_width",),
    again=by_layers(),
)
def gaps(spec: PlanSpec, outlines: Outlines, walls: Walls) -> Iterator[Gaps]:
    """Beads of fitting width where walls leave room, and what no bead reaches, from the bed up."""
    width, apart = widths(spec, outlines, "body.solid_width"), Apart.of(outlines)

    def some(window: tuple[int, int]) -> Gaps:
        return _gaps(spec.body, outlines, walls.between(window, apart), width)

    return ahead(some, outlines.windows(AT_ONCE))


def _gaps(body: Body, outlines: Outlines, walls: Walls, width: np.ndarray) -> Gaps:
    between, left = gap_paths(walls.leftover, outlines, width, body.fill_gaps)
    around, left = walls.paths, joined([left, walls.slivers])
    if body.fill_gaps:
        around, left = widen(walls.paths, left, body.inner_width)
    spots, missing = Pieces(left.polygons[:0], left.owner[:0]), walls.missing
    if body.thin_beads:
        spots, missing = compact(walls.missing, body.outer_width)
    between = PathTable.joined([between, dabs(spots, outlines, width, 45.0, BETWEEN, GAP)])
    return Gaps(around, between, by_owner(left), by_owner(missing))


@stage(outlines, turns, phase="paths", local=("body.outer_width",))
def shells(spec: PlanSpec, outlines: Outlines, turns: Turns) -> Outlines | None:
    """Outlines that cover only their wall where a spiral is laid; None where none is."""
    return shelled(outlines, turns, layered(spec, outlines)) if turns else None
