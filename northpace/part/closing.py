"""Openings of a surface, closed."""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d as m3
import numpy as np

from northpace.part.triangles import edges_of


@dataclass(frozen=True)
class Closing:
    """How many openings were closed, the widest (mm) and the volume the caps enclose (mm³)."""

    loops: int = 0
    widest: float = 0.0
    volume: float = 0.0


def cap_openings(vertices: np.ndarray, faces: np.ndarray) -> tuple[np.ndarray, np.ndarray, Closing]:
    """Close every directed boundary loop: triangulated when it lies nearly in a plane, else by a
    fan from its middle.

    A loop never spans two shells, so a gap between bodies is not bridged. ``vertices`` is (V, 3),
    in mm, ``faces`` (F, 3).
    """
    edges = edges_of(faces)
    size = np.int64(len(vertices))
    keys, back = edges[:, 0] * size + edges[:, 1], edges[:, 1] * size + edges[:, 0]
    own, counts = np.unique(keys, return_counts=True)
    balance = counts - _counts_of(own, back)
    open_keys = np.repeat(own, np.maximum(balance, 0))
    if len(open_keys) == 0:
        return vertices, faces, Closing()
    # the cap runs against the boundary
    following: dict[int, list[int]] = {}
    for a, b in zip((open_keys % size).tolist(), (open_keys // size).tolist(), strict=True):
        following.setdefault(a, []).append(b)
    points, caps, middle = [vertices], [faces], len(vertices)
    widest, loops = 0.0, 0
    for loop in _walk_loops(following):
        ring = vertices[loop]
        widest = max(widest, float(np.linalg.norm(np.ptp(ring, axis=0))))
        loops += 1
        triangles = _triangulate(ring)
        if triangles is not None:
            caps.append(np.asarray(loop)[triangles])
        else:
            points.append(ring.mean(axis=0, keepdims=True))
            caps.append(np.stack([loop, np.roll(loop, -1), np.full(len(loop), middle)], axis=1))
            middle += 1
    closed_vertices, closed_faces = np.concatenate(points), np.concatenate(caps)
    return (
        closed_vertices,
        closed_faces,
        Closing(loops, widest, _cap_volume(closed_vertices, closed_faces[len(faces) :])),
    )


def _cap_volume(vertices: np.ndarray, caps: np.ndarray) -> float:
    """What the caps enclose against their common middle (mm³): 0 for one plane opening."""
    corners = vertices[caps]
    centre = corners.reshape(-1, 3).mean(axis=0)
    return float(
        abs(
            np.einsum(
                "ij,ij->i",
                corners[:, 0] - centre,
                np.cross(corners[:, 1] - centre, corners[:, 2] - centre),
            ).sum()
        )
        / 6
    )


def _counts_of(keys: np.ndarray, values: np.ndarray) -> np.ndarray:
    ordered = np.sort(values)
    return np.searchsorted(ordered, keys, "right") - np.searchsorted(ordered, keys, "left")


def _walk_loops(following: dict[int, list[int]]) -> list[list[int]]:
    """Closed walks over the open edges, split where they touch themselves."""
    loops = []
    for begin in list(following):
        while following.get(begin):
            path, place, here = [begin], {begin: 0}, begin
            while following.get(here):
                here = following[here].pop()
                if here in place:
                    cut = place[here]
                    loops.append(path[cut:])
                    for gone in path[cut + 1 :]:
                        del place[gone]
                    path = path[: cut + 1]
                    if not cut and not following.get(here):
                        break
                else:
                    place[here] = len(path)
                    path.append(here)
    return [loop for loop in loops if len(loop) >= 3]


def _triangulate(ring: np.ndarray) -> np.ndarray | None:
    """(T, 3) triangles over a nearly plane ring, or None."""
    if len(ring) == 3:
        return np.array([[0, 1, 2]])
    centred = ring - ring.mean(axis=0)
    _, spread, axes = np.linalg.svd(centred, full_matrices=False)
    normal = np.cross(centred, np.roll(centred, -1, axis=0)).sum(axis=0)
    if spread[-1] > 0.05 * spread[0] or np.linalg.norm(normal) == 0:
        return None
    across = axes[0]
    flat = np.stack(
        [centred @ across, centred @ np.cross(normal / np.linalg.norm(normal), across)], axis=1
    )
    triangles = m3.triangulate([flat])
    return triangles if len(triangles) == len(ring) - 2 else None
