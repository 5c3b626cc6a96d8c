"""The surface table: what any stack of layers does to the surface of a placed part, prepared once
(`docs/computations.md` §3).

At a point whose smooth normal is n, a layer of height h leaves a step of ``h·|n_z|`` between its
deepest and highest point. The normal turns within the layer as the surface curves, and the table
holds it at every z step; so curvature is contained, and the further term ½·κ·h² of Dolenc and
Mäkelä ("Slicing procedures for layered manufacturing techniques", CAD 26(2), 1994), which starts
from the normal at one edge of the layer, is not added again. As outlines are cut at mid height,
corners stand out above the edge and in below it; over a layer the two forms have the same mean.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numba
import numpy as np

from northpace.heights.attention import facet_weights, told_apart
from northpace.heights.flats import find_flats
from northpace.heights.normals import corner_slopes, facets_of
from northpace.part.place import Placed
from northpace.spec import Region, Surface

#: Steepness |n_z| is kept in this many classes where memory allows.
CLASSES = 256
MOST_CELLS = 4_000_000
#: Less area than this (mm²) in a z step is a sliver of the mesh and sets no greatest error.
SLIVER = 1e-6


@dataclass(frozen=True)
class SurfaceTable:
    """Surface of a placed part by z step (N) and class of steepness (B)."""

    #: size of a step and height of the part in mm
    z_step: float
    height: float
    #: (B + 1, N + 1) weighted area in mm² below each step whose class is at least k
    above: np.ndarray
    #: (N + 1, B + 1) the same the other way round: rows and columns are both read in one go
    below: np.ndarray
    #: (N + 1,) the same sum of weight · area · |n_z|
    slope: np.ndarray
    #: (N,) largest |n_z| in a step
    steepest: np.ndarray
    #: (N,) largest −n_z of surface that leans out
    leaning: np.ndarray
    #: (M,) heights of the flats in mm, and their weighted areas in mm²
    flat_z: np.ndarray
    flat_area: np.ndarray
    #: weighted area in mm², the contact with the plate left out
    total: float
    #: areas in mm² of faces marked as seen and as hidden
    seen: float
    hidden: float

    @property
    def steps(self) -> int:
        return len(self.steepest)

    @property
    def classes(self) -> int:
        return len(self.above) - 1

    @property
    def nbytes(self) -> int:
        return 2 * self.above.nbytes + 4 * self.slope.nbytes


@dataclass(frozen=True)
class Facets:
    """A placed mesh with what the surface needs of it."""

    #: (V, 3) in mm, (F, 3) indices, (F, 3) unit normals
    vertices: np.ndarray
    faces: np.ndarray
    normals: np.ndarray
    #: (F,) in mm²
    areas: np.ndarray
    #: (F, 3) smooth n_z at the corners
    slopes: np.ndarray
    #: (F,) index of the flat each belongs to, −1 for none
    flat: np.ndarray
    #: (M,) heights of the flats in mm
    flat_z: np.ndarray
    #: (F,) how much a facet counts
    weights: np.ndarray

    @property
    def nbytes(self) -> int:
        return self.vertices.nbytes + self.faces.nbytes + 2 * self.normals.nbytes


def facets(
    placed: Placed, surface: Surface, z_step: float, regions: tuple[Region, ...] = ()
) -> Facets:
    """Facets of a placed part with smooth slopes, flats and attention."""
    mesh = told_apart(placed.solid, regions).to_mesh64()
    return facets_from(
        np.asarray(mesh.vert_properties)[:, :3],
        np.asarray(mesh.tri_verts).astype(np.int64),
        placed,
        surface,
        z_step,
        regions,
    )


def facets_from(
    vertices: np.ndarray,
    faces: np.ndarray,
    placed: Placed,
    surface: Surface,
    z_step: float,
    regions: tuple[Region, ...] = (),
) -> Facets:
    """The same from vertices (V, 3) mm and faces (F, 3) where a part stands."""
    normals, areas, angles, sizes = facets_of(vertices, faces)
    z = vertices[:, 2][faces]
    flat, flat_z = find_flats(z, faces, normals, areas, z_step)
    slopes = corner_slopes(faces, len(vertices), normals, angles, sizes)
    return Facets(
        vertices,
        faces,
        normals,
        areas,
        slopes,
        flat,
        flat_z,
        facet_weights(vertices, faces, normals, placed, surface, regions),
    )


def surface_table(mesh: Facets, height: float, z_step: float) -> SurfaceTable:
    """Build the table of a part ``height`` mm tall for a machine with this z step."""
    steps = whole_steps(height, z_step)
    classes = int(np.clip(MOST_CELLS // max(steps, 1), 32, CLASSES))
    z = mesh.vertices[:, 2][mesh.faces]
    contact = (z.max(axis=1) < z_step / 2) & (mesh.normals[:, 2] < 0)
    sloping = (mesh.flat < 0) & ~contact & (mesh.areas > 0)
    table, slope = np.zeros((steps + 1, classes + 1)), np.zeros(steps + 1)
    steepest, leaning = np.zeros(steps), np.zeros(steps)
    sides = Sides(
        z[sloping],
        mesh.slopes[sloping],
        mesh.areas[sloping],
        mesh.weights[sloping],
        mesh.normals[sloping, 2],
    )
    _fill(sides, z_step, Filled(table, slope, steepest, leaning))
    _sum_up(table)
    lying = (mesh.flat >= 0) & ~contact
    area = np.bincount(
        mesh.flat[lying], (mesh.areas * mesh.weights)[lying], minlength=len(mesh.flat_z)
    )
    kept = area > 0
    free = ~contact
    return SurfaceTable(
        z_step,
        height,
        np.ascontiguousarray(table.T),
        table,
        np.cumsum(slope),
        steepest,
        leaning,
        mesh.flat_z[kept],
        area[kept],
        float((mesh.areas * mesh.weights)[free].sum()),
        float(mesh.areas[free & (mesh.weights > 1)].sum()),
        float(mesh.areas[free & (mesh.weights < 1)].sum()),
    )


class Sides(NamedTuple):
    """Facets that are neither level nor on the bed, for the kernel."""

    #: (F, 3) heights of the corners, mm
    z: np.ndarray
    #: (F, 3) slope at each corner
    slopes: np.ndarray
    #: (F,) mm²
    areas: np.ndarray
    #: (F,) how much the surface counts
    weights: np.ndarray
    #: (F,) z of the normal
    normal_z: np.ndarray


class Filled(NamedTuple):
    """What the kernel adds the facets to; as in `SurfaceTable`."""

    table: np.ndarray
    slope: np.ndarray
    steepest: np.ndarray
    leaning: np.ndarray


def whole_steps(height: float, z_step: float) -> int:
    """The part's height in whole z steps: the nearest, the lower one where two are equally near."""
    return max(int(np.ceil(height / z_step - 0.5 - 1e-7)), 1)


@numba.njit(cache=True, nogil=True)
def _below(z, a, b, c):  # type: ignore[no-untyped-def]
    """Share of a triangle with corner heights a <= b <= c that lies below z."""
    if z <= a:
        return 0.0
    if z >= c:
        return 1.0
    if z < b:
        return (z - a) * (z - a) / ((b - a) * (c - a))
    return 1.0 - (c - z) * (c - z) / ((c - a) * (c - b)) if c > b else 1.0


@numba.njit(cache=True, nogil=True)
def _fill(sides, q, filled):  # type: ignore[no-untyped-def]
    """Share every facet out over the z steps it crosses, with its slope as it turns from corner to
    corner.
    """
    z, slopes, areas, weights = sides.z, sides.slopes, sides.areas, sides.weights
    table, slope, steepest, leaning = (
        filled.table,
        filled.slope,
        filled.steepest,
        filled.leaning,
    )
    classes, steps = table.shape[1] - 1, len(steepest)
    for f in range(len(z)):
        i, j, k = 0, 1, 2
        if z[f, i] > z[f, j]:
            i, j = j, i
        if z[f, j] > z[f, k]:
            j, k = k, j
        if z[f, i] > z[f, j]:
            i, j = j, i
        a, b, c = z[f, i], z[f, j], z[f, k]
        sa, sb, sc = slopes[f, i], slopes[f, j], slopes[f, k]
        first = min(max(int(np.floor(a / q)), 0), steps - 1)
        last = min(max(int(np.ceil(c / q)) - 1, first), steps - 1)
        before = 0.0
        for n in range(first, last + 1):
            upto = 1.0 if n == last else _below((n + 1) * q, a, b, c)
            share = upto - before
            before = upto
            if share <= 0.0:
                continue
            middle = 0.5 * (max(n * q, a) + min((n + 1) * q, c))
            along = sa + (sc - sa) * (middle - a) / (c - a) if c > a else 0.5 * (sa + sc)
            if middle < b:
                other = sa + (sb - sa) * (middle - a) / (b - a) if b > a else sb
            else:
                other = sb + (sc - sb) * (middle - b) / (c - b) if c > b else sb
            signed = 0.5 * (along + other)
            steep = abs(signed)
            area = areas[f] * share
            if steep > 1e-5:
                table[n + 1, min(int(steep * classes), classes - 1)] += area * weights[f]
                slope[n + 1] += area * weights[f] * steep
            if area > SLIVER:
                if weights[f] > 0.0:
                    steepest[n] = max(steepest[n], steep)
                if sides.normal_z[f] < 0.0 and signed < 0.0:
                    leaning[n] = max(leaning[n], steep)


@numba.njit(cache=True, nogil=True)
def _sum_up(table):  # type: ignore[no-untyped-def]
    """Sum a table (N + 1, B + 1) up in place, from the steepest class on and from the bed up: with
    thousands of z steps it is the largest of a plan.
    """
    steps, classes = table.shape
    for n in range(steps):
        steep = 0.0
        for k in range(classes - 1, -1, -1):
            steep += table[n, k]
            table[n, k] = steep
        if n > 0:
            for k in range(classes):
                table[n, k] += table[n - 1, k]
