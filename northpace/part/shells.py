"""The connected shells of a solid, and which of them lie near or in each other."""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d as m3
import numpy as np
import scipy.sparse as sparse
import shapely

from northpace.part.notes import Notes
from northpace.spec import Mesh

#: A body smaller than these shares of the part's greatest extent, and of its volume, is a splinter.
SPLINTER = (0.02, 1e-4)


def shells_of(solid: m3.Manifold) -> list[m3.Manifold]:
    """Every connected shell as a solid of its own, cavities with negative volume. The kernel's own
    way goes through the whole for each of them: 3.5 s for 2,000 cubes, this 0.04 s.
    """
    if solid.is_empty():
        return []
    mesh = solid.to_mesh64()
    vertices = np.asarray(mesh.vert_properties, np.float64)[:, :3]
    faces = np.asarray(mesh.tri_verts).astype(np.int64)
    ends = np.concatenate([faces[:, :2], faces[:, 1:]])
    graph = sparse.coo_matrix(
        (np.ones(len(ends), np.int8), (ends[:, 0], ends[:, 1])),
        shape=(len(vertices), len(vertices)),
    )
    count, label = sparse.csgraph.connected_components(graph, directed=False)
    if count == 1:
        return [solid]
    of_face = label[faces[:, 0]]
    face_order, vertex_order = np.argsort(of_face, kind="stable"), np.argsort(label, kind="stable")
    face_end = np.cumsum(np.bincount(of_face, minlength=count))
    vertex_end = np.cumsum(np.bincount(label, minlength=count))
    number = np.empty(len(vertices), np.int64)
    number[vertex_order] = np.arange(len(vertices)) - np.repeat(
        np.r_[0, vertex_end[:-1]], np.diff(np.r_[0, vertex_end])
    )
    return [
        m3.Manifold(m3.Mesh64(vertices[own_vertices], number[faces[own]].astype(np.uint64)))
        for own, own_vertices in zip(
            np.split(face_order, face_end[:-1]),
            np.split(vertex_order, vertex_end[:-1]),
            strict=True,
        )
        if len(own)
    ]


def boxes_of(shells: Sequence[m3.Manifold]) -> np.ndarray:
    """(N, 6) least and greatest corners in mm."""
    return np.array([shell.bounding_box() for shell in shells], np.float64).reshape(-1, 6)


def holding(boxes: np.ndarray, inner: np.ndarray, slack: float = 0.0) -> np.ndarray:
    """Numbers of the boxes that hold a box. ``boxes`` is (N, 6), ``inner`` (6,), in mm."""
    return np.flatnonzero(
        (boxes[:, :3] <= inner[:3] + slack).all(axis=1)
        & (boxes[:, 3:] >= inner[3:] - slack).all(axis=1)
    )


def inverted(shell: m3.Manifold) -> m3.Manifold:
    """The shell with every triangle turned."""
    mesh = shell.to_mesh64()
    corners = np.array(mesh.vert_properties, np.float64, order="C")[:, :3].copy()
    return m3.Manifold(
        m3.Mesh64(corners, np.array(np.asarray(mesh.tri_verts)[:, ::-1], np.uint64, order="C"))
    )


def united(shells: Sequence[m3.Manifold]) -> list[m3.Manifold]:
    """The union of solids, one for every body; those whose boxes meet no other stay as they are."""
    bodies: list[m3.Manifold] = []
    if not shells:
        return bodies
    for group in _meeting(boxes_of(shells)):
        if len(group) == 1:
            bodies.append(shells[group[0]])
        else:
            whole = m3.Manifold.batch_boolean([shells[k] for k in group], m3.OpType.Add)
            bodies += with_cavities(shells_of(whole))
    return bodies


def without(bodies: Sequence[m3.Manifold], cavities: Sequence[m3.Manifold]) -> list[m3.Manifold]:
    """Bodies less cavities, one solid for every body that is left."""
    whole = m3.Manifold.compose(list(bodies)) if len(bodies) > 1 else bodies[0]
    left = m3.Manifold.batch_boolean([whole, *cavities], m3.OpType.Subtract)
    return with_cavities(shells_of(left))


def _meeting(boxes: np.ndarray) -> list[np.ndarray]:
    """Numbers of boxes in groups that meet each other."""
    flat = shapely.box(boxes[:, 0], boxes[:, 1], boxes[:, 3], boxes[:, 4])
    one, two = shapely.STRtree(flat).query(flat)
    meet = (boxes[one, 2] <= boxes[two, 5]) & (boxes[two, 2] <= boxes[one, 5])
    graph = sparse.coo_matrix(
        (np.ones(int(meet.sum()), np.int8), (one[meet], two[meet])), shape=(len(boxes), len(boxes))
    )
    _, label = sparse.csgraph.connected_components(graph, directed=False)
    order = np.argsort(label, kind="stable")
    return np.split(order, np.flatnonzero(np.diff(label[order])) + 1)


def with_cavities(pieces: list[m3.Manifold]) -> list[m3.Manifold]:
    """Give cavities, which are shells of negative volume, back to the smallest body around them."""
    bodies = [piece for piece in pieces if piece.volume() > 0]
    cavities = [piece for piece in pieces if piece.volume() <= 0]
    if not cavities:
        return bodies
    grouped: list[list[m3.Manifold]] = [[body] for body in bodies]
    boxes, volumes = boxes_of(bodies), np.array([body.volume() for body in bodies])
    for cavity in cavities:
        around = holding(boxes, np.array(cavity.bounding_box()))
        grouped[around[volumes[around].argmin()] if len(around) else 0].append(cavity)
    return [
        m3.Manifold.batch_boolean([group[0], *map(inverted, group[1:])], m3.OpType.Subtract)
        if len(group) > 1
        else group[0]
        for group in grouped
    ]


def order_shells(solid: m3.Manifold, notes: Notes, mesh: Mesh = Mesh()) -> list[m3.Manifold]:
    """Decide for every shell whether it is a solid, a cavity or turned inside out; unite solids
    that meet and subtract cavities, unless ``mesh`` says otherwise. One solid for every body.
    """
    shells = shells_of(solid)
    if len(shells) == 1:
        if shells[0].volume() < 0:
            notes.append("turned the surface outside out", -shells[0].volume())
            return [inverted(shells[0])]
        # A shell may still run through itself; uniting it with nothing changes nothing, so it is
        # left as it is.
        return shells
    volumes = np.array([shell.volume() for shell in shells])
    solids = [shell for shell, volume in zip(shells, volumes, strict=True) if volume > 0]
    boxes, sizes = boxes_of(solids), volumes[volumes > 0]
    cavities, turned, outward = [], 0, 0.0
    for shell, volume in zip(shells, volumes, strict=True):
        if volume >= 0:
            continue
        outside_out = inverted(shell)
        around = holding(boxes, np.array(shell.bounding_box()), 1e-9)
        if any(_holds(solids[k], outside_out) for k in around[sizes[around] > -volume]):
            cavities.append(outside_out)
        else:
            solids.append(outside_out)
            turned, outward = turned + 1, outward - volume
    if turned:
        notes.append(f"turned {turned} shell{'s' * (turned > 1)} outside out", outward)
    if cavities:
        word = f"{len(cavities)} {'cavities' if len(cavities) > 1 else 'cavity'} inside"
        if mesh.cavities == "solid":
            notes.append(f"filled {word}", sum(cavity.volume() for cavity in cavities))
            cavities = []
        else:
            notes.append(f"kept {word}")
    if mesh.meeting == "apart":
        return with_cavities([*solids, *map(inverted, cavities)])
    bodies = united(solids)
    return without(bodies, cavities) if cavities else bodies


def _holds(outer: m3.Manifold, inner: m3.Manifold) -> bool:
    """Whether the larger shell encloses the smaller: what is left of the inner one outside is next
    to nothing.
    """
    return (inner - outer).volume() < 0.01 * inner.volume()


def too_small(extent: np.ndarray, volume: np.ndarray, whole: float) -> np.ndarray:
    """(N,) whether bodies are too small to be meant: by their greatest extents (N,) beside that of
    the ``whole`` (mm), and by their volumes (N,) beside the sum of them.
    """
    size = np.abs(volume)
    return np.asarray((extent < SPLINTER[0] * whole) & (size < SPLINTER[1] * size.sum()))
