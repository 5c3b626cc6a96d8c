"""Meshes as arrays and as binary STL."""

from __future__ import annotations

import manifold3d as m3
import numpy as np


def mesh_arrays(bodies: tuple[m3.Manifold, ...]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Vertices (V, 3), faces (F, 3) and the body of each face (F,)."""
    vertices, faces, owner, offset = [], [], [], 0
    for number, body in enumerate(bodies):
        mesh = body.to_mesh()
        points = np.asarray(mesh.vert_properties)[:, :3]
        vertices.append(points)
        faces.append(np.asarray(mesh.tri_verts).astype(np.int64) + offset)
        owner.append(np.full(len(faces[-1]), number, np.int32))
        offset += len(points)
    return np.concatenate(vertices), np.concatenate(faces), np.concatenate(owner)


def binary_stl(vertices: np.ndarray, faces: np.ndarray, owner: np.ndarray | int = 0) -> bytes:
    """A mesh as binary STL; ``owner`` (F,), the body of each face, goes into the facet's attribute
    field.
    """
    corners = vertices[faces].astype("<f4")
    normal = np.asarray(
        np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), np.float64
    )
    normal = normal / np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-30)
    record = np.zeros(
        len(faces),
        np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")]),
    )
    record["normal"], record["corners"], record["attribute"] = normal, corners, owner
    return b"North Pace".ljust(80) + len(faces).to_bytes(4, "little") + record.tobytes()
