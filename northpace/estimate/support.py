"""What supports a standing part needs and what scars they leave, found along rays before any layer
is chosen.
"""

from __future__ import annotations

from typing import NamedTuple, Protocol

import numpy as np
import scipy.ndimage

from northpace.estimate.rays import Rays
from northpace.paths.supports.overhangs import found_from
from northpace.spec import PlanSpec

#: A surface this near to the bed (mm) lies on it.
ON_BED = 0.02
#: A facet this near to level is a level span where it looks down.
LEVEL = -0.9995
#: Level entries whose heights differ by less (mm) are of one span.
SAME = 0.05
#: Lines of stands narrower than this (mm) are mostly turns; the share that ways to stands add. Both
#: are as exact plans of sample parts have it.
SHORT, NARROW, WAYS = 1.0, 0.5, 1.2
#: Branches take this share of the material of straight columns, measured on exact plans of machine
#: parts.
BRANCHES = 0.42
#: A span is held at both ends where the part lies under so much of its border.
HELD = 0.5


class Faces(Protocol):
    """The facets of a part, as far as its supports depend on them."""

    @property
    def normals(self) -> np.ndarray:
        """(F, 3) unit normals."""

    @property
    def weights(self) -> np.ndarray:
        """(F,) weight of marks that supports leave on each facet."""


class Needed(NamedTuple):
    """Supports a part needs as it stands."""

    #: (L,) area in mm² of stands at each level, solid roofs counted as what they lay
    area: np.ndarray
    #: mm³ they take; mm² of surface they touch: in all, seen, hidden, and weighted by attention
    volume: float
    scar: float
    seen: float
    hidden: float
    weighted: float
    #: (C, 4) x, y, z in mm of scars and mm² of each, for drawing
    places: np.ndarray
    #: how many level spans are left to bridge, and mm² that nothing holds
    bridges: int
    hanging: float
    #: how many times as long the lines of slim stands take, ways to them included
    slow: float


def needed(cut: Rays, mesh: Faces, edges: np.ndarray, spec: PlanSpec) -> Needed:
    """Supports under what leans out further than the angle of a spec. ``edges`` (L + 1,) are the
    borders of the levels in mm.
    """
    rules, at = spec.supports, cut.entries()
    flat = cut.cell**2
    leans = mesh.normals[at.facet, 2] < -np.sin(np.radians(found_from(rules.angle)))
    open_ = leans & (at.z > ON_BED)
    spared, bridges = _bridged(cut, at.cell, at.z, open_ & _level(mesh, at.facet), spec)
    open_ &= ~spared
    on_part = at.below_facet >= 0
    bottom = at.below + np.where(on_part, rules.gap_bottom, 0.0)
    tall = at.z - rules.gap_top - bottom
    held = open_ & (tall > 0)
    hanging = 0.0
    if rules.origin == "bed":
        hanging = flat * float((held & on_part).sum())
        held &= ~on_part
    cell, z, low = at.cell[held], at.z[held], bottom[held]
    high = z - rules.gap_top
    roof = np.minimum(rules.roof, high - low)
    grown, slim, wide = _as_laid(cut, cell, spec)
    # on a slope the roofs of a stand are narrow strips, one a layer
    lean = np.abs(mesh.normals[at.facet[held], 2])
    strip = np.minimum(wide, roof * lean / np.sqrt(np.maximum(1 - lean**2, 1e-9)))
    # and each of them as wide as a bead beyond what it holds
    broad = np.where(strip < wide, 1 + rules.width / np.maximum(strip, rules.width / 4), 1.0)
    laid = np.r_[(high - low - roof) * grown * slim * rules.density / 100, roof * grown * broad]
    slow = WAYS * (1 + SHORT / np.maximum(np.r_[wide, strip], NARROW))
    # branches grow together on their way down
    stems = BRANCHES if rules.kind == "branching" else 1.0
    counts = _levels(edges, low, high, grown * slim * stems) * flat
    solid = _levels(edges, high - roof, high, grown * broad) * flat
    area = counts + solid * max(100 / rules.density - 1, 0.0)
    slope = np.abs(mesh.normals[:, 2])
    facets = [at.facet[held], at.below_facet[held & on_part]]
    touched = np.concatenate(facets)
    scars = flat / np.maximum(slope[touched], 0.05)
    weight = mesh.weights[touched]
    x, y = (cut.low + (np.stack([cell % cut.shape[0], cell // cut.shape[0]], 1) + 0.5) * cut.cell).T
    return Needed(
        area,
        float(((high - low) * grown).sum() * flat * stems),
        float(scars.sum()),
        float(scars[weight > 1].sum()),
        float(scars[weight < 1].sum()),
        float((scars * weight).sum()),
        np.stack([x, y, z, scars[: len(z)]], axis=1),
        bridges,
        hanging,
        float((laid * slow).sum() / max(float(laid.sum()), 1e-9)) if len(laid) else 1.0,
    )


def _level(mesh: Faces, facet: np.ndarray) -> np.ndarray:
    return np.asarray(mesh.normals[facet, 2] < LEVEL)


def _as_laid(
    cut: Rays, cell: np.ndarray, spec: PlanSpec
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """(E,) what the stand of every entry takes of its cell, as stands are wider than what they
    hold; how much more than its share of lines it lays, as what is slim becomes a post; and how
    wide the stand is, in mm.
    """
    rules = spec.supports
    mask = np.zeros(cut.shape[::-1], bool)
    mask.ravel()[cell] = True
    label, number = scipy.ndimage.label(mask, np.ones((3, 3)))
    if not number:
        return np.ones(len(cell)), np.ones(len(cell)), np.ones(len(cell))
    wide = np.pad(label, 1)
    edges = sum(
        np.bincount(
            wide[1:-1, 1:-1][mask & (np.roll(wide, by, axis)[1:-1, 1:-1] == 0)], None, number + 1
        )
        for axis in (0, 1)
        for by in (1, -1)
    )
    area = np.bincount(label.ravel(), minlength=number + 1) * cut.cell**2
    # steps of cells are longer than the border they stand for
    around = edges * cut.cell * np.pi / 4
    grown = 1 + around * rules.width / np.maximum(area, 1e-9)
    lines = area * grown * rules.density / 100 / rules.width
    slim = np.maximum(1.0, around / np.maximum(lines, 1e-9))
    own = label.ravel()[cell]
    wide_mm = 2 * area / np.maximum(around, 1e-9)
    return grown[own], np.minimum(slim, 100 / rules.density)[own], wide_mm[own]


def _levels(edges: np.ndarray, low: np.ndarray, high: np.ndarray, weight: np.ndarray) -> np.ndarray:
    """(L,) the weight of all stretches from ``low`` to ``high`` at each level, parts of a level
    counted as such.
    """
    pitch = edges[1] - edges[0]
    count = len(edges) - 1

    def below(z: np.ndarray) -> np.ndarray:
        """(L + 1,) how much lies below each border, if every stretch began at the bed."""
        share = np.clip(z / pitch, 0, count)
        whole = share.astype(np.int64)
        full = np.zeros(count + 1)
        np.add.at(full, np.minimum(whole, count), weight)
        # stretches that go beyond level k count whole in it
        beyond = full[::-1].cumsum()[::-1][1:]
        part = np.zeros(count + 1)
        np.add.at(part, np.minimum(whole, count), (share - whole) * weight)
        return np.asarray(beyond + part[:count])

    return below(high) - below(low)


def _bridged(
    cut: Rays, cell: np.ndarray, z: np.ndarray, level: np.ndarray, spec: PlanSpec
) -> tuple[np.ndarray, int]:
    """(E,) which entries lie on level spans that a bridge holds, and how many such spans."""
    out, count = np.zeros(len(cell), bool), 0
    rules, shape = spec.supports, cut.shape[::-1]
    some = np.flatnonzero(level)
    if rules.spare_bridges <= 0 or not len(some):
        return out, 0
    heights = np.round(z[some] / SAME).astype(np.int64)
    for height in np.unique(heights):
        mine = some[heights == height]
        mask = np.zeros(shape, bool)
        mask.ravel()[cell[mine]] = True
        label, number = scipy.ndimage.label(mask, np.ones((3, 3)))
        wide = scipy.ndimage.distance_transform_cdt(np.pad(mask, 1), "chessboard")[1:-1, 1:-1]
        for k in range(1, number + 1):
            span = label == k
            if 2 * int(wide[span].max()) * cut.cell > rules.spare_bridges:
                continue
            # what lies beyond the grid is open
            around = scipy.ndimage.binary_dilation(np.pad(span, 1), np.ones((3, 3)))
            count_around = around.sum() - span.sum()
            border = np.flatnonzero((around[1:-1, 1:-1] & ~span).ravel())
            held = cut.solid(border, float(z[mine].mean()) - SAME).sum()
            if held >= HELD * count_around:
                out[mine[label.ravel()[cell[mine]] == k]] = True
                count += 1
    return out, count
