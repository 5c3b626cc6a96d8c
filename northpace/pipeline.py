"""The order of the stages, each a pure function with a content key.

A stage's key is the digest of its own settings and of the keys it builds on; what did not change is
not computed again.
"""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from northpace import VERSION
from northpace.cache import StageCache
from northpace.checks.bed import bed_findings
from northpace.checks.finding import Finding
from northpace.checks.gaps import gap_findings
from northpace.checks.growing import growing_findings
from northpace.checks.limits import limit_findings, over, suits
from northpace.checks.mesh import mesh_findings
from northpace.checks.pace import pace_findings
from northpace.checks.places import place_findings
from northpace.checks.solid import solid_findings
from northpace.checks.supports import support_findings
from northpace.checks.surface import height_findings
from northpace.checks.travel import travel_findings
from northpace.gcode.write import write_gcode
from northpace.layers.edges import needs_layers, resolved, without_open_edges
from northpace.layers.even import even_heights
from northpace.layers.fit import Problem
from northpace.layers.measure import MEASURES
from northpace.layers.stack import Stack
from northpace.layers.surface import Facets, SurfaceTable, facets, surface_table
from northpace.material.strength import strength
from northpace.motion.derive import derived
from northpace.motion.pace import Timed, time_rows
from northpace.moves import Moves
from northpace.outlines.profile import Profile, profile
from northpace.outlines.sections import Outlines, cut
from northpace.part.solid import Part, Placed, check_size, load_part, place
from northpace.paths.build import Built, build_paths
from northpace.paths.vase import VaseCheck, vase_check
from northpace.report import report, seconds_by_cause
from northpace.spec import PlanSpec, digest, spec_from
from northpace.tradeoff.frontier import POINTS, Frontier, frontier
from northpace.tradeoff.heights import choose, height_task, plainly_even
from northpace.tradeoff.lighter import Lighter, lighter
from northpace.tradeoff.quick import Correction, correction_of

_BESIDE = ThreadPoolExecutor(2, "beside")
#: A plan within a time cap is solved again from its own exact times at most so often.
CAP_ROUNDS = 4
#: Stages a maker is told about while an exact plan is made, in order.
STAGES = ("load", "outlines", "layers", "paths", "motion", "gcode")


class Cancelled(Exception):
    """The caller asked to stop; nothing is half kept."""


@dataclass(frozen=True)
class Plan:
    """A computed plan: the spec it answers, the layers, the move table, the findings and the
    report.
    """

    spec: PlanSpec
    outlines: Outlines
    stack: Stack
    timed: Timed
    findings: list[Finding]
    report: dict[str, Any]
    gcode: bytes

    @property
    def moves(self) -> Moves:
        return self.timed.moves


class Pipeline:
    """Runs the stages over one cache. Safe to share between threads."""

    def __init__(self, cache: StageCache | None = None) -> None:
        self.cache = cache or StageCache()

    def part(self, data: bytes, filename: str) -> Part:
        """Stage *load*."""
        return self.cache.get(
            "load", self._file_key(data, filename), lambda: load_part(data, filename)
        )

    def placed(self, data: bytes, filename: str, spec: PlanSpec) -> Placed:
        """Stage *place*."""
        part = self.part(data, filename)
        return self.cache.get(
            "place",
            digest(self._file_key(data, filename), spec.place),
            lambda: place(part, spec.place),
        )

    def profile(self, data: bytes, filename: str, spec: PlanSpec) -> Profile:
        """Stage *profile*, of a part in an orientation."""
        placed = self.placed(data, filename, spec)
        key = digest(self._file_key(data, filename), spec.place, spec.machine.z_step)
        return self.cache.get("profile", key, lambda: profile(placed, spec.machine.z_step))

    def facets(self, data: bytes, filename: str, spec: PlanSpec) -> Facets:
        """Stage *facets*: the placed mesh with smooth slopes, flats and attention."""
        placed = self.placed(data, filename, spec)
        return self.cache.get(
            "facets",
            self._facets_key(data, filename, spec),
            lambda: facets(placed, spec.surface, spec.machine.z_step, spec.body.regions),
        )

    def surface(self, data: bytes, filename: str, spec: PlanSpec) -> SurfaceTable:
        """Stage *surface*: what any stack does to the surface."""
        height = self.placed(data, filename, spec).height
        return self.cache.get(
            "surface",
            self._facets_key(data, filename, spec),
            lambda: surface_table(self.facets(data, filename, spec), height, spec.machine.z_step),
        )

    def settled(
        self, data: bytes, filename: str, spec: PlanSpec, correction: Correction | None = None
    ) -> PlanSpec:
        """The spec with derived speeds as they come out, and every edge of a band as a height in
        mm. Edges tied to layers are found in the stack there would be without the bands they belong
        to; as those end at a layer anyway, the stack stays unless they change heights themselves.
        """
        spec = derived(spec)
        if not any(band.tied for band in spec.surface.bands):
            return spec
        placed = self.placed(data, filename, spec)
        tops = np.empty(0)
        if needs_layers(spec):
            first = resolved(without_open_edges(spec), placed, tops)
            tops = np.cumsum(self.stack(data, filename, first, correction).heights)
        out = resolved(spec, placed, tops)
        spec_from(out.model_dump())  # edges that are known now may overlap
        return out

    def task(
        self, data: bytes, filename: str, spec: PlanSpec, correction: Correction | None = None
    ) -> Problem:
        """Stage *task*: rules, seconds and errors that heights are chosen by; the same for every
        target and cap.
        """
        spec = self.settled(data, filename, spec, correction)
        shape, table = self.profile(data, filename, spec), self.surface(data, filename, spec)
        return self.cache.get(
            "task",
            self._task_key(data, filename, spec, correction),
            lambda: height_task(shape, table, spec, correction),
        )

    def stack(
        self, data: bytes, filename: str, spec: PlanSpec, correction: Correction | None = None
    ) -> Stack:
        """Stage *layers*: the heights a spec asks for. ``correction`` makes its times those of an
        exact plan of the part.
        """
        spec = self.settled(data, filename, spec, correction)
        key = digest(self._task_key(data, filename, spec, correction), spec.surface)
        task = self.task(data, filename, spec, correction)
        return self.cache.get("layers", key, lambda: choose(task, spec))

    def outlines(
        self, data: bytes, filename: str, spec: PlanSpec, heights: np.ndarray
    ) -> tuple[Outlines, str]:
        """Stage *outlines*, and its key."""
        placed = self.placed(data, filename, spec)
        surface = spec.surface
        key = digest(
            self._file_key(data, filename),
            spec.place,
            hashlib.sha256(heights.tobytes()).hexdigest(),
            surface.outline_offset,
            surface.first_layer_offset,
        )
        return self.cache.get(
            "outlines",
            key,
            lambda: cut(placed, heights, surface.outline_offset, surface.first_layer_offset),
        ), key

    def vase(
        self, data: bytes, filename: str, spec: PlanSpec, correction: Correction | None = None
    ) -> VaseCheck:
        """Whether the part can be one spiral, judged by the layers it has now."""
        heights = self.stack(data, filename, spec, correction).heights
        return vase_check(self.outlines(data, filename, spec, heights)[0], spec)

    def frontier(
        self,
        data: bytes,
        filename: str,
        spec: PlanSpec,
        correction: Correction | None = None,
        measures: tuple[str, ...] = MEASURES,
        points: int = POINTS,
    ) -> Frontier:
        """Stage *frontier*, of some of the measures; for an even plan that of a best fit under the
        same rules.
        """
        spec = self.settled(data, filename, spec, correction)
        if spec.surface.kind == "even":
            spec = spec.model_copy(
                update={"surface": spec.surface.model_copy(update={"kind": "best-fit"})}
            )
        key = digest(self._task_key(data, filename, spec, correction), measures, points)
        task = self.task(data, filename, spec, correction)
        return self.cache.get("frontier", key, lambda: frontier(task, spec, measures, points))

    def _facets_key(self, data: bytes, filename: str, spec: PlanSpec) -> str:
        surface = spec.surface
        regions = [region for region in spec.body.regions if region.attention]
        return digest(
            self._file_key(data, filename),
            spec.place,
            spec.machine.z_step,
            surface.marks,
            regions,
            (surface.seen_weight, surface.hidden_weight) if surface.marks or regions else None,
        )

    def _task_key(
        self, data: bytes, filename: str, spec: PlanSpec, correction: Correction | None
    ) -> str:
        surface = spec.surface
        # what only says which of the possible stacks is wanted is left out
        rules = surface.model_dump(
            exclude={
                "kind",
                "measure",
                "target_um",
                "time_cap_min",
                "layer_height",
                "seam",
                "seam_bearing",
                "seam_marks",
                "outline_offset",
                "first_layer_offset",
                "stack",
                "marks",
                "seen_weight",
                "hidden_weight",
                "worst_um",
            }
        )
        rules["worst_um"] = surface.worst_um if surface.kind == "best-fit" else None
        return digest(
            self._facets_key(data, filename, spec),
            rules,
            spec.body,
            spec.pace,
            spec.air,
            spec.footing,
            spec.machine,
            spec.material,
            correction,
        )

    def plan(
        self,
        data: bytes,
        filename: str,
        spec: PlanSpec,
        facts: dict[str, Any] | None = None,
        progress: Callable[[str, float], None] | None = None,
        cancelled: Callable[[], bool] | None = None,
        correction: Correction | None = None,
    ) -> Plan:
        """The exact plan.

        ``facts`` go into the file's header. ``progress(stage, share)`` is called as stages begin.
        ``correction`` is what the quick figures were corrected by, so that heights chosen by time
        come out as shown. A time cap is kept by exact times: where they differ from the quick ones,
        heights are chosen again with the difference. Raises `InputError` for what a maker can put
        right, and `Cancelled` when ``cancelled()`` says so between two stages.
        """
        # for an even stack, profile and surface are made beside the paths: what is waited for them
        # counts
        elapsed = dict.fromkeys(
            (
                "load",
                "profile",
                "surface",
                "layers",
                "outlines",
                "paths",
                "motion",
                "checks",
                "gcode",
            ),
            0.0,
        )
        begun = time.perf_counter()
        last = begun

        def mark(stage: str | None) -> None:
            if cancelled and cancelled():
                raise Cancelled
            if progress and stage:
                progress(stage, STAGES.index(stage) / len(STAGES))

        def note(stage: str) -> None:
            nonlocal last
            now = time.perf_counter()
            elapsed[stage] += now - last
            last = now

        spec_from(spec.model_dump())
        mark("load")
        part = self.part(data, filename)
        placed = self.placed(data, filename, spec)
        check_size(placed, spec.machine)
        asked, spec = spec, self.settled(data, filename, spec, correction)
        note("load")
        mark("layers")
        # an even stack is known at once: what it does to the surface is found while the paths are
        # laid
        ahead = None
        if plainly_even(spec.surface):
            ahead = _BESIDE.submit(self.stack, data, filename, spec, correction)
            even = even_heights(placed.height, spec.surface, spec.machine)
        else:
            self.surface(data, filename, spec)
            note("surface")
            self.profile(data, filename, spec)
            note("profile")
        for round_ in range(CAP_ROUNDS):
            mark("layers" if round_ else None)
            heights = even if ahead else self.stack(data, filename, spec, correction).heights
            note("layers")
            mark("outlines")
            outlines, outline_key = self.outlines(data, filename, spec, heights)
            note("outlines")
            mark("paths")
            built = build_paths(
                self.cache,
                outlines,
                outline_key,
                placed,
                digest(self._file_key(data, filename), spec.place),
                spec,
                lambda: mark(None),
                self._seen(data, filename, spec),
            )
            note("paths")
            mark("motion")
            timed_key = digest(
                built.key, spec.pace, spec.air, spec.material, spec.machine, spec.surface.bands
            )
            timed: Timed = self.cache.get(
                "motion",
                timed_key,
                lambda: time_rows(built.rows, spec, outlines.tops, heights),  # noqa: B023
            )  # noqa: B023
            note("motion")
            stack = ahead.result() if ahead else self.stack(data, filename, spec, correction)
            table = self.surface(data, filename, spec)
            note("surface")
            findings = [
                *mesh_findings(part),
                *self._path_findings(placed, outlines, built, timed, spec),
                *height_findings(stack, table, spec),
                *pace_findings(timed, outlines, spec),
            ]
            firm = self.cache.get(
                "strength",
                built.key,
                lambda: strength(outlines.areas, timed.moves, heights),  # noqa: B023
            )  # noqa: B023
            result = report(
                part, placed, outlines, built, timed, findings, spec, stack, table, firm
            )
            note("checks")
            if round_ == CAP_ROUNDS - 1 or _keeps_cap(timed, spec):
                break
            correction = correction_of(result, self.profile(data, filename, spec), spec)
        passed = self._limits(data, filename, spec, heights, result)
        findings = [*findings, *passed]
        result["findings"] += [finding.as_dict() for finding in passed]
        mark("gcode")
        start = float(timed.moves.seconds[0])
        text = write_gcode(
            timed.moves,
            spec,
            outlines.tops,
            outlines.heights,
            {
                **(facts or {}),
                "time": f"{result['time_s']['total']:.1f} s",
                "mass": f"{result['filament']['mass_g']:.3f} g",
                "start seconds": start,
                "spec checksum": digest(asked),
            },
        )
        note("gcode")
        result["elapsed_s"] = {**elapsed, "total": time.perf_counter() - begun}
        result["core_version"] = VERSION
        return Plan(asked, outlines, stack, timed, findings, result, text)

    def _path_findings(
        self, placed: Placed, outlines: Outlines, built: Built, timed: Timed, spec: PlanSpec
    ) -> list[Finding]:
        """Findings about the paths, those kept that speeds do not change."""
        spec = spec.model_copy(update={"body": spec.body.as_laid()})
        body, pace, moves = spec.body, spec.pace, timed.moves
        shape_key = digest(
            built.shape_key,
            spec.supports,
            body.build,
            body.outer_width,
            body.inner_width,
            body.fill_gaps,
            body.thin_beads,
        )
        shape = self.cache.get(
            "checks",
            shape_key,
            lambda: [
                *growing_findings(outlines, built, placed, spec),
                *(gap_findings(outlines, built, spec) if body.build != "spiral" else ()),
            ],
        )
        way = self.cache.get(
            "travel",
            digest(built.key, pace.retraction_length > 0),
            lambda: travel_findings(outlines, built, moves, spec),
        )
        by_patch, by_stand = seconds_by_cause(built, moves)
        total = float(moves.seconds.sum())
        return [
            *bed_findings(outlines, built, moves, placed, spec),
            *shape,
            *solid_findings(outlines, built, by_patch, total, spec),
            *support_findings(built, by_stand, spec),
            *place_findings(built.places, outlines, spec),
            *way,
        ]

    def _limits(
        self,
        data: bytes,
        filename: str,
        spec: PlanSpec,
        heights: np.ndarray,
        result: dict[str, Any],
    ) -> list[Finding]:
        """Findings about caps; what would keep to them is only looked for when one is passed."""
        found = suits(spec.machine, spec.material)
        if not over(result, spec):
            return found
        shape = self.profile(data, filename, spec)
        correction = correction_of(result, shape, spec)
        best = self.frontier(data, filename, spec, correction, ("mean",), 2)
        ways = (
            self.lighter(
                data,
                filename,
                spec,
                heights,
                result["filament"]["mass_g"] - spec.limits.mass_g,
                correction,
            )
            if spec.limits.mass_g
            else []
        )
        return [
            *found,
            *limit_findings(result, spec, min(point.seconds for point in best.points), ways),
        ]

    def lighter(
        self,
        data: bytes,
        filename: str,
        spec: PlanSpec,
        heights: np.ndarray,
        least_g: float,
        correction: Correction | None,
    ) -> list[Lighter]:
        """Changes that each make the part lighter by a mass (g), from the heights (N,) it has."""
        spec = self.settled(data, filename, spec, correction)

        def trimmed(off: float) -> Profile:
            return self.profile(
                data,
                filename,
                spec.model_copy(update={"place": spec.place.model_copy(update={"trim_top": off})}),
            )

        return lighter(
            self.profile(data, filename, spec), spec, heights, least_g, correction, trimmed
        )

    def _seen(
        self, data: bytes, filename: str, spec: PlanSpec
    ) -> tuple[np.ndarray, np.ndarray] | None:
        """Middles (K, 3) and areas (K,) of facets marked as seen."""
        if not spec.supports.enabled or "seen" not in [
            *(mark.attention for mark in spec.surface.marks),
            *(region.attention for region in spec.body.regions),
        ]:
            return None
        found = self.facets(data, filename, spec)
        seen = found.weights > 1
        return found.vertices[found.faces[seen]].mean(axis=1), found.areas[seen]

    def _file_key(self, data: bytes, filename: str) -> str:
        return _checksum(data) + filename.rsplit(".", 1)[-1].lower()


def _keeps_cap(timed: Timed, spec: PlanSpec) -> bool:
    """Whether a plan asked for within a time keeps it to within one layer, and does not leave more
    than 1 % of it unused.
    """
    if spec.surface.kind != "best-fit" or spec.surface.time_cap_min is None or spec.surface.stack:
        return True
    cap, layer = spec.surface.time_cap_min * 60, float(timed.layer_seconds.max())
    left = cap - float(timed.moves.seconds.sum())
    return bool(-layer <= left <= max(0.01 * cap, layer))


@lru_cache(maxsize=2)
def _checksum(data: bytes) -> str:
    """SHA-256 of a file; a plan asks for it at every stage, and a large file takes a while."""
    return hashlib.sha256(data).hexdigest()
