"""Footing: priming loops, brim and raft."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely

from northpace.geometry.polygons import (
    EMPTY,
    difference,
    offset,
    rings_of,
    rounded,
    together,
    union,
)
from northpace.geometry.scanline import fill_lines
from northpace.moves import FOOTING
from northpace.outlines.sections import Outlines
from northpace.paths.bead import area, spacing, width_for
from northpace.paths.table import PathTable, path_table
from northpace.spec import Footing, Machine

#: Most loops that a priming volume may ask for.
MOST_LOOPS = 50
#: Share of its area that the lowest raft layer lays, so that it comes off the bed.
RAFT_BASE = 0.6


@dataclass(frozen=True)
class Foot:
    """Paths of the footing; ``lift`` (mm) by which a raft raises the part; ``loops`` laid around
    it; ``area`` (mm²) on the bed.
    """

    paths: PathTable
    lift: float
    loops: int
    area: float

    @property
    def nbytes(self) -> int:
        return self.paths.nbytes


def footing(
    outlines: Outlines, foot: Footing, machine: Machine, also: shapely.Geometry | None = None
) -> Foot:
    """All footing of a part; ``also`` is what supports lay on the bed."""
    ground = outlines.areas[0] if also is None else union(outlines.areas[0], also)
    if shapely.is_empty(ground):
        return Foot(PathTable.joined([]), 0.0, 0, 0.0)
    raft, lift = (
        _raft(ground, outlines, foot, machine) if foot.raft_layers else (PathTable.joined([]), 0.0)
    )
    brim = (
        PathTable.joined([])
        if foot.raft_layers
        else _brim(ground, float(outlines.heights[0]), foot)
    )
    standing = (
        offset(np.array([ground], object), max(foot.raft_margin, 0.0))[0]
        if foot.raft_layers
        else ground
    )
    out = foot.brim_reach if len(brim) and foot.brim_where != "holes" else 0.0
    loops, count = loops_around(standing, out, outlines.heights, foot, lift)
    covered = (
        shapely.area(standing)
        if foot.raft_layers
        else shapely.area(ground)
        + float((brim.lengths() * spacing(foot.skirt_width, float(outlines.heights[0]))).sum())
    )
    return Foot(PathTable.joined([loops, raft, brim]), lift, count, float(covered))


def extent_of(foot: Footing) -> float:
    """How far the footing reaches beyond the part in mm, as far as that is known before it
    is cut.
    """
    around = (
        foot.raft_margin
        if foot.raft_layers
        else foot.brim_reach
        if foot.brim_where != "holes"
        else 0.0
    )
    loops = foot.skirt_distance + foot.skirt_width * foot.skirt_loops if foot.skirt_loops else 0.0
    return around + loops


def raft_height(machine: Machine, width: float) -> float:
    """Height of a raft layer in mm: as tall as nozzle and bead allow."""
    return float(np.floor(min(machine.h_max, 0.7 * width) / machine.z_step + 1e-9) * machine.z_step)


def lift_of(foot: Footing, machine: Machine) -> float:
    """How far a raft raises the part in mm."""
    return (
        foot.raft_layers * raft_height(machine, foot.skirt_width) + foot.raft_gap
        if foot.raft_layers
        else 0.0
    )


def loops_around(
    ground: shapely.Geometry,
    out: float,
    heights: np.ndarray,
    foot: Footing,
    lift: float = 0.0,
    barred: shapely.Geometry = EMPTY,
) -> tuple[PathTable, int]:
    """Lay loops around the hull of what stands on the bed, and say how many there are. The
    outermost is laid first.

    The innermost bead lies ``out`` mm and the priming distance off the hull. ``heights`` (N,) are
    those of the layers in mm. Loops keep out of what is ``barred``; if they have no room between it
    and what stands on the bed there are none.
    """
    height, width = float(heights[0]), foot.skirt_width
    hull = shapely.convex_hull(ground)
    away = out + foot.skirt_distance + width / 2
    count = _loop_count(float(shapely.length(hull)), away, height, foot)
    if count == 0:
        return PathTable.joined([]), 0
    tables = []
    by = away + np.arange(count)[::-1] * spacing(width, height)
    around = shapely.simplify(rounded(hull, by, 16), 0.01)
    if shapely.intersects(shapely.boundary(around), rounded(barred, width)).any():
        around = _past_the_barred(around, barred, ground, width)
        if shapely.is_empty(around).any():
            return PathTable.joined([]), 0
    rings = rings_of(around)
    for layer, tall, z in _loop_layers(heights, foot, lift):
        tables.append(
            path_table(
                rings.points,
                rings.starts,
                layer=layer,
                rank=np.arange(count),
                feature=FOOTING,
                closed=True,
                # a bead is never narrower than it is tall
                width=max(width, tall),
                height=tall,
                z=z,
            )
        )
    return PathTable.joined(tables), count


def _loop_count(length: float, away: float, height: float, foot: Footing) -> int:
    """How many loops are laid around a hull whose border is ``length`` mm long, the innermost
    ``away`` mm off it, in a first layer of ``height`` mm.
    """
    if foot.prime_volume <= 0:
        return foot.skirt_loops
    # a loop is as long as the hull grown to it: its length grows by 2π for every mm
    width = foot.skirt_width
    lengths = length + 2 * np.pi * (away + np.arange(MOST_LOOPS) * spacing(width, height))
    laid = np.cumsum(lengths * area(width, height))
    return min(int(np.searchsorted(laid, foot.prime_volume)) + 1, MOST_LOOPS)


def room_for_loops(length: float, height: float, foot: Footing) -> tuple[float, float]:
    """How many mm have to stay free so that loops fit: between what stands on the bed and the edge
    of the bed, and between it and a place that loops must not enter. ``length`` is that of the hull
    of what stands, ``height`` that of the first layer, in mm.
    """
    width = foot.skirt_width
    away = foot.skirt_distance + width / 2
    count = _loop_count(length, away, height, foot)
    if count == 0:
        return 0.0, 0.0
    return away + (count - 1) * spacing(width, height) + width / 2 + 0.1, (count + 1) * width + 0.1


def _past_the_barred(
    around: np.ndarray, barred: shapely.Geometry, ground: shapely.Geometry, width: float
) -> np.ndarray:
    """Cut the barred places out of the areas (L,) that the loops run around, so that every loop
    makes its own way around those places and no two loops meet. An area comes back empty if its
    loop would then touch what stands on the bed.
    """
    away = (1.0 + np.arange(len(around)))[::-1] * width
    out = difference(around, rounded(np.full(len(around), barred, object), away))
    near = rounded(ground, width)
    for k, inside in enumerate(out):
        whole = [part for part in shapely.get_parts(inside) if shapely.covers(part, near)]
        out[k] = shapely.polygons(shapely.get_exterior_ring(whole[0])) if whole else EMPTY
    return out


def _loop_layers(
    heights: np.ndarray, foot: Footing, lift: float
) -> Iterator[tuple[int, float, float]]:
    """For every layer of loops: the layer of the plan that it is laid with, its height in mm, and
    its top in mm above the underside of the part, or NaN where that is the top of the plan's layer.

    Each layer stands on the one before it. Beside a raft they are as tall as the raft's layers, and
    above it as tall as the part's. The first of those fills the gap between raft and part, too.
    """
    left, below = foot.skirt_height, lift
    if lift > 0:
        tall = (lift - foot.raft_gap) / foot.raft_layers
        for _ in range(min(left, foot.raft_layers)):
            below -= tall
            yield 0, tall, -below
        left -= foot.raft_layers
    for layer in range(min(left, len(heights))):
        yield layer, float(heights[layer]) + below, np.nan
        below = 0.0


def _brim(ground: shapely.Geometry, height: float, foot: Footing) -> PathTable:
    """Beads around the first layer, outside, in its holes, or both, the nearest laid last."""
    lane = spacing(foot.skirt_width, height)
    count = int(np.floor((foot.brim_reach - foot.brim_clearance) / lane + 1e-9))
    if foot.brim_reach <= 0 or count < 1:
        return PathTable.joined([])
    parts = shapely.get_parts(ground)
    solid = together(shapely.polygons(shapely.get_exterior_ring(parts)))
    holes = difference(solid, ground)
    centre = foot.brim_clearance + lane / 2 + np.arange(count)[::-1] * lane
    tables = []
    if foot.brim_where != "holes":
        outer = rounded(solid, centre, 8)
        rings = rings_of(shapely.simplify(outer, 0.01))
        tables.append(
            path_table(
                rings.points,
                rings.starts,
                layer=0,
                rank=MOST_LOOPS + rings.owner,
                feature=FOOTING,
                closed=True,
                width=foot.skirt_width,
                height=height,
            )
        )
    if foot.brim_where != "outside" and not shapely.is_empty(holes):
        inner = rounded(holes, -centre, 8)
        rings = rings_of(shapely.simplify(inner, 0.01))
        tables.append(
            path_table(
                rings.points,
                rings.starts,
                layer=0,
                rank=MOST_LOOPS + rings.owner,
                feature=FOOTING,
                closed=True,
                width=foot.skirt_width,
                height=height,
            )
        )
    return PathTable.joined(tables)


def _raft(
    ground: shapely.Geometry, outlines: Outlines, foot: Footing, machine: Machine
) -> tuple[PathTable, float]:
    """Layers of lines below the part, crossing from layer to layer: the lowest spaced apart, the
    others solid.
    """
    width = foot.skirt_width
    tall = raft_height(machine, width)
    lift = lift_of(foot, machine)
    base = shapely.get_parts(rounded(ground, foot.raft_margin, 8))
    count = len(base)
    tables = []
    for k in range(foot.raft_layers):
        lane = spacing(width, tall)
        pitch = lane / (RAFT_BASE if k == 0 else 1.0)
        chains = fill_lines(
            base,
            np.full(count, 90.0 * (k % 2)),
            np.full(count, pitch),
            np.full(count, lane / 2),
            True,
            4.0,
        )
        bead = np.asarray(
            width_for(chains.spacing * (RAFT_BASE if k == 0 else 1.0), np.full(count, tall))
        )
        tables.append(
            path_table(
                chains.points,
                chains.starts,
                layer=0,
                rank=2 * MOST_LOOPS + k,
                feature=FOOTING,
                width=bead[chains.polygon],
                height=tall,
                z=(k + 1) * tall - lift,
            )
        )
    return PathTable.joined(tables), lift
