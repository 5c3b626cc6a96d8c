"""Attention: how much the surface of a face counts, from marks set on the part."""

from __future__ import annotations

import manifold3d as m3
import numpy as np

from northpace.outlines.volumes import inside
from northpace.part.faces import marked_face, neighbours
from northpace.part.place import Placed
from northpace.spec import Region, Surface

#: Longest edge (mm) of a facet that is judged as a whole.
FINE = 2.0
#: A facet belongs to a region when a point this far (mm) under its middle does.
UNDER_SKIN = 0.02


def told_apart(solid: m3.Manifold, regions: tuple[Region, ...]) -> m3.Manifold:
    """The solid with facets small enough to tell which lie in a region that says something about
    attention; else as it is.
    """
    return solid.refine_to_length(FINE) if any(region.attention for region in regions) else solid


def facet_weights(
    vertices: np.ndarray,
    faces: np.ndarray,
    normals: np.ndarray,
    placed: Placed,
    surface: Surface,
    regions: tuple[Region, ...] = (),
) -> np.ndarray:
    """(F,) attention weight of every facet of a placed mesh; later marks win over earlier ones, and
    over regions.
    """
    weights = np.ones(len(faces))
    regions = tuple(region for region in regions if region.attention)
    if not surface.marks and not regions:
        return weights
    beside = neighbours(faces)
    corners = vertices[faces]
    by = {"seen": surface.seen_weight, "ordinary": 1.0, "hidden": surface.hidden_weight}
    for region in regions:
        weights[inside(region, corners.mean(axis=1) - UNDER_SKIN * normals, corners, placed)] = by[
            region.attention
        ]
    for mark in surface.marks:
        face = marked_face(corners, normals, beside, placed.affine, mark)
        weights[face] = by[mark.attention]
    return weights
