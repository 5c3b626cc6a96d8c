"""How a part stands on the bed: turned, scaled, trimmed, and whether it fits the machine."""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import shapely

from northpace.errors import InputError
from northpace.geometry.polygons import difference, intersection, rounded, together
from northpace.part.plate import keep_out, plate
from northpace.part.solid import Part
from northpace.spec import Machine, Placement


@dataclass(frozen=True)
class Placed:
    """A part standing on the bed: z = 0 is the plate, x and y count from the middle of the bed."""

    solid: m3.Manifold
    #: each body by itself, with its name
    named: dict[str, m3.Manifold]
    size: tuple[float, float, float]
    low: tuple[float, float, float]
    #: (3, 4): takes file coordinates to bed coordinates.
    affine: np.ndarray

    @property
    def bodies(self) -> tuple[m3.Manifold, ...]:
        return tuple(self.named.values())

    @property
    def height(self) -> float:
        return self.size[2]

    @property
    def volume(self) -> float:
        return float(self.solid.volume())

    @property
    def nbytes(self) -> int:
        return 2 * (self.solid.num_vert() * 64 + self.solid.num_tri() * 96)


def place(part: Part, placement: Placement) -> Placed:
    """Scale, stand on the chosen face, turn about x, y, z in this order, centre on the bed, drop to
    the plate.
    """
    matrix = placement_matrix(placement)
    affine = np.c_[matrix, np.zeros(3)]
    named = {
        name: body.transform(affine) for name, body in zip(part.names, part.bodies, strict=True)
    }
    boxes = np.array([body.bounding_box() for body in named.values()])
    low, high = boxes[:, :3].min(axis=0), boxes[:, 3:].max(axis=0)
    shift = np.array(
        [
            placement.shift_x - (low[0] + high[0]) / 2,
            placement.shift_y - (low[1] + high[1]) / 2,
            -low[2],
        ]
    )
    named = {name: body.translate(tuple(shift)) for name, body in named.items()}
    if placement.sink or placement.trim_top:
        named, shift = _trimmed(named, shift, placement, float(high[2] - low[2]))
        boxes = np.array([body.bounding_box() for body in named.values()])
        # sunk and trimmed, the part keeps its place on the bed
        low, high = boxes[:, :3].min(axis=0) - shift, boxes[:, 3:].max(axis=0) - shift
    bodies = list(named.values())
    if len(bodies) == 1:
        solid = bodies[0]
    elif _apart(boxes):
        solid = m3.Manifold.compose(bodies)
    else:
        solid = m3.Manifold.batch_boolean(bodies, m3.OpType.Add)
    size, origin = high - low, low + shift
    return Placed(
        solid,
        named,
        (float(size[0]), float(size[1]), float(size[2])),
        (float(origin[0]), float(origin[1]), float(origin[2])),
        np.c_[matrix, shift],
    )


def _trimmed(
    named: dict[str, m3.Manifold], shift: np.ndarray, placement: Placement, height: float
) -> tuple[dict[str, m3.Manifold], np.ndarray]:
    """Bodies without what lies below the plate and above the trimmed top, and the shift that goes
    with it.
    """
    left = height - placement.sink - placement.trim_top
    if left < 0.01:
        raise InputError(
            f"the part is {height:.2f} mm tall; sunk by {placement.sink:g} and trimmed by "
            f"{placement.trim_top:g} mm nothing is left of it",
            "place.sink",
        )
    down = np.array([0.0, 0.0, -placement.sink])
    cut = {
        name: body.translate(tuple(down))
        .trim_by_plane((0.0, 0.0, 1.0), 0.0)
        .trim_by_plane((0.0, 0.0, -1.0), -left)
        for name, body in named.items()
    }
    cut = {name: body for name, body in cut.items() if not body.is_empty()}
    if not cut:
        raise InputError("sunk and trimmed like this nothing is left of the part", "place.sink")
    return cut, shift + down


def _apart(boxes: np.ndarray) -> bool:
    """Whether no two bounding boxes touch, so that nothing has to be united."""
    if len(boxes) > 500:
        return False
    low, high = boxes[:, None, :3], boxes[None, :, 3:]
    over = (low <= high).all(axis=2)
    return int((over & over.T).sum()) == len(boxes)


def scales(placement: Placement) -> np.ndarray:
    """(3,) sizes along x, y, z relative to the file; the one that is mirrored is negative."""
    unit = 25.4 if placement.inches else 1.0
    scale = np.array([placement.scale_x, placement.scale_y, placement.scale_z]) * unit / 100.0
    if placement.mirror:
        scale["xyz".index(placement.mirror)] *= -1
    return scale


def placement_matrix(placement: Placement) -> np.ndarray:
    """(3, 3) matrix that takes file coordinates to bed coordinates, without the shift."""
    scale = scales(placement)
    down = np.array([placement.down_x, placement.down_y, placement.down_z])
    # a normal is carried by the inverse transpose of the scale
    down = down / scale
    stand = rotation_between(down / np.linalg.norm(down), np.array([0.0, 0.0, -1.0]))
    turns = [
        turn(axis, angle)
        for axis, angle in enumerate((placement.turn_x, placement.turn_y, placement.turn_z))
    ]
    return np.asarray(turns[2] @ turns[1] @ turns[0] @ stand * scale)


def turn(axis: int, degrees: float) -> np.ndarray:
    """(3, 3) turn about an axis."""
    # exact at right angles, so that a box turned by 90° keeps level faces
    sine, cosine = (
        np.round(np.sin(np.radians(degrees)), 15),
        np.round(np.cos(np.radians(degrees)), 15),
    )
    matrix = np.eye(3)
    a, b = (axis + 1) % 3, (axis + 2) % 3
    matrix[a, a], matrix[a, b], matrix[b, a], matrix[b, b] = cosine, -sine, sine, cosine
    return matrix


#: A part this many times larger than the machine's longest side is a mistaken unit.
BEYOND = 3.0


def rotation_between(start: np.ndarray, end: np.ndarray) -> np.ndarray:
    """The least rotation that takes one unit vector to another (Rodrigues' formula). Both are (3,),
    the result (3, 3). Source: Rodrigues, Journal de mathématiques pures et appliquées 5, 1840.
    """
    axis, cosine = np.cross(start, end), float(start @ end)
    if cosine > 1 - 1e-12:
        return np.eye(3)
    if cosine < -1 + 1e-12:
        return np.diag([1.0, -1.0, -1.0])
    cross = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.asarray(np.eye(3) + cross + cross @ cross / (1 + cosine))


def check_size(placed: Placed, machine: Machine) -> None:
    """Raise `InputError` for a size that cannot be meant: next to nothing, or several times what
    the machine builds.
    """
    size = placed.size
    if min(size) < 0.01:
        raise InputError(
            f"the part is only {min(size):.4f} mm in one direction; is its unit right?",
            "place.scale_x",
        )
    room = max(machine.size_x, machine.size_y, machine.size_z)
    if max(size) > BEYOND * room:
        raise InputError(
            f"the part is {max(size):.0f} mm long, {max(size) / room:.1f} times what "
            f"{machine.name} builds; is its unit right?",
            "place.scale_x",
        )


def misfits(
    placed: Placed, machine: Machine, margin: float = 0.0, lift: float = 0.0
) -> list[tuple[str, str, str]]:
    """Code, sentence and what would help for every way in which the part, with a margin around it
    and raised by ``lift`` (mm), leaves the build volume.
    """
    size, found = placed.size, []
    if size[2] + lift > machine.size_z + 1e-6:
        found.append(
            (
                "too-tall",
                f"The part is {size[2] + lift:.1f} mm tall{' on its raft' if lift else ''}; "
                f"{machine.name} builds up to {machine.size_z:g} mm.",
                "Lay it down, scale it, or take a taller machine.",
            )
        )
    low = np.array(placed.low[:2]) - margin
    high = np.array(placed.low[:2]) + np.array(size[:2]) + margin
    if machine.bed == "rectangle":
        half = np.array([machine.size_x, machine.size_y]) / 2
        if (low < -half - 1e-6).any() or (high > half + 1e-6).any():
            found.append(
                (
                    "outside-bed",
                    f"The part takes {size[0]:.1f} × {size[1]:.1f} mm, its footing included "
                    f"{size[0] + 2 * margin:.1f} × {size[1] + 2 * margin:.1f}, and reaches beyond "
                    f"the bed of {machine.name} ({machine.size_x:g} × {machine.size_y:g} mm).",
                    "Turn or shift it, make the footing smaller, or take a larger bed.",
                )
            )
        return found
    if machine.bed == "round":
        points = np.asarray(placed.solid.to_mesh().vert_properties)[:, :2]
        reach = float(np.linalg.norm(points, axis=1).max()) + margin
        if reach > machine.size_x / 2 + 1e-6:
            found.append(
                (
                    "outside-bed",
                    f"The part and its footing reach {reach:.1f} mm from the middle; the round bed "
                    f"of {machine.name} has a radius of {machine.size_x / 2:g} mm.",
                    "Shift it, make the footing smaller, or take a larger bed.",
                )
            )
        return found
    out = float(shapely.distance(_corners(placed, margin), plate(machine)).max())
    if out > 1e-6:
        found.append(
            (
                "outside-bed",
                f"The part and its footing reach {out:.1f} mm beyond the bed of {machine.name}.",
                "Turn or shift it, make the footing smaller, or take a larger bed.",
            )
        )
    return found


def _corners(placed: Placed, margin: float) -> np.ndarray:
    """(C,) points around the part seen from above, a margin in mm away from it."""
    return np.asarray(
        shapely.points(shapely.get_coordinates(rounded(seen_from_above(placed), margin, 8)))
    )


def seen_from_above(placed: Placed) -> shapely.Geometry:
    """What the part covers of the bed."""
    rings = [shapely.Polygon(ring) for ring in placed.solid.project().to_polygons()]
    # holes run the other way round, and lie in what is solid
    solid = [ring for ring in rings if shapely.is_ccw(shapely.get_exterior_ring(ring))]
    holes = [ring for ring in rings if not shapely.is_ccw(shapely.get_exterior_ring(ring))]
    return difference(together(np.array(solid, object)), together(np.array(holes, object)))


def kept_out(placed: Placed, machine: Machine, margin: float = 0.0) -> list[str]:
    """Names of the keep-out places that the part, with a margin in mm around it, stands on."""
    places = keep_out(machine)
    if not places:
        return []
    area = rounded(seen_from_above(placed), margin, 8)
    return [name for name, place in places if shapely.area(intersection(area, place)) > 0.01]


def flat_faces(part: Part, most: int = 24) -> list[dict[str, object]]:
    """Level faces of the convex hull the part can stand on, largest first: outward normal in the
    file and area in mm².
    """
    hull = (
        m3.Manifold.batch_hull(list(part.bodies)) if len(part.bodies) > 1 else part.bodies[0].hull()
    )
    mesh = hull.to_mesh64()
    corners = np.asarray(mesh.vert_properties)[:, :3][np.asarray(mesh.tri_verts)]
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    double = np.linalg.norm(cross, axis=1)
    kept = double > 1e-9 * double.sum()
    normal = cross[kept] / double[kept, None]
    _, group = np.unique(np.round(normal, 3), axis=0, return_inverse=True)
    group = group.reshape(-1)
    area = np.bincount(group, weights=double[kept] / 2)
    mean = np.stack(
        [np.bincount(group, weights=normal[:, k] * double[kept]) for k in range(3)], axis=1
    )
    mean = mean / np.linalg.norm(mean, axis=1, keepdims=True)
    order = np.argsort(-area)[:most]
    return [
        {"normal": [round(float(v), 6) for v in mean[k]], "area_mm2": float(area[k])} for k in order
    ]
