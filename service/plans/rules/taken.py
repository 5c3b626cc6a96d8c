"""What was taken from a plan's file, and parts that are made of it."""

from __future__ import annotations

from typing import Any

import numpy as np

from northpace.errors import InputError
from northpace.heights.shape import streamed
from northpace.part.carried import with_bodies_moved
from northpace.part.cut import cut
from northpace.part.differences import KEPT, Differences
from northpace.part.faults import Fault
from northpace.part.stl import binary_stl, mesh_arrays
from northpace.part.thin import merged
from northpace.part.triangles import welded_exactly
from northpace.plan.mesh import MeshFigures, mesh_figures, with_all
from northpace.spec import BodyChange, PlanSpec
from service.core import pipeline
from service.limits import figuring
from service.parts.models import Part
from service.parts.rules.parts import take_in
from service.plans.models import Plan
from service.plans.rules.beside import beside

#: Triangles that only stayed as they were are thinned out beyond so many; what changed is not.
MOST_KEPT = 120_000
#: Bodies that become parts at once.
MOST_PARTS = 50


@beside("quick", figuring)
def mesh_taken(plan: Plan, spec: PlanSpec) -> MeshFigures:
    """What was taken from a plan's file."""
    found = mesh_figures(pipeline(), plan.part.source, spec)
    affine = pipeline().placed(plan.part.source, spec).affine
    # what the core found is kept for others: it is not changed here
    found["faults"] = [{**fault, "places": _stand(fault, affine)} for fault in found["faults"]]
    return found


def _stand(fault: Fault, affine: np.ndarray) -> list[list[float]]:
    """The places of a fault on the bed."""
    places = np.array(fault["places"], float).reshape(-1, 3)
    return [
        [float(v) for v in place] for place in np.round(places @ affine[:, :3].T + affine[:, 3], 3)
    ]


@beside("quick", figuring)
def mesh_changes(plan: Plan, spec: PlanSpec) -> bytes:
    """The triangles of a plan's file and of what mending made of it, where they stand: an Arrow
    stream with three rows a triangle: x, y, z (mm), state (0 kept, 1 added, 2 dropped, 3 turned).
    """
    source = plan.part.source
    changed = pipeline().differences(source, spec)
    corners, state = _fewer(changed)
    affine = pipeline().placed(source, spec).affine
    points = corners.reshape(-1, 3) @ affine[:, :3].T + affine[:, 3]
    return streamed(points, {"state": np.repeat(state.astype(np.uint8), 3)}, affine)


def _fewer(changed: Differences) -> tuple[np.ndarray, np.ndarray]:
    """Corners (T, 3, 3) and states (T,), no more of them than a screen takes."""
    kept = changed.state == KEPT
    if kept.sum() <= MOST_KEPT:
        return changed.corners, changed.state
    flat = changed.corners[kept].reshape(-1, 3)
    points, faces = welded_exactly(flat, np.arange(len(flat)).reshape(-1, 3))
    vertices, faces = merged(points, faces, MOST_KEPT)
    own = vertices[faces]
    return (
        np.concatenate([own, changed.corners[~kept]]),
        np.concatenate([np.full(len(own), KEPT), changed.state[~kept]]),
    )


@beside("quick", figuring)
def bodies_moved(
    plan: Plan, spec: PlanSpec, bodies: tuple[BodyChange, ...]
) -> dict[str, list[Any]]:
    """Values of settings by name that a spec has when its bodies are moved so: what is marked on
    them goes with them.
    """
    part = pipeline().part(plan.part.source, with_all(spec))
    return with_bodies_moved(spec, part, bodies)


def bodies_apart(plan: Plan, names: list[str]) -> list[Part]:
    """Bodies of a plan's part, as they are in it, as parts of their own."""
    return _taken_in(plan, _bodies(plan, plan.latest.whole_spec, names))


@beside("quick", figuring)
def _bodies(plan: Plan, spec: PlanSpec, names: list[str]) -> list[tuple[str, bytes]]:
    part = pipeline().part(plan.part.source, spec)
    unknown = [name for name in names if name not in part.names]
    if unknown:
        raise InputError(f"there is no body '{unknown[0]}' in the plan", "bodies")
    chosen = [k for k, name in enumerate(part.names) if not names or name in names]
    if len(chosen) > MOST_PARTS:
        raise InputError(
            f"{len(chosen)} bodies are many parts; at most {MOST_PARTS} are made at once", "bodies"
        )
    return [(part.names[k], binary_stl(*mesh_arrays((part.bodies[k],))[:2])) for k in chosen]


def cut_apart(plan: Plan, normal: list[float], offset: float) -> list[Part]:
    """Both halves of a plan's part as it stands, cut by a plane of the bed, as parts that stand on
    the cut.
    """
    return _taken_in(plan, _halves(plan, plan.latest.whole_spec, normal, offset))


@beside("quick", figuring)
def _halves(
    plan: Plan, spec: PlanSpec, normal: list[float], offset: float
) -> list[tuple[str, bytes]]:
    placed = pipeline().placed(plan.part.source, spec)
    return [
        (name, binary_stl(*mesh_arrays((half,))[:2]))
        for name, half in zip(
            ("lower half", "upper half"), cut(placed.solid, np.array(normal), offset), strict=True
        )
    ]


def _taken_in(plan: Plan, files: list[tuple[str, Any]]) -> list[Part]:
    name = plan.part.name
    return [take_in(plan.workshop, f"{name} {word}.stl", data) for word, data in files]
