"""Walls: closed beads along every outline, and the border the fill starts at
(`docs/computations.md` §6).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import shapely

from northpace.geometry.polygons import (
    EMPTY,
    NO_PIECES,
    Pieces,
    Rings,
    intersection,
    joined,
    memory,
    offset,
    rings_of,
    union,
)
from northpace.geometry.threads import ahead
from northpace.moves import INNER, OUTER
from northpace.outlines.sections import Outlines
from northpace.paths.apart import Apart, merged_paths, only_paths
from northpace.paths.bead import spacing
from northpace.paths.ranks import of_wall
from northpace.paths.table import PathTable, path_table
from northpace.paths.walls.lanes import one_lane, where_it_fits
from northpace.paths.walls.thin import narrowest, thin_paths
from northpace.paths.walls.zones import Lines, Zones, clipped, kept_in
from northpace.spec import Body, ByLayer, Surface


@dataclass(frozen=True)
class Walls:
    """Wall paths, thin beads among them; per island (I,) the area inside the last wall;
    ``leftover``: what inner walls could not reach; ``slivers``: strips inside the last wall that no
    bead fits into (not in the border); ``missing``: parts too thin for any bead.
    """

    paths: PathTable
    border: np.ndarray
    leftover: Pieces
    slivers: Pieces
    missing: Pieces

    @property
    def nbytes(self) -> int:
        return self.paths.nbytes + memory(self.border)

    def differs(self, other: Walls, apart: Apart) -> np.ndarray:
        """(N,) whether they differ in a layer."""
        out = apart.paths(self.paths, other.paths) | apart.islands(self.border, other.border)
        for one, two in (
            (self.leftover, other.leftover),
            (self.slivers, other.slivers),
            (self.missing, other.missing),
        ):
            out = out | apart.pieces(one, two)
        return np.asarray(out)

    def only(self, layers: np.ndarray, apart: Apart) -> Walls:
        """Those of the layers (N,) that are wanted."""
        return Walls(
            only_paths(self.paths, layers),
            apart.only_islands(self.border, layers),
            apart.only(self.leftover, layers),
            apart.only(self.slivers, layers),
            apart.only(self.missing, layers),
        )

    def merged(self, new: Walls, layers: np.ndarray, apart: Apart) -> Walls:
        """New ones in the layers (N,), these elsewhere."""
        return Walls(
            merged_paths(self.paths, new.paths, layers),
            np.where(layers[apart.owner], new.border, self.border),
            apart.merged(self.leftover, new.leftover, layers),
            apart.merged(self.slivers, new.slivers, layers),
            apart.merged(self.missing, new.missing, layers),
        )

    def between(self, window: tuple[int, int], apart: Apart) -> Walls:
        """Those of a window of layers, first and end."""
        layers = np.zeros(apart.count, bool)
        layers[slice(*window)] = True
        return self if layers.all() else self.only(layers, apart)

    def counted_from(self, first: int) -> Walls:
        """The same walls, their islands counted from another number."""
        return Walls(
            self.paths.counted_from(first),
            self.border,
            self.leftover.counted_from(first),
            self.slivers.counted_from(first),
            self.missing.counted_from(first),
        )

    @staticmethod
    def joined(parts: list[Walls]) -> Walls:
        """The walls of islands that follow each other."""
        if len(parts) == 1:
            return parts[0]
        return Walls(
            PathTable.joined([part.paths for part in parts]),
            np.concatenate([part.border for part in parts]),
            joined([part.leftover for part in parts]),
            joined([part.slivers for part in parts]),
            joined([part.missing for part in parts]),
        )


def nominal_height(surface: Surface, outlines: Outlines) -> float:
    """The usual layer height in mm: what was asked for, or the middle of those chosen."""
    if surface.kind == "even" and not surface.stack:
        return surface.layer_height
    return float(np.median(outlines.heights))


def wall_counts(local: ByLayer, height: float) -> np.ndarray:
    """(N,) number of walls in every layer, at a usual layer height in mm."""
    if not local.varies(
        "body.walls", "body.wall_thickness", "body.outer_width", "body.inner_width"
    ):
        return np.full(local.count, wall_count(local.spec.body, height))
    out = np.zeros(local.count, np.int64)
    for layers, spec in local.variants():
        out[layers] = wall_count(spec.body, height)
    return out


def wall_count(body: Body, height: float) -> int:
    """Number of walls: as asked, or as many as come nearest to the thickness asked for, at a layer
    height in mm.
    """
    if body.wall_thickness is None:
        return body.walls
    if body.wall_thickness <= 0:
        return 0
    return max(
        1, 1 + round((body.wall_thickness - body.outer_width) / spacing(body.inner_width, height))
    )


def wall_thickness(body: Body, count: int, height: float) -> float:
    """Thickness in mm of a number of walls at a layer height in mm."""
    return body.outer_width + (count - 1) * spacing(body.inner_width, height) if count else 0.0


def widths_by_layer(widths: np.ndarray, first: float | None) -> np.ndarray:
    """(N,) bead width in mm of a feature: the first layer's own on the first, if it has one."""
    out = np.array(widths, float)
    if first is not None:
        out[0] = first
    return out


class Asked(NamedTuple):
    """The walls that are asked for."""

    #: (N,) number of walls
    counts: np.ndarray
    #: (N,) bead width in mm of the outer wall and of the others
    outer: np.ndarray
    inner: np.ndarray
    #: whether the outer wall is laid first
    outside_first: bool
    #: whether thin parts of the outline get one bead of fitting width
    fit_thin: bool


def walls_from_the_bed(outlines: Outlines, asked: Asked, zones: Zones) -> Iterator[Walls]:
    """`walls`, some layers at a time; put together they are the walls of the part."""

    def some(window: tuple[int, int]) -> Walls:
        here, begin = outlines.within(*window)
        mine = zones.within(begin, begin + len(here.islands))
        return walls(here, asked, mine).counted_from(begin)

    return ahead(some, outlines.windows())


def walls(outlines: Outlines, asked: Asked, zones: Zones) -> Walls:
    """Lay the walls of every island.

    The centre line of wall 0 lies half its width inside the outline, each next one (s_k +
    s_{k+1})/2 further, s being the spacing of a wall's own width; the border of the fill lies half
    a spacing inside the last centre line. Where two sides of a wall would share a lane it is left
    out: thin parts of the outline get one bead of fitting width, what inner walls leave is reported
    for the fill. In ``zones`` walls beyond those asked for there end at the border.
    """
    layer, free = outlines.islands.owner, outlines.islands.polygons
    height = outlines.heights[layer]
    tables, leftovers, missing = [], [], NO_PIECES
    wanted = asked.counts[layer]
    count = max(int(asked.counts.max(initial=0)), zones.most)
    behind = (asked.outer - spacing(asked.outer, outlines.heights))[layer] / 2
    behind[(wanted == 0) & ~zones.varied] = 0.0
    if count and zones.varied.any():
        free = offset(free, np.where(zones.varied, -behind, 0.0))
        behind[zones.varied] = 0.0
    done = np.full(len(free), EMPTY, object)
    for k in range(count):
        free = _finish(done, free, wanted, k, zones)
        width = (asked.inner if k else asked.outer)[layer]
        lane = spacing(width, height)
        rank = of_wall(k, asked.outside_first)
        room = one_lane(free, lane, 0.0 if k else behind)
        laid = zones.beyond(k) if zones.areas else free
        if k == 0:
            usual = float(np.median(asked.outer))
            thin = thin_paths(room.left, outlines, usual, rank, OUTER, asked.fit_thin)
            tables.append(thin.paths)
            missing = thin.left
        else:
            leftovers.append(kept_in(room.left, laid, zones.varied))
        lines = _lines(rings_of(room.middle), laid, zones.varied)
        of = lines.island
        tables.append(
            path_table(
                lines.points,
                lines.starts,
                layer=layer[of],
                island=of,
                rank=rank,
                feature=INNER if k else OUTER,
                closed=lines.closed,
                width=width[of],
                height=height[of],
            )
        )
        free = room.inside
    slivers = NO_PIECES
    if count:
        without = np.flatnonzero((wanted == 0) & ~zones.varied)
        bare = done[without]
        free = _finish(done, free, wanted, count, zones)
        done[without] = EMPTY
        narrow = narrowest(asked.inner[layer], height) / 2
        free, slivers = where_it_fits(done, narrow, 1.0, 0.0)
        free[without] = bare
    return Walls(PathTable.joined(tables), free, joined(leftovers), slivers, missing)


def _finish(
    done: np.ndarray, free: np.ndarray, wanted: np.ndarray, count: int, zones: Zones
) -> np.ndarray:
    """Give the fill, in place, what is inside of the walls where so many are wanted: islands as a
    whole, and the zones of others. Returns what is still free for walls, a new array, because the
    free areas are those of the outlines at first.
    """
    full = np.flatnonzero((wanted == count) & ~zones.varied)
    done[full] = free[full]
    free = free.copy()
    free[full] = EMPTY
    if count in zones.areas:
        area = zones.areas[count]
        some = np.flatnonzero(~shapely.is_empty(area))
        done[some] = union(done[some], intersection(free[some], area[some]))
    return free


def _lines(rings: Rings, laid: np.ndarray, varied: np.ndarray) -> Lines:
    """Walls as closed lines, those of varied islands (I,) only within areas (I,)."""
    mine = varied[rings.owner]
    whole = Lines(rings.points, rings.starts, rings.owner, np.ones(len(rings.owner), bool))
    if not mine.any():
        return whole
    return Lines.joined(whole.some(~mine), clipped(rings.some(mine), laid))
