"""What was taken from a file: its faults, what mending did, how far thinning went, its bodies."""

from __future__ import annotations

import time
from typing import Literal

import numpy as np
from typing_extensions import TypedDict

from northpace.heights.measure import measure
from northpace.outlines.sections import sections
from northpace.part.differences import ADDED, DROPPED, TURNED
from northpace.part.faults import Fault
from northpace.part.place import Placed
from northpace.part.solid import Part, splinters
from northpace.plan.pipeline import Pipeline
from northpace.plan.source import Source
from northpace.spec import PlanSpec

#: Bodies that are listed; a file of thousands is only counted.
MOST_BODIES = 200
#: Layers by which it is told how long the outlines of all take.
SOME = 24


class MendingFigures(TypedDict):
    """One thing that mending did, and the volume it gave to the part."""

    words: str
    volume_mm3: float


class BodyFigures(TypedDict):
    """A body of the file as it came."""

    name: str
    volume_mm3: float
    size_mm: list[float]
    triangles: int
    splinter: bool


class ThinFigures(TypedDict):
    """What thinning did: triangles, how far the surface moved (µm), and what it does to the step
    error of the plan's layers (µm) and to the time its outlines take (s).
    """

    triangles_before: int
    triangles_after: int
    moved_um: float
    mean_before_um: float
    mean_after_um: float
    p95_before_um: float
    p95_after_um: float
    outlines_before_s: float
    outlines_after_s: float


class MeshFigures(TypedDict):
    """What was taken from a file."""

    faults: list[Fault]
    mended: list[MendingFigures]
    rebuilt: bool
    widest_opening_mm: float
    #: how much closing openings was a guess
    guessed: Literal["", "a little", "much"]
    #: areas of the triangles that were added, dropped and turned
    added_mm2: float
    dropped_mm2: float
    turned_mm2: float
    volume_mm3: float
    triangles: int
    bodies: list[BodyFigures]
    body_count: int
    thinned: ThinFigures | None


def mesh_figures(pipeline: Pipeline, source: Source, spec: PlanSpec) -> MeshFigures:
    """What was taken from a file with the settings of a spec."""
    mended, whole = pipeline.mended(source, spec), pipeline.part(source, with_all(spec))
    changed = pipeline.differences(source, spec)
    return {
        "faults": pipeline.faults(source),
        "mended": [{"words": one.words, "volume_mm3": one.volume} for one in mended.done],
        "rebuilt": mended.doubtful,
        "widest_opening_mm": mended.widest_opening,
        "guessed": mended.guessed,
        "added_mm2": changed.area(ADDED),
        "dropped_mm2": changed.area(DROPPED),
        "turned_mm2": changed.area(TURNED),
        "volume_mm3": mended.volume,
        "triangles": mended.triangles_in_file,
        "bodies": _bodies(whole),
        "body_count": len(whole.names),
        "thinned": _thinned(pipeline, source, spec, whole) if spec.mesh.thin else None,
    }


def with_all(spec: PlanSpec) -> PlanSpec:
    """The spec with every body of the file where it was drawn."""
    return spec.model_copy(update={"mesh": spec.mesh.model_copy(update={"bodies": ()})})


def _bodies(part: Part) -> list[BodyFigures]:
    small = splinters(part)
    out: list[BodyFigures] = []
    for name, body, splinter in zip(
        part.names[:MOST_BODIES], part.bodies[:MOST_BODIES], small.tolist(), strict=False
    ):
        box = np.array(body.bounding_box())
        out.append(
            {
                "name": name,
                "volume_mm3": body.volume(),
                "size_mm": (box[3:] - box[:3]).tolist(),
                "triangles": body.num_tri(),
                "splinter": splinter,
            }
        )
    return out


def _thinned(pipeline: Pipeline, source: Source, spec: PlanSpec, part: Part) -> ThinFigures:
    full = spec.model_copy(update={"mesh": spec.mesh.model_copy(update={"thin": 0.0})})
    errors, seconds = [], []
    for one in (full, spec):
        # the same heights for both, so that the surface alone is compared
        even = np.full(_layers(pipeline, source, one), _steps(one))
        errors.append(measure(pipeline.surface(source, one), even))
        seconds.append(_outline_seconds(pipeline.placed(source, one), len(even)))
    before, after = errors
    return {
        "triangles_before": part.triangles + part.merged,
        "triangles_after": part.triangles,
        "moved_um": 1000 * part.moved,
        "mean_before_um": 1000 * before.mean,
        "mean_after_um": 1000 * after.mean,
        "p95_before_um": 1000 * before.p95,
        "p95_after_um": 1000 * after.p95,
        "outlines_before_s": seconds[0],
        "outlines_after_s": seconds[1],
    }


def _outline_seconds(placed: Placed, layers: int) -> float:
    """Seconds the outlines of so many layers take, from some of them: all would take as long as a
    plan's.
    """
    levels = (np.arange(SOME) + 0.5) / SOME * placed.height
    begun = time.perf_counter()
    sections(placed.solid, levels)
    return (time.perf_counter() - begun) * layers / SOME


def _steps(spec: PlanSpec) -> int:
    return max(round(spec.surface.layer_height / spec.machine.z_step), 1)


def _layers(pipeline: Pipeline, source: Source, spec: PlanSpec) -> int:
    height = pipeline.placed(source, spec).height
    return max(round(height / (_steps(spec) * spec.machine.z_step)), 1)
