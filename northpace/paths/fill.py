"""Solid fill and infill as paths: lines whose beads hold exactly the volume of the area
they fill.
"""

from __future__ import annotations

import numpy as np
import shapely

from northpace.moves import BRIDGE, GAP, INFILL
from northpace.outlines.polygons import (
    Pieces,
    collect,
    difference,
    explode,
    intersection,
    offset,
    only_areas,
)
from northpace.outlines.sections import Outlines
from northpace.paths.bead import spacing, width_for
from northpace.paths.infill import PATTERNS, STRAIGHT_FROM
from northpace.paths.infill.concentric import loops
from northpace.paths.infill.lines import lines
from northpace.paths.infill.vault import borne
from northpace.paths.patches import Patches
from northpace.paths.rings import ring_paths
from northpace.paths.scanline import Chains, fill_lines
from northpace.paths.skins import Bridges
from northpace.paths.table import PathTable, path_table
from northpace.paths.thin import NARROWEST, thin_paths
from northpace.paths.walls import where_it_fits

#: Joined neighbours may be shifted by this many spacings along the lines.
SOLID_JOIN = 4.0
#: How far solid lines end off the border, in spacings: a little into the wall, whose round side
#: leaves room there.
SOLID_INSET = 0.35
#: How far a bead may leave its nominal lane to hold the volume of its patch.
SOLID_RANGE = (0.93, 1.3)
GAP_RANGE = (0.3, 2.0)
INFILL_RANGE = (0.8, 1.25)
#: Polygons looked at to calibrate the density, and how often.
SAMPLE = 96
ROUNDS = 5


def solid_paths(
    areas: Pieces,
    outlines: Outlines,
    width: np.ndarray,
    angles: tuple[float, ...],
    pattern: str,
    rank: int,
    feature: int,
    cause: np.ndarray,
) -> PathTable:
    """Solid fill of pieces (S,) with beads of ``width`` (N,) mm; lines run in the directions
    ``angles`` (degrees), one layer after the other. Each patch's beads hold its area times the
    layer height. ``cause`` (S,) goes with the paths.
    """
    if len(areas) == 0:
        return PathTable.joined([])
    layer = outlines.islands.owner[areas.owner]
    nominal = float(np.median(width))
    if pattern == "concentric":
        return _inwards(areas, outlines, width, rank, feature, cause)
    core, narrow = where_it_fits(areas.polygons, spacing(width[layer], outlines.heights[layer]))
    turned = np.asarray(angles)[layer % len(angles)]
    pieces = explode(core, 0.01)
    wide = Pieces(pieces.polygons, areas.owner[pieces.owner])
    why = cause[narrow.owner]
    thin = thin_paths(
        Pieces(narrow.polygons, areas.owner[narrow.owner]),
        outlines,
        nominal,
        rank,
        feature,
        cause=why,
    )
    tables = [thin.paths, dabs(thin.left, outlines, width, 45.0, rank, feature, why[thin.left_of])]
    tables.append(
        _lanes(
            wide,
            outlines,
            width,
            turned[pieces.owner],
            rank,
            feature,
            SOLID_RANGE,
            pattern == "one-way",
            cause[pieces.owner],
        )
    )
    return PathTable.joined(tables)


def _inwards(
    areas: Pieces, outlines: Outlines, width: np.ndarray, rank: int, feature: int, cause: np.ndarray
) -> PathTable:
    """Loops from the border inwards until nothing is left; one bead where two do not fit."""
    layer = outlines.islands.owner[areas.owner]
    height = outlines.heights[layer]
    lane = spacing(width[layer], height)
    free, of, tables = areas.polygons, np.arange(len(areas)), []
    while len(free):
        fitting, left = where_it_fits(free, lane[of])
        narrow = Pieces(left.polygons, areas.owner[of[left.owner]])
        why = cause[of[left.owner]]
        thin = thin_paths(narrow, outlines, float(np.median(width)), rank, feature, cause=why)
        tables += [
            thin.paths,
            dabs(thin.left, outlines, width, 45.0, rank, feature, why[thin.left_of]),
        ]
        rings = loops(offset(fitting, -lane[of] / 2))
        mine = of[rings.polygon]
        tables.append(
            path_table(
                rings.points,
                rings.starts,
                layer[mine],
                areas.owner[mine],
                rank,
                feature,
                False,
                width[layer[mine]],
                height[mine],
                cause=cause[mine],
            )
        )
        free = only_areas(offset(fitting, -lane[of]))
        some = ~shapely.is_empty(free)
        free, of = free[some], of[some]
    return PathTable.joined(tables)


def gap_paths(
    areas: Pieces, outlines: Outlines, width: np.ndarray, rank: int, fill: bool
) -> tuple[PathTable, Pieces]:
    """What walls left between them: closed beads in even rings, one bead of fitting width along the
    middle everywhere else; and the gaps that are too narrow for it (all of them, unless ``fill``).
    """
    if not fill or len(areas) == 0:
        return PathTable.joined([]), areas
    nominal = float(np.median(width))
    split = ring_paths(areas, outlines, nominal, rank)
    thin = thin_paths(split.rest, outlines, nominal, rank, GAP)
    spots, left = compact(thin.left, nominal)
    return PathTable.joined(
        [split.paths, thin.paths, dabs(spots, outlines, width, 45.0, rank, GAP)]
    ), left


def compact(pieces: Pieces, nominal: float) -> tuple[Pieces, Pieces]:
    """Pieces that a dab of the nozzle fills, about as wide as they are long, and the others."""
    if len(pieces) == 0:
        return pieces, pieces
    wide = ~shapely.is_empty(offset(pieces.polygons, -0.25 * nominal))
    return Pieces(pieces.polygons[wide], pieces.owner[wide]), Pieces(
        pieces.polygons[~wide], pieces.owner[~wide]
    )


def bridge_paths(
    bridges: Bridges, outlines: Outlines, bead: float, rank: int, cause: np.ndarray
) -> PathTable:
    """Round threads of diameter ``bead`` mm side by side in each bridge's own direction."""
    pieces = bridges.pieces
    if len(pieces) == 0:
        return PathTable.joined([])
    layer = outlines.islands.owner[pieces.owner]
    count = len(pieces)
    chains = fill_lines(
        pieces.polygons,
        bridges.angle,
        np.full(count, bead),
        np.full(count, bead / 4),
        fit=True,
        join=SOLID_JOIN,
    )
    of = chains.polygon
    return path_table(
        chains.points,
        chains.starts,
        layer[of],
        pieces.owner[of],
        rank,
        BRIDGE,
        False,
        bead,
        bead,
        cause=cause[of],
    )


def dabs(
    areas: Pieces,
    outlines: Outlines,
    width: np.ndarray,
    angle: float,
    rank: int,
    feature: int,
    cause: np.ndarray | None = None,
) -> PathTable:
    """Short lines across compact places that have no middle line."""
    if len(areas) == 0:
        return PathTable.joined([])
    return _lanes(
        areas,
        outlines,
        width,
        np.full(len(areas), angle),
        rank,
        feature,
        GAP_RANGE,
        False,
        np.full(len(areas), -1) if cause is None else cause,
    )


def _lanes(
    areas: Pieces,
    outlines: Outlines,
    width: np.ndarray,
    angle: np.ndarray,
    rank: int,
    feature: int,
    allowed: tuple[float, float],
    one_way: bool,
    cause: np.ndarray,
) -> PathTable:
    layer = outlines.islands.owner[areas.owner]
    height = outlines.heights[layer]
    lane = spacing(width[layer], height)
    chains = fill_lines(
        areas.polygons,
        angle,
        lane,
        SOLID_INSET * lane,
        fit=True,
        join=0.0 if one_way else SOLID_JOIN,
    )
    wanted = shapely.area(areas.polygons)
    with np.errstate(divide="ignore", invalid="ignore"):
        balance = np.nan_to_num(wanted / (chains.length * chains.spacing), nan=1.0, posinf=1.0)
    used = chains.spacing * np.clip(balance, *allowed)
    # whatever a small place would need: a nozzle lays no bead beyond these
    bead = np.clip(width_for(used, height), NARROWEST * width[layer], 1.8 * width[layer])
    of = chains.polygon
    return path_table(
        chains.points,
        chains.starts,
        layer[of],
        areas.owner[of],
        rank,
        feature,
        False,
        bead[of],
        height[of],
        fixed=one_way,
        cause=cause[of],
    )


def infill_paths(
    areas: Pieces,
    outlines: Outlines,
    width: float,
    density: float,
    angle: float,
    pattern: str,
    nominal: float,
    rank: int,
    every: int,
    most: float,
) -> PathTable:
    """Infill at a density (share, 0 to 1) of the enclosed volume, joins along the walls counted in.

    ``nominal`` (mm) is the usual layer height; other heights keep its lanes, so that lines stand on
    each other. ``every`` layers are laid at once where all of them are open and their heights
    together stay within ``most`` mm and below the bead's width.
    """
    if density <= 0 or len(areas) == 0:
        return PathTable.joined([])
    layer = outlines.islands.owner[areas.owner]
    if pattern == "vault":
        areas = borne(areas, layer, outlines.heights)
        layer = outlines.islands.owner[areas.owner]
    height = outlines.heights[layer]
    group = 1
    if every > 1:
        areas, height, group = _together(areas, outlines, every, min(most, width - 1e-6))
        layer = outlines.islands.owner[areas.owner]
    if len(areas) == 0:
        return PathTable.joined([])
    lane = spacing(width, min(nominal * group, most, 0.95 * width))
    name = pattern if density < STRAIGHT_FROM.get(pattern, 2.0) else "lines"
    lay = PATTERNS[name] if name != "lines" else lines
    # groups of layers turn as single layers do
    patches = Patches(areas.polygons, layer // group, outlines.tops[layer] - height / 2)
    volume = shapely.area(areas.polygons) * height
    sample = np.unique(np.linspace(0, len(areas) - 1, SAMPLE).astype(np.int64))
    some = patches.some(sample)
    beads = np.array(width_for(np.full(len(areas), lane), height))
    section = lane * height
    # The joins lay material too: widen the spacing until the whole has the density asked for.
    stretch = 1.0
    for _ in range(ROUNDS):
        laid = sum(
            (chains.length * section[sample]).sum()
            for chains in lay(some, angle, stretch * lane / density, lane / 2)
        )
        ratio = float(laid) / max(density * float(volume[sample].sum()), 1e-9)
        stretch *= float(np.clip(ratio, 0.5, 2.0))
        if abs(ratio - 1) < 0.003:
            break
    found = lay(patches, angle, stretch * lane / density, lane / 2)
    # Lines come in whole numbers: what that leaves over or short goes into the bead.
    ratio = float(sum((chains.length * section).sum() for chains in found)) / max(
        density * float(volume.sum()), 1e-9
    )
    beads = np.array(width_for(lane * float(np.clip(1 / max(ratio, 1e-9), *INFILL_RANGE)), height))
    return PathTable.joined(
        [_infill(chains, areas, layer, beads, height, rank) for chains in found]
    )


def _infill(
    chains: Chains,
    areas: Pieces,
    layer: np.ndarray,
    width: np.ndarray,
    height: np.ndarray,
    rank: int,
) -> PathTable:
    of = chains.polygon
    return path_table(
        chains.points,
        chains.starts,
        layer[of],
        areas.owner[of],
        rank,
        INFILL,
        False,
        width[of],
        height[of],
    )


def _together(
    areas: Pieces, outlines: Outlines, every: int, most: float
) -> tuple[Pieces, np.ndarray, int]:
    """Infill pieces with the height each is laid with: runs of layers where all are open as one,
    with the top one; the rest singly.
    """
    count = len(outlines.tops)
    owner = outlines.islands.owner
    by_layer = collect(Pieces(areas.polygons, owner[areas.owner]), count)
    # runs from the bed up: as many layers as asked for and as the bead can be tall
    first = 0
    group = np.zeros(count, np.int64)
    for k in range(count):
        if k > first and (
            k - first >= every or outlines.heights[first : k + 1].sum() > most + 1e-9
        ):
            first = k
        group[k] = first
    run_end = np.searchsorted(group, group, "right") - 1
    common = by_layer.copy()
    heads = np.unique(group)
    for step in range(1, every):
        long = heads[heads + step <= run_end[heads]]
        common[long] = intersection(common[long], by_layer[long + step])
    several = run_end > group
    common = common[group]
    layer = owner[areas.owner]
    shared = areas.polygons.copy()
    index = np.flatnonzero(several[layer])
    shared[index] = intersection(areas.polygons[index], common[layer[index]])
    bead = 0.5 * most
    shared[index] = only_areas(offset(offset(shared[index], -bead), bead))
    own = areas.polygons.copy()
    own[index] = difference(areas.polygons[index], shared[index])
    top = layer == run_end[layer]
    taken = several[layer] & top
    big = explode(shared[taken], 0.05)
    single = explode(own[several[layer]], 0.05)
    plain = ~several[layer]
    pieces = Pieces(
        np.concatenate([areas.polygons[plain], single.polygons, big.polygons]),
        np.concatenate(
            [
                areas.owner[plain],
                areas.owner[several[layer]][single.owner],
                areas.owner[taken][big.owner],
            ]
        ),
    )
    sums = np.add.reduceat(outlines.heights, heads)[np.searchsorted(heads, group)]
    alone = outlines.heights[owner[pieces.owner]]
    tall = np.arange(len(pieces)) >= len(pieces) - len(big)
    return pieces, np.where(tall, sums[owner[pieces.owner]], alone), every
