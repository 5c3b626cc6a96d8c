"""Regions as volumes: their sections at any height, and which points lie in them."""

from __future__ import annotations

import manifold3d as m3
import numpy as np
import shapely

from northpace.errors import InputError
from northpace.geometry.polygons import EMPTY, Pieces, rounded, together, united
from northpace.outlines.sections import sections
from northpace.part.faces import marked_face, neighbours
from northpace.part.place import Placed
from northpace.part.stl import mesh_arrays
from northpace.spec import Region

#: Facets steeper than this (share of their normal that is upright) have nothing under or over them.
LEVEL = 0.02
#: Slabs a distance is made of: its section is off by no more than a hundredth of it at the widest.
SLABS = 5
#: Neighbouring shadows are joined across this (mm).
SEAM = 0.02
#: Corners of round solids.
ROUND = 96
#: Points are told apart in height by this (mm).
GRAIN = 0.05


def volume_sections(region: Region, placed: Placed, levels: np.ndarray) -> np.ndarray:
    """(N,) areas of a region at heights (N,) in mm above the plate, beyond the part too."""
    vertices, faces, _ = mesh_arrays((placed.solid,))
    return _sections(region, np.asarray(vertices, np.float64)[faces], placed, levels)


def inside(region: Region, points: np.ndarray, corners: np.ndarray, placed: Placed) -> np.ndarray:
    """(K,) whether points (K, 3) mm lie in a region of a placed part with facets ``corners`` (F, 3,
    3).
    """
    level, place = np.unique(np.round(points[:, 2] / GRAIN).astype(np.int64), return_inverse=True)
    heights = level * GRAIN
    if region.shape == "body" and region.body in placed.named:
        # what lies under the skin of its ends is rounded into it, not out of it
        box = placed.named[region.body].bounding_box()
        low, high = box[2] + GRAIN / 4, box[5] - GRAIN / 4
        ends = (heights > low - GRAIN) & (heights < high + GRAIN)
        heights = np.where(ends, np.clip(heights, low, max(low, high)), heights)
    areas = _sections(region, corners, placed, heights)
    shapely.prepare(areas)
    return np.asarray(shapely.contains_xy(areas[place], points[:, 0], points[:, 1]))


def scale_of(affine: np.ndarray) -> float:
    """How much larger the placed part is than its file; where the axes differ, their geometric
    mean. ``affine`` is (3, 4).
    """
    return float(abs(np.linalg.det(affine[:, :3])) ** (1 / 3))


def _sections(
    region: Region, corners: np.ndarray, placed: Placed, levels: np.ndarray
) -> np.ndarray:
    affine = placed.affine
    if region.shape == "body":
        if region.body not in placed.named:
            raise InputError(
                f"{region.title}: there is no such body in the part; there is "
                + ", ".join(f"'{name}'" for name in list(placed.named)[:8]),
                "body.regions",
            )
        return sections(placed.named[region.body], levels)
    if region.shape in ("box", "cylinder", "ball", "outline"):
        return sections(_solid(region).transform(affine), levels)
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1), 1e-300)[:, None]
    _, welded = np.unique(np.round(corners.reshape(-1, 3), 6), axis=0, return_inverse=True)
    face = marked_face(corners, normals, neighbours(welded.reshape(-1, 3)), affine, region)
    if region.shape == "near":
        return _near(corners[face], region.reach * scale_of(affine), levels)
    return sections(
        _prism(region, corners[face], normals[face], affine, float(corners[:, :, 2].max())), levels
    )


def _solid(region: Region) -> m3.Manifold:
    """A plain solid or a drawn outline in the file's coordinates."""
    middle = (region.x, region.y, region.z)
    if region.shape == "box":
        return m3.Manifold.cube((region.size_x, region.size_y, region.size_z), True).translate(
            middle
        )
    if region.shape == "cylinder":
        return m3.Manifold.cylinder(
            region.size_z, region.reach, region.reach, ROUND, True
        ).translate(middle)
    if region.shape == "ball":
        return m3.Manifold.sphere(region.reach, ROUND).translate(middle)
    points = np.array(region.points)
    at = points.mean(axis=0)
    # the normal of a polygon in space: Newell's sum over its edges
    normal = np.cross(points - at, np.roll(points, -1, axis=0) - at).sum(axis=0)
    if np.linalg.norm(normal) < 1e-9:
        raise InputError(f"{region.title} has an outline without area", "body.regions")
    normal /= np.linalg.norm(normal)
    along = np.eye(3)[int(np.argmin(np.abs(normal)))]
    u = np.cross(along, normal)
    u /= np.linalg.norm(u)
    v = np.cross(normal, u)
    flat = np.column_stack([(points - at) @ u, (points - at) @ v])
    frame = np.column_stack([u, v, normal, at])
    return (
        m3.CrossSection([flat], m3.FillRule.NonZero)
        .extrude(region.size_z)
        .translate((0, 0, -region.size_z / 2))
        .transform(frame)
    )


def _prism(
    region: Region, corners: np.ndarray, normals: np.ndarray, affine: np.ndarray, top: float
) -> m3.Manifold:
    """What lies under or over facets (F, 3, 3) of one face, down or up by the region's reach, or
    all the way.
    """
    level = np.abs(normals[:, 2]) > LEVEL
    if not level.any():
        raise InputError(
            f"{region.title} is {region.shape} an upright face; only faces that lean have "
            f"something {region.shape} them",
            "body.regions",
        )
    side = np.sign(normals[level, 2][np.argmax(np.abs(normals[level, 2]))])
    chosen = level & (normals[:, 2] * side > 0)
    tri = corners[chosen] if side > 0 else corners[chosen][:, ::-1]
    points, faces = np.unique(np.round(tri.reshape(-1, 3), 6), axis=0, return_inverse=True)
    faces = faces.reshape(-1, 3)
    depth = region.reach / max(float(np.linalg.norm(np.linalg.inv(affine[:, :3])[:, 2])), 1e-9)
    other = points.copy()
    if region.shape == "under":
        other[:, 2] = points[:, 2] - depth if region.reach > 0 else -1.0
        upper, lower = points, other
    else:
        other[:, 2] = points[:, 2] + depth if region.reach > 0 else top + 1.0
        upper, lower = other, points
    edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    key, back = edges[:, 0] * len(points) + edges[:, 1], edges[:, 1] * len(points) + edges[:, 0]
    rim = edges[~np.isin(key, back)]
    n = len(points)
    mesh = np.concatenate(
        [
            faces,
            faces[:, ::-1] + n,
            np.column_stack([rim[:, 1], rim[:, 0], rim[:, 0] + n]),
            np.column_stack([rim[:, 1], rim[:, 0] + n, rim[:, 1] + n]),
        ]
    )
    solid = m3.Manifold(m3.Mesh64(np.concatenate([upper, lower]), mesh.astype(np.uint64)))
    if solid.status() != m3.Error.NoError or solid.is_empty():
        raise InputError(
            f"{region.title}: its face folds over itself; choose a smaller spread", "body.regions"
        )
    return solid


def _near(corners: np.ndarray, far: float, levels: np.ndarray) -> np.ndarray:
    """(N,) areas within ``far`` mm of facets (F, 3, 3): what of them lies in a slab, grown by how
    far a ball still reaches from there.
    """
    thick = far / SLABS
    low, high = corners[:, :, 2].min(axis=1), corners[:, :, 2].max(axis=1)
    # slabs from which no ball reaches a level that is asked for are left out
    nearest, farthest = (
        np.floor((levels.min() - far) / thick) - 1,
        np.floor((levels.max() + far) / thick) + 1,
    )
    first, last = (
        np.clip(np.floor(edge / thick), nearest, farthest).astype(np.int64) for edge in (low, high)
    )
    count = last - first + 1
    facet = np.repeat(np.arange(len(corners)), count)
    slab = np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count) + first[facet]
    pieces = _clipped(corners[facet], slab * thick, (slab + 1) * thick)
    order = np.argsort(slab, kind="stable")
    known, starts = np.unique(slab[order], return_index=True)
    # a hair wider, so that what is left of neighbouring facets joins without seams
    shadows = [
        shapely.simplify(together(rounded(part, SEAM, 1)), 2 * SEAM)
        for part in np.split(pieces[order], starts[1:])
    ]
    by_slab = dict(zip(known.tolist(), shadows, strict=True))
    out = np.full(len(levels), EMPTY, object)
    middle = (known + 0.5) * thick
    pairs = [(n, k) for n, z in enumerate(levels) for k in known[np.abs(middle - z) < far].tolist()]
    if not pairs:
        return out
    shapes = np.array([by_slab[k] for _, k in pairs], object)
    away = np.array([abs((k + 0.5) * thick - levels[n]) for n, k in pairs])
    grown = rounded(shapes, np.sqrt(far * far - away * away), 6)
    return united(Pieces(grown, np.array([n for n, _ in pairs])), len(levels))


def _clipped(corners: np.ndarray, low: np.ndarray, high: np.ndarray) -> np.ndarray:
    """(K,) shadows on the plate of what of triangles (K, 3, 3) lies between two heights; upright
    ones leave a line.
    """
    other = np.roll(corners, -1, axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        cuts = []
        for plane in (low, high):
            t = (plane[:, None] - corners[:, :, 2]) / (other[:, :, 2] - corners[:, :, 2])
            hit = (t >= 0) & (t <= 1)
            cuts.append(
                np.where(
                    hit[..., None],
                    corners + np.where(hit, t, 0.0)[..., None] * (other - corners),
                    np.nan,
                )
            )
    own = (corners[:, :, 2] >= low[:, None] - 1e-9) & (corners[:, :, 2] <= high[:, None] + 1e-9)
    found = np.concatenate([np.where(own[..., None], corners, np.nan), *cuts], axis=1)[:, :, :2]
    valid = ~np.isnan(found[:, :, 0])
    keep = np.flatnonzero(valid.any(axis=1))
    out = np.full(len(corners), EMPTY, object)
    place = np.repeat(np.arange(len(keep)), valid[keep].sum(axis=1))
    out[keep] = shapely.convex_hull(
        shapely.multipoints(shapely.points(found[keep][valid[keep]]), indices=place)
    )
    return out
