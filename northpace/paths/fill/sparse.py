"""Infill at a density, whatever its pattern."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import shapely

from northpace.geometry.polygons import (
    Pieces,
    collect,
    difference,
    explode,
    intersection,
    offset,
    only_areas,
)
from northpace.geometry.scanline import Chains, fill_lines
from northpace.infill import PATTERNS
from northpace.infill.lines import JOIN, lines
from northpace.infill.patches import Patches
from northpace.infill.pattern import Lay
from northpace.infill.windowed import lay_windowed, of_all, without
from northpace.moves import INFILL
from northpace.outlines.sections import Outlines
from northpace.paths import ranks
from northpace.paths.bead import spacing, width_for
from northpace.paths.table import PathTable, path_table

INFILL_RANGE = (0.8, 1.25)
#: Polygons looked at to calibrate the density, about.
SAMPLE = 96
#: Lines lie a multiple of 0.01 mm apart, and their lanes are rounded to this share.
PITCH_DIGITS, SHARE = 2, 0.004
#: A narrow patch whose infill is off by more than this share is laid by lines of its own, from this
#: much infill on (mm).
OFF, SHORTEST = 0.05, 1.0
ROUNDS = 5


class Infill(NamedTuple):
    """How infill is laid."""

    #: share of the enclosed volume, 0 to 1
    density: float
    #: name of a pattern
    pattern: str
    #: direction of the first lines in degrees
    angle: float
    #: bead width in mm
    width: float
    #: layers laid at once, where all of them are open
    every: int


class Room(NamedTuple):
    """What infill has to fit in with."""

    #: usual layer height in mm: other heights keep its lanes, so that lines stand on each other
    nominal: float
    #: tallest bead in mm
    tallest: float


class Fit(NamedTuple):
    """What makes lines come to a density."""

    #: mm between them
    pitch: float
    #: of a lane that their beads fill
    share: float


class _Ground(NamedTuple):
    """Where lines are laid, as a pattern has it; columns by piece (P,)."""

    areas: Pieces
    patches: Patches
    layer: np.ndarray
    #: of the bead in mm
    height: np.ndarray
    #: mm³ within the border
    volume: np.ndarray
    #: width of a lane in mm, and what lays the lines
    lane: float
    lay: Lay


def infill_paths(
    areas: Pieces, outlines: Outlines, asked: Infill, room: Room, fit: Fit | None = None
) -> PathTable:
    """Infill in areas (P,) with islands as owners, joins along the walls counted in; ``fit``, where
    it is told from more than these.

    Several layers are laid at once where all of them are open and their heights together stay
    below what a bead of the width and the machine can be tall.
    """
    ground = _ground(areas, outlines, asked, room)
    if ground is None:
        return PathTable.joined([])
    pitch = fit.pitch if fit else _pitch(ground, asked)
    found = _lines(ground, asked, pitch)
    share = fit.share if fit else _share(ground, asked, found)
    beads = width_for(np.full(len(ground.height), ground.lane * share), ground.height)
    return PathTable.joined(
        [_infill(chains, ground.areas, ground.layer, beads, ground.height) for chains in found]
    )


def fit_of(areas: Pieces, outlines: Outlines, asked: Infill, room: Room) -> Fit | None:
    """What makes infill in areas (P,) come to the density, joins counted in."""
    ground = _ground(areas, outlines, asked, room)
    if ground is None:
        return None
    pitch = _pitch(ground, asked)
    return Fit(pitch, _share(ground, asked, _lines(ground, asked, pitch)))


def _ground(areas: Pieces, outlines: Outlines, asked: Infill, room: Room) -> _Ground | None:
    density, pattern, _, width, every = asked
    if density <= 0 or len(areas) == 0:
        return None
    layer = outlines.islands.owner[areas.owner]
    chosen = PATTERNS[pattern]
    if chosen.bears is not None:
        areas = chosen.bears(areas, layer, outlines.heights)
        layer = outlines.islands.owner[areas.owner]
    height = outlines.heights[layer]
    group = 1
    if every > 1:
        areas, height, group = _together(areas, outlines, every, min(room.tallest, width - 1e-6))
        layer = outlines.islands.owner[areas.owner]
    if len(areas) == 0:
        return None
    lane = spacing(width, min(room.nominal * group, room.tallest, 0.95 * width))
    crowded = chosen.straight_from is not None and density >= chosen.straight_from
    # groups of layers turn as single layers do
    patches = Patches(areas.polygons, layer // group, outlines.tops[layer] - height / 2)
    volume = shapely.area(areas.polygons) * height
    return _Ground(areas, patches, layer, height, volume, lane, lines if crowded else chosen.lay)


def _pitch(ground: _Ground, asked: Infill) -> float:
    """Millimetres between lines: joins lay material too, so they are widened until a sample has the
    density asked for.

    Rounded, so that a change somewhere does not move the lines everywhere; the bead holds the rest.
    """
    density, lane, sample = asked.density, ground.lane, _sample(ground.layer)
    some, height = ground.patches.some(sample), ground.height[sample]
    wanted = max(density * float(ground.volume[sample].sum()), 1e-9)
    stretch = 1.0
    for _ in range(ROUNDS):
        found = lay_windowed(ground.lay, some, asked.angle, stretch * lane / density, lane / 2)
        laid = sum(float((chains.length * lane * height).sum()) for chains in found)
        ratio = laid / wanted
        stretch *= float(np.clip(ratio, 0.5, 2.0))
        if abs(ratio - 1) < 0.003:
            break
    return round(stretch * lane / density, PITCH_DIGITS)


def _lines(ground: _Ground, asked: Infill, pitch: float) -> list[Chains]:
    """Lines so many mm apart; across what is too narrow for them, as many as the density asks."""
    patches, lane, angle, density = ground.patches, ground.lane, asked.angle, asked.density
    found = lay_windowed(ground.lay, patches, angle, pitch, lane / 2)
    off = _missed(patches, found, lane, density)
    if not off.any():
        return found
    slim = np.flatnonzero(off)
    across = _across(patches.some(slim), angle, lane, density)
    return [*without(found, off), of_all([(across, slim)], len(patches))]


def _share(ground: _Ground, asked: Infill, found: list[Chains]) -> float:
    """Of a lane that beads fill: lines come in whole numbers, and what that leaves over or short
    goes into the bead.
    """
    laid = sum((chains.length * ground.lane * ground.height).sum() for chains in found)
    ratio = float(laid) / max(asked.density * float(ground.volume.sum()), 1e-9)
    return round(float(np.clip(1 / max(ratio, 1e-9), *INFILL_RANGE)) / SHARE) * SHARE


def _sample(layer: np.ndarray) -> np.ndarray:
    """About `SAMPLE` of the pieces in layers (P,): four layers and then as many left out, again and
    again, so that all turns a pattern takes are among them and a change of some layers leaves the
    others in it.
    """
    apart, block = 1, layer // 4
    while np.count_nonzero(block % apart == 0) > 2 * SAMPLE and apart <= block.max():
        apart *= 2
    return np.flatnonzero(block % apart == 0)


def _missed(patches: Patches, found: list[Chains], lane: float, density: float) -> np.ndarray:
    """Whether a patch (P,) is so narrow that the pattern, as far apart as the density asks, passes
    beside it or meets it too often.
    """
    wanted = density * shapely.area(patches.polygons) / lane
    laid = sum((chains.length for chains in found), np.zeros(len(wanted)))
    far = np.abs(laid - wanted) > OFF * wanted
    off = far & (wanted > SHORTEST)
    off[off] = shapely.is_empty(offset(patches.polygons[off], -lane / density))
    return np.asarray(off)


def _across(patches: Patches, angle: float, lane: float, density: float) -> Chains:
    """Lines across narrow patches, turned from layer to layer, each patch with a spacing of its own
    that comes to the density.
    """
    count = len(patches)
    wanted = density * shapely.area(patches.polygons) / lane
    turn = angle + 90.0 * (patches.layer % 2)
    pitch, inset = np.full(count, lane / density), np.full(count, lane / 2)
    best, least = pitch.copy(), np.full(count, np.inf)
    for _ in range(ROUNDS + 2):
        chains = fill_lines(patches.polygons, turn, pitch, inset, True, JOIN)
        off = np.abs(chains.length - wanted)
        better = off < least
        best[better], least[better] = pitch[better], off[better]
        pitch = pitch * np.clip(chains.length / wanted, 0.5, 1.6)
    return fill_lines(patches.polygons, turn, best, inset, True, JOIN)


def _infill(
    chains: Chains,
    areas: Pieces,
    layer: np.ndarray,
    width: np.ndarray,
    height: np.ndarray,
) -> PathTable:
    of = chains.polygon
    return path_table(
        chains.points,
        chains.starts,
        layer=layer[of],
        island=areas.owner[of],
        rank=ranks.INFILL,
        feature=INFILL,
        width=width[of],
        height=height[of],
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
