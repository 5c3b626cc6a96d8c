"""How the triangles of a mesh hang together: by their corners, their edges, their shells."""

from __future__ import annotations

import numpy as np
import scipy.sparse as sparse

from northpace.part.kernels import spread_parity, weld_equal


def welded_exactly(vertices: np.ndarray, faces: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Corners (V, 3) each once, and the faces (F, 3) with their new numbers."""
    points = np.ascontiguousarray(vertices, np.float64) + 0.0  # adding 0.0 makes -0.0 and 0.0 equal
    first = np.empty(len(points), np.int64)
    number = weld_equal(points, first)
    return points[first[: number.max() + 1]], number[faces]


def edges_of(faces: np.ndarray) -> np.ndarray:
    """(3 F, 2) edges of faces (F, 3), the first of each, then the second, then the third."""
    return np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])


def edge_numbers(faces: np.ndarray) -> np.ndarray:
    """(3 F,) a number for every edge of faces (F, 3), the same whichever way it runs."""
    edges = np.sort(edges_of(faces), axis=1)
    return np.asarray(edges[:, 0] * np.int64(faces.max() + 1) + edges[:, 1])


def face_numbers(faces: np.ndarray) -> np.ndarray:
    """(F,) a number for every triangle of faces (F, 3), the same whichever way round its corners
    are named. Single numbers are sorted several times as fast as rows.
    """
    low, middle, high = np.sort(faces, axis=1).T
    count = np.int64(faces.max(initial=0) + 1)
    _, edge = np.unique(low * count + middle, return_inverse=True)
    return np.asarray(edge.reshape(-1) * count + high)


def runs_forward(faces: np.ndarray) -> np.ndarray:
    """(F,) whether the corners of faces (F, 3), from the least on, are named in rising order: of
    two triangles with the same corners, which way round they are.
    """
    first = faces.argmin(axis=1)
    rolled = np.take_along_axis(faces, (first[:, None] + np.arange(3)) % 3, axis=1)
    return np.asarray(rolled[:, 1] < rolled[:, 2])


def open_share(faces: np.ndarray) -> float:
    """Share of edges of faces (F, 3) that belong to one triangle alone; 1 where there is none."""
    keys = np.sort(edge_numbers(faces))
    counts = np.diff(np.flatnonzero(np.r_[True, keys[1:] != keys[:-1], True]))
    return float(np.mean(counts == 1)) if len(counts) else 1.0


def most_at_a_corner(faces: np.ndarray) -> int:
    """How many edges of faces (F, 3) that belong to one triangle alone end at the same corner."""
    keys = np.sort(edge_numbers(faces))
    begin = np.flatnonzero(np.r_[True, keys[1:] != keys[:-1]])
    alone = keys[begin[np.diff(np.r_[begin, len(keys)]) == 1]]
    ends = np.r_[alone // (faces.max() + 1), alone % (faces.max() + 1)]
    return int(np.bincount(ends).max()) if len(ends) else 0


def shell_of_each(faces: np.ndarray) -> np.ndarray:
    """(F,) number of the connected shell of every face (F, 3)."""
    graph = sparse.coo_matrix(
        (np.ones(3 * len(faces), np.int8), tuple(edges_of(faces).T)),
        shape=(faces.max() + 1, faces.max() + 1),
    )
    _, label = sparse.csgraph.connected_components(graph, directed=False)
    return np.asarray(np.unique(label[faces[:, 0]], return_inverse=True)[1]).reshape(-1)


def make_consistent(faces: np.ndarray) -> tuple[np.ndarray, int]:
    """Turn triangles so that neighbours agree; each shell takes the side most of its triangles had.

    Two triangles sharing an edge agree when they run along it in opposite directions. The turned
    state of a triangle is found by walking a spanning forest over edges shared by exactly two
    triangles.
    """
    edges = edges_of(faces)
    owner = np.tile(np.arange(len(faces)), 3)
    low, high = edges.min(axis=1), edges.max(axis=1)
    order = np.lexsort((high, low))
    low, high, owner, forward = (
        low[order],
        high[order],
        owner[order],
        (edges[:, 0] < edges[:, 1])[order],
    )
    start = np.flatnonzero(np.r_[True, (np.diff(low) != 0) | (np.diff(high) != 0)])
    count = np.diff(np.r_[start, len(low)])
    pair = start[count == 2]
    one, two = owner[pair], owner[pair + 1]
    differs = forward[pair] == forward[pair + 1]
    weights = np.where(differs, 2.0, 1.0)
    graph = sparse.coo_matrix(
        (np.r_[weights, weights], (np.r_[one, two], np.r_[two, one])),
        shape=(len(faces), len(faces)),
    ).tocsr()
    total, label = sparse.csgraph.connected_components(graph, directed=False)
    flip = np.zeros(len(faces), np.int8)
    spread_parity(graph.indptr, graph.indices, graph.data, flip)
    share = np.bincount(label, weights=flip, minlength=total) / np.bincount(label, minlength=total)
    flip = np.where(share[label] > 0.5, 1 - flip, flip).astype(bool)
    out = faces.copy()
    out[flip] = out[flip][:, ::-1]
    return out, int(flip.sum())
