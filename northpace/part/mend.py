"""Make a closed solid of whatever a file holds, and say what was done.

The order of the steps is what has been found to work on real scans; each step is tried only when
the one before did not give a valid solid, because the later ones change good files.
"""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import scipy.sparse as sparse

from northpace.errors import InputError
from northpace.part.body import Body
from northpace.part.shells import (
    boxes_of,
    holding,
    inverted,
    shells_of,
    united,
    with_cavities,
    without,
)
from northpace.spec import Mesh

#: Share of open edges above which corners are welded with a tolerance.
OPEN_SHARE = 0.2
TOLERANCES = (1e-6, 5e-6, 3e-5)
#: Open edges at one corner beyond which the kernel's joining of corners takes minutes.
MOST_AT_A_CORNER = 500
#: Share of open edges above which there is no surface to close (real scans have at most 0.3).
NO_SURFACE = 0.6


@dataclass(frozen=True)
class Mending:
    """One thing that was done: in words, and the volume it gave to the part (mm³); for openings
    that of what bulges out of their plane.
    """

    words: str
    volume: float = 0.0


class Notes:
    """What was done so far."""

    def __init__(self) -> None:
        self.done: list[Mending] = []

    def append(self, words: str, volume: float = 0.0) -> None:
        """Note one more thing."""
        self.done.append(Mending(words, volume))


@dataclass(frozen=True)
class Mended:
    """Valid solids, what was done to get them, the widest opening closed (mm) and the volume that
    closing added (mm³).
    """

    bodies: list[m3.Manifold]
    done: list[Mending]
    doubtful: bool = False
    widest_opening: float = 0.0
    added_volume: float = 0.0


def mend(body: Body, mesh: Mesh = Mesh()) -> Mended:
    """A closed solid of one body, its faults taken as ``mesh`` says; raises `InputError` when it
    cannot be one.
    """
    notes = Notes()
    vertices, faces = weld(body.vertices, body.faces, notes)
    _possible(vertices, faces)
    solid = to_solid(vertices, faces, notes)
    closing, doubtful = Closing(), False
    if solid is None:
        faces = _cancel_opposed(faces, notes)
        if not len(faces):
            raise InputError(
                "every triangle lies on one that faces the other way: the surface "
                "does not enclose a volume"
            )
        solid = to_solid(vertices, faces, notes)
    if solid is None and mesh.openings == "drop":
        faces = _without_open_shells(faces, notes)
        solid = to_solid(vertices, faces, notes)
    if solid is None:
        faces, turned = make_consistent(faces)
        if turned:
            notes.append(f"turned {turned:,} triangle{'s' * (turned > 1)} that faced the wrong way")
        solid = to_solid(vertices, faces, notes)
    if solid is None:
        vertices, faces, closing = cap_openings(vertices, faces)
        if closing.loops:
            notes.append(
                f"closed {closing.loops:,} opening{'s' * (closing.loops > 1)}, the widest "
                f"{closing.widest:.2f} mm across",
                closing.volume,
            )
        solid = to_solid(vertices, faces, notes)
    if solid is None:
        solid = _shell_by_shell(vertices, faces, notes)
    if solid is None:
        solid, doubtful = _rebuilt(vertices, faces, notes), True
    bodies = order_shells(solid, notes, mesh)
    if sum(body.volume() for body in bodies) <= 0:
        raise InputError("the triangles do not enclose a volume")
    return Mended(bodies, notes.done, doubtful, closing.widest, closing.volume)


def _possible(vertices: np.ndarray, faces: np.ndarray) -> None:
    """Raise `InputError` for what cannot become a solid."""
    if len(faces) < 4:
        raise InputError("fewer than four triangles with an area cannot enclose a solid")
    extent = np.ptp(vertices[faces.ravel()], axis=0)
    if extent.min() <= 1e-6 * max(extent.max(), 1e-9):
        raise InputError(
            "the triangles lie in one plane; a solid needs a thickness in every direction"
        )
    open_ = _open_share(faces)
    if open_ > NO_SURFACE:
        raise InputError(
            f"{100 * open_:.0f} % of its edges belong to one triangle alone, so there is no "
            "surface; let the program it comes from join corners that lie on each other"
        )


def _rebuilt(vertices: np.ndarray, faces: np.ndarray, notes: Notes) -> m3.Manifold:
    from northpace.part.lastresort import solid_from_sections

    solid = solid_from_sections(vertices, faces)
    if solid is None:
        raise InputError("the triangles do not enclose a volume, even after mending")
    notes.append(
        "rebuilt from sections because the surface could not be closed: compare it with "
        "what you meant"
    )
    return solid


def _without_open_shells(faces: np.ndarray, notes: Notes) -> np.ndarray:
    """Triangles of the shells that have no open edge."""
    shell = shell_of_each(faces)
    edges = np.sort(_edges(faces), axis=1)
    _, inverse, counts = np.unique(
        edges[:, 0] * np.int64(faces.max() + 1) + edges[:, 1],
        return_inverse=True,
        return_counts=True,
    )
    alone = (counts[inverse.reshape(-1)] == 1).reshape(3, -1).any(axis=0)
    open_ = np.unique(shell[alone])
    kept = ~np.isin(shell, open_)
    if not kept.any():
        raise InputError("every shell of the file is open; close them instead", "mesh.openings")
    if len(open_):
        notes.append(
            f"dropped {len(open_):,} open shell{'s' * (len(open_) > 1)} of "
            f"{int((~kept).sum()):,} triangles"
        )
    return faces[kept]


def shell_of_each(faces: np.ndarray) -> np.ndarray:
    """(F,) number of the connected shell of every face (F, 3)."""
    graph = sparse.coo_matrix(
        (np.ones(3 * len(faces), np.int8), tuple(_edges(faces).T)),
        shape=(faces.max() + 1, faces.max() + 1),
    )
    _, label = sparse.csgraph.connected_components(graph, directed=False)
    return np.asarray(np.unique(label[faces[:, 0]], return_inverse=True)[1]).reshape(-1)


def weld(vertices: np.ndarray, faces: np.ndarray, notes: Notes) -> tuple[np.ndarray, np.ndarray]:
    """Join equal corners; with a tolerance only when most edges stay open (a text file with rounded
    digits). ``vertices`` is (V, 3), in mm, ``faces`` (F, 3).
    """
    welded, mapped = _weld_exact(vertices, faces)
    if _open_share(mapped) > OPEN_SHARE:
        diagonal = float(np.linalg.norm(np.ptp(vertices, axis=0)))
        for tolerance in TOLERANCES:
            near, near_faces = _weld_exact(np.round(vertices / (tolerance * diagonal)), faces)
            if _open_share(near_faces) <= OPEN_SHARE:
                welded, mapped = near * (tolerance * diagonal), near_faces
                notes.append(f"joined corners up to {tolerance * diagonal:.4f} mm apart")
                break
    flat = (
        (mapped[:, 0] == mapped[:, 1])
        | (mapped[:, 1] == mapped[:, 2])
        | (mapped[:, 2] == mapped[:, 0])
    )
    if flat.any():
        notes.append(f"dropped {int(flat.sum()):,} triangles without area")
    return np.ascontiguousarray(welded, np.float64), mapped[~flat]


def _weld_exact(vertices: np.ndarray, faces: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    from northpace.part.kernels import weld_equal

    points = np.ascontiguousarray(vertices, np.float64) + 0.0  # adding 0.0 makes -0.0 and 0.0 equal
    first = np.empty(len(points), np.int64)
    number = weld_equal(points, first)
    return points[first[: number.max() + 1]], number[faces]


def _edges(faces: np.ndarray) -> np.ndarray:
    return np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])


def _open_share(faces: np.ndarray) -> float:
    edges = np.sort(_edges(faces), axis=1)
    keys = np.sort(edges[:, 0] * np.int64(faces.max() + 1) + edges[:, 1])
    counts = np.diff(np.flatnonzero(np.r_[True, keys[1:] != keys[:-1], True]))
    return float(np.mean(counts == 1)) if len(counts) else 1.0


def to_solid(
    vertices: np.ndarray, faces: np.ndarray, notes: Notes | None = None
) -> m3.Manifold | None:
    """The solid of a directed surface, or None when it is not closed. ``vertices`` is (V, 3), in
    mm, ``faces`` (F, 3).
    """
    mesh = m3.Mesh64(vertices, np.ascontiguousarray(faces, np.uint64))
    solid = m3.Manifold(mesh)
    if solid.status() == m3.Error.NotManifold and _most_at_a_corner(faces) <= MOST_AT_A_CORNER:
        # joins corners along open edges within the kernel's own precision; costly, so only when
        # needed
        mesh.merge()
        solid = m3.Manifold(mesh)
        if notes is not None and solid.status() == m3.Error.NoError and not solid.is_empty():
            notes.append("joined open edges that lie on each other")
    if solid.status() != m3.Error.NoError or solid.is_empty():
        return None
    return solid


def _most_at_a_corner(faces: np.ndarray) -> int:
    """How many edges that belong to one triangle alone end at the same corner, at most."""
    edges = np.sort(_edges(faces), axis=1)
    keys = np.sort(edges[:, 0] * np.int64(faces.max() + 1) + edges[:, 1])
    begin = np.flatnonzero(np.r_[True, keys[1:] != keys[:-1]])
    alone = keys[begin[np.diff(np.r_[begin, len(keys)]) == 1]]
    ends = np.r_[alone // (faces.max() + 1), alone % (faces.max() + 1)]
    return int(np.bincount(ends).max()) if len(ends) else 0


def _cancel_opposed(faces: np.ndarray, notes: Notes) -> np.ndarray:
    """Duplicate faces that oppose each other cancel, those that agree stand once."""
    order = np.sort(faces, axis=1)
    unique, inverse = np.unique(order, axis=0, return_inverse=True)
    if len(unique) == len(faces):
        return faces
    inverse = inverse.reshape(-1)
    # an even permutation of the sorted corners counts +1, an odd one −1
    first = faces.argmin(axis=1)
    rolled = np.take_along_axis(faces, (first[:, None] + np.arange(3)) % 3, axis=1)
    sign = np.where(rolled[:, 1] < rolled[:, 2], 1, -1)
    balance = np.zeros(len(unique), np.int64)
    np.add.at(balance, inverse, sign)
    kept = unique[balance != 0].copy()
    kept[balance[balance != 0] < 0] = kept[balance[balance != 0] < 0][:, ::-1]
    notes.append(f"dropped {len(faces) - len(kept):,} triangles that lay on each other")
    return kept


def make_consistent(faces: np.ndarray) -> tuple[np.ndarray, int]:
    """Turn triangles so that neighbours agree; each shell takes the side most of its triangles had.

    Two triangles sharing an edge agree when they run along it in opposite directions. The turned
    state of a triangle is found by walking a spanning forest over edges shared by exactly two
    triangles.
    """
    edges = _edges(faces)
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
    from northpace.part.kernels import spread_parity

    spread_parity(graph.indptr, graph.indices, graph.data, flip)
    share = np.bincount(label, weights=flip, minlength=total) / np.bincount(label, minlength=total)
    flip = np.where(share[label] > 0.5, 1 - flip, flip).astype(bool)
    out = faces.copy()
    out[flip] = out[flip][:, ::-1]
    return out, int(flip.sum())


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
    edges = _edges(faces)
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


def _shell_by_shell(vertices: np.ndarray, faces: np.ndarray, notes: Notes) -> m3.Manifold | None:
    """Build every connected shell on its own and put together those that close."""
    shell = shell_of_each(faces)
    order = np.argsort(shell, kind="stable")
    shells = np.split(order, np.flatnonzero(np.diff(shell[order])) + 1)
    closed = [
        own
        for own in shells
        # fewer than four triangles enclose nothing
        if len(own) >= 4 and to_solid(vertices, faces[own]) is not None
    ]
    kept = np.zeros(len(faces), bool)
    kept[np.concatenate([*closed, np.empty(0, np.int64)])] = True
    lost = int((~kept).sum())
    if not closed or lost > 0.02 * len(faces):
        return None
    if lost:
        notes.append(f"left out {lost:,} loose triangles that enclose nothing")
    # shells that do not touch close together when each of them closes; directions are sorted out by
    # `order_shells`
    return to_solid(vertices, faces[kept])


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
