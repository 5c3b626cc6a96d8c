"""What of the solid areas shows as a top, and what spans open air as a bridge
(`docs/computations.md` §5).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from northpace.geometry.polygons import (
    EMPTY,
    Pieces,
    collect,
    difference,
    explode,
    intersection,
    offset,
    rounded,
    union,
    within,
)
from northpace.outlines.sections import Outlines
from northpace.paths.apart import Apart

#: Directions looked at for a bridge, in degrees apart, and lines across it.
DIRECTIONS, LINES = 15.0, 24
#: A patch is a bridge when at least this share of its length is held at both ends.
HELD = 0.6


@dataclass(frozen=True)
class Bridges:
    """Bridging patches with the piece (B,) of solid each is part of: direction (B,) degrees, span
    (B,) mm, and what hangs free (B,) of each without what it holds on to.
    """

    pieces: Pieces
    angle: np.ndarray
    span: np.ndarray
    free: np.ndarray


@dataclass(frozen=True)
class Skins:
    """Solid pieces (islands as owners) by what they are; ``open_below``: bottoms over open air that
    no bridge spans (piece, area).
    """

    #: what lies inside, with the piece (P,) of solid each is part of, by its number in its layer
    inner: Pieces
    inner_of: np.ndarray
    #: what shows
    tops: Pieces
    tops_of: np.ndarray
    #: pieces that show in part, whole: an inner and a top that meet
    both: Pieces
    both_of: np.ndarray
    #: what spans open air
    bridges: Bridges
    bridges_of: np.ndarray
    #: bottoms over open air that no bridge spans
    open_below: Pieces

    @property
    def nbytes(self) -> int:
        return sum(
            pieces.nbytes for pieces in (self.inner, self.tops, self.both, self.bridges.pieces)
        )

    def differs(self, other: Skins, apart: Apart) -> np.ndarray:
        """(N,) whether they differ in a layer."""
        out = np.zeros(apart.count, bool)
        for one, two in zip(self._parts, other._parts, strict=True):
            out |= apart.columns(one, two)
        return out

    def only(self, layers: np.ndarray, apart: Apart) -> Skins:
        """Those of the layers (N,) that are wanted."""
        return _of_parts([apart.only_columns(part, layers) for part in self._parts])

    def merged(self, new: Skins, layers: np.ndarray, apart: Apart) -> Skins:
        """New ones in the layers (N,), these elsewhere."""
        return _of_parts(
            [
                apart.merged_columns(old, own, layers)
                for old, own in zip(self._parts, new._parts, strict=True)
            ]
        )

    @property
    def _parts(self) -> list[tuple[Pieces, tuple[np.ndarray, ...]]]:
        bridges = self.bridges
        return [
            (self.inner, (self.inner_of,)),
            (self.tops, (self.tops_of,)),
            (self.both, (self.both_of,)),
            (bridges.pieces, (bridges.angle, bridges.span, bridges.free, self.bridges_of)),
            (self.open_below, ()),
        ]


def _of_parts(parts: list[tuple[Pieces, tuple[np.ndarray, ...]]]) -> Skins:
    inner, tops, both, (pieces, (*rest, bridges_of)), (open_below, _) = parts
    return Skins(
        *(inner[0], inner[1][0], tops[0], tops[1][0], both[0], both[1][0]),
        Bridges(pieces, *rest),
        bridges_of,
        open_below,
    )


def numbers(layer: np.ndarray) -> np.ndarray:
    """(S,) numbers of pieces, counted from 0 in the layer (S,) of each."""
    order = np.argsort(layer, kind="stable")
    first = np.searchsorted(layer[order], layer[order])
    out = np.empty(len(layer), np.int64)
    out[order] = np.arange(len(layer)) - first
    return out


def pieces_of(layer: np.ndarray, wanted: np.ndarray, number: np.ndarray) -> np.ndarray:
    """(K,) pieces by the layer (K,) that is wanted and their number (K,) in it; ``layer`` (S,) is
    that of every piece.
    """
    order = np.argsort(layer, kind="stable")
    return np.asarray(order[np.searchsorted(layer[order], wanted) + number])


def among(
    layer: np.ndarray, number: np.ndarray, layers: np.ndarray, others: np.ndarray
) -> np.ndarray:
    """(P,) whether pieces, by layer and number in it (P,), are among others (Q,)."""
    most = 1 + max(number.max(initial=0), others.max(initial=0))
    return np.isin(layer * most + number, layers * most + others)


def skins(
    solid: Pieces,
    outlines: Outlines,
    bead: float,
    tie: float,
    held_up: np.ndarray | None,
    voids: np.ndarray,
) -> Skins:
    """Split solid pieces (S,). ``held_up`` (N,): what supports carry below each layer; there
    nothing has to bridge. ``voids`` (N,): room inside each layer that holds nothing up.

    ``*_of`` is the number of the solid piece each part came from, counted in its layer.
    """
    layer = outlines.islands.owner[solid.owner]
    number = numbers(layer)
    coarse = np.r_[EMPTY, outlines.coarse, EMPTY]
    shown = _beyond(solid.polygons, coarse[layer + 2], bead)
    under = coarse[layer].copy()
    if held_up is not None:
        index = np.flatnonzero(~shapely.is_empty(held_up[layer]))
        under[index] = union(under[index], rounded(held_up[layer[index]], 2 * bead))
    under = _without(under, np.r_[EMPTY, voids][layer])
    # the bed holds everything
    hanging = np.where(layer > 0, _beyond(solid.polygons, under, bead), EMPTY)
    bridges, bridge_of, open_below = _bridges(hanging, under, solid, tie)
    spanned = collect(Pieces(bridges.pieces.polygons, bridge_of), len(solid))
    tops = _without(shown, spanned)
    whole = _without(solid.polygons, spanned)
    inner = _without(whole, tops)
    meet = ~shapely.is_empty(tops) & ~shapely.is_empty(inner)
    found, top = explode(inner, 0.02), explode(tops, 0.02)
    both = explode(np.where(meet, whole, EMPTY), 0.02)
    return Skins(
        Pieces(found.polygons, solid.owner[found.owner]),
        number[found.owner],
        Pieces(top.polygons, solid.owner[top.owner]),
        number[top.owner],
        Pieces(both.polygons, solid.owner[both.owner]),
        number[both.owner],
        bridges,
        number[bridge_of],
        open_below,
    )


def _without(areas: np.ndarray, taken: np.ndarray) -> np.ndarray:
    out = areas.copy()
    index = np.flatnonzero(~shapely.is_empty(taken) & ~shapely.is_empty(areas))
    out[index] = difference(areas[index], taken[index])
    return out


def _beyond(areas: np.ndarray, neighbour: np.ndarray, bead: float) -> np.ndarray:
    """What of areas (S,) lies beyond the neighbouring layer, strips narrower than two beads left
    out.
    """
    out = np.full(len(areas), EMPTY, object)
    shapely.prepare(neighbour)
    index = np.flatnonzero(~shapely.covers(neighbour, areas))
    if len(index):
        beyond = offset(difference(areas[index], neighbour[index]), -bead)
        some = ~shapely.is_empty(beyond)
        index = index[some]
        out[index] = intersection(offset(beyond[some], bead + 0.01), areas[index])
    return out


def _bridges(
    hanging: np.ndarray, under: np.ndarray, solid: Pieces, tie: float
) -> tuple[Bridges, np.ndarray, Pieces]:
    free = explode(hanging, 0.3)
    angle, span, held = np.zeros(len(free)), np.zeros(len(free)), np.zeros(len(free))
    known: dict[bytes, tuple[float, float, float]] = {}
    for k, patch in enumerate(free.polygons):  # few: one for every ceiling of the part
        key = shapely.to_wkb(patch) + shapely.to_wkb(under[free.owner[k]])
        if key not in known:
            known[key] = span_direction(patch, under[free.owner[k]])
        angle[k], span[k], held[k] = known[key]
    good = held >= HELD
    whole = intersection(
        offset(free.polygons[good], max(tie, 0.2)), solid.polygons[free.owner[good]]
    )
    pieces = explode(whole, 0.1)
    bridges = Bridges(
        Pieces(pieces.polygons, solid.owner[free.owner[good]][pieces.owner]),
        angle[good][pieces.owner],
        span[good][pieces.owner],
        free.polygons[good][pieces.owner],
    )
    rest = ~good
    return (
        bridges,
        free.owner[good][pieces.owner],
        Pieces(free.polygons[rest], solid.owner[free.owner[rest]]),
    )


def span_direction(patch: shapely.Geometry, below: shapely.Geometry) -> tuple[float, float, float]:
    """Direction in degrees in which lines over a patch are best held at both ends by what is below,
    their longest span in mm, and the share of their length that is held so.
    """
    turns = np.arange(0.0, 180.0, DIRECTIONS)
    middle = np.array(patch.centroid.coords[0])
    points = shapely.get_coordinates(patch) - middle
    size = float(np.abs(points).max()) * 1.5 + 1.0
    across = (np.arange(LINES) + 0.5) / LINES
    lines, of = [], []
    for k, turn in enumerate(np.radians(turns)):
        u, v = np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
        side = points @ v
        level = side.min() + across * (side.max() - side.min())
        start = middle + level[:, None] * v - size * u
        lines.append(np.stack([start, start + 2 * size * u], axis=1))
        of.append(np.full(LINES, k))
    cut = within(shapely.linestrings(np.concatenate(lines)), patch)
    parts, place = shapely.get_parts(cut, return_index=True)
    # lines that pass beside the patch are empty, those that touch a corner are points
    inside = (shapely.get_type_id(parts) == 1) & ~shapely.is_empty(parts)
    parts, place = parts[inside], place[inside]
    which = np.concatenate(of)[place]
    first, last = (shapely.get_coordinates(shapely.get_point(parts, k)) for k in (0, -1))
    way = last - first
    length = np.hypot(*way.T)
    step = 0.4 * way / np.maximum(length, 1e-9)[:, None]
    shapely.prepare(below)
    held = shapely.contains_xy(below, *(first - step).T) & shapely.contains_xy(
        below, *(last + step).T
    )
    total = np.bincount(which, length, len(turns))
    share = np.bincount(which, length * held, len(turns)) / np.maximum(total, 1e-9)
    longest = np.zeros(len(turns))
    np.maximum.at(longest, which, np.where(held, length, 0.0))
    # of directions held about equally well the one that spans least
    best = int(np.lexsort((longest, -np.round(share, 1)))[0])
    return float(turns[best]), float(longest[best]), float(share[best])
