"""The order of the stages, each a pure function with a content key.

A stage's key is the digest of its own settings and of the keys it builds on; what did not change is not computed again.
"""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from northpace import VERSION
from northpace.cache import StageCache
from northpace.checks.finding import Finding
from northpace.checks.mesh import mesh_findings
from northpace.checks.paths import pace_findings, path_findings
from northpace.checks.surface import height_findings
from northpace.gcode.write import write_gcode
from northpace.layers.even import even_heights
from northpace.layers.fit import Problem
from northpace.layers.measure import MEASURES
from northpace.layers.stack import Stack
from northpace.layers.surface import Facets, SurfaceTable, facets, surface_table
from northpace.motion.pace import Timed, time_rows
from northpace.moves import Moves
from northpace.outlines.profile import Profile, profile
from northpace.outlines.sections import Outlines, cut
from northpace.part.solid import Part, Placed, check_fits, load_part, place
from northpace.paths import areas as area_rules
from northpace.paths import footing
from northpace.paths.fill import gap_paths, infill_paths, solid_paths
from northpace.paths.lay import Rows, lay
from northpace.paths.table import PathTable
from northpace.paths.walls import Walls, walls
from northpace.report import report
from northpace.spec import PlanSpec, digest, spec_from
from northpace.tradeoff.frontier import POINTS, Frontier, frontier
from northpace.tradeoff.heights import choose, height_task, plainly_even
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
    """A computed plan: the spec it answers, the layers, the move table, the findings and the report."""

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
        return self.cache.get("load", self._file_key(data, filename), lambda: load_part(data, filename))

    def placed(self, data: bytes, filename: str, spec: PlanSpec) -> Placed:
        """Stage *place*."""
        part = self.part(data, filename)
        return self.cache.get("place", digest(self._file_key(data, filename), spec.place), lambda: place(part, spec.place))

    def profile(self, data: bytes, filename: str, spec: PlanSpec) -> Profile:
        """Stage *profile*, of a part in an orientation."""
        placed = self.placed(data, filename, spec)
        key = digest(self._file_key(data, filename), spec.place, spec.machine.z_step)
        return self.cache.get("profile", key, lambda: profile(placed, spec.machine.z_step))

    def facets(self, data: bytes, filename: str, spec: PlanSpec) -> Facets:
        """Stage *facets*: the placed mesh with smooth slopes, flats and attention."""
        placed = self.placed(data, filename, spec)
        return self.cache.get("facets", self._facets_key(data, filename, spec), lambda: facets(placed, spec.surface, spec.machine.z_step))

    def surface(self, data: bytes, filename: str, spec: PlanSpec) -> SurfaceTable:
        """Stage *surface*: what any stack does to the surface."""
        height = self.placed(data, filename, spec).height
        return self.cache.get("surface", self._facets_key(data, filename, spec),
                              lambda: surface_table(self.facets(data, filename, spec), height, spec.machine.z_step))

    def task(self, data: bytes, filename: str, spec: PlanSpec, correction: Correction | None = None) -> Problem:
        """Stage *task*: rules, seconds and errors that heights are chosen by; the same for every target and cap."""
        shape, table = self.profile(data, filename, spec), self.surface(data, filename, spec)
        return self.cache.get("task", self._task_key(data, filename, spec, correction), lambda: height_task(shape, table, spec, correction))

    def stack(self, data: bytes, filename: str, spec: PlanSpec, correction: Correction | None = None) -> Stack:
        """Stage *layers*: the heights a spec asks for. ``correction`` makes its times those of an exact plan of the part."""
        key = digest(self._task_key(data, filename, spec, correction), spec.surface)
        task = self.task(data, filename, spec, correction)
        return self.cache.get("layers", key, lambda: choose(task, spec))

    def frontier(self, data: bytes, filename: str, spec: PlanSpec, correction: Correction | None = None,
                 measures: tuple[str, ...] = MEASURES, points: int = POINTS) -> Frontier:
        """Stage *frontier*, of some of the measures; for an even plan that of a best fit under the same rules."""
        if spec.surface.kind == "even":
            spec = spec.model_copy(update={"surface": spec.surface.model_copy(update={"kind": "best-fit"})})
        key = digest(self._task_key(data, filename, spec, correction), measures, points)
        task = self.task(data, filename, spec, correction)
        return self.cache.get("frontier", key, lambda: frontier(task, spec, measures, points))

    def _facets_key(self, data: bytes, filename: str, spec: PlanSpec) -> str:
        surface = spec.surface
        return digest(self._file_key(data, filename), spec.place, spec.machine.z_step, surface.marks,
                      (surface.seen_weight, surface.hidden_weight) if surface.marks else None)

    def _task_key(self, data: bytes, filename: str, spec: PlanSpec, correction: Correction | None) -> str:
        surface = spec.surface
        # what only says which of the possible stacks is wanted is left out
        rules = surface.model_dump(exclude={"kind", "measure", "target_um", "time_cap_min", "layer_height", "seam", "outline_offset",
                                            "first_layer_offset", "stack", "marks", "seen_weight", "hidden_weight", "worst_um"})
        rules["worst_um"] = surface.worst_um if surface.kind == "best-fit" else None
        return digest(self._facets_key(data, filename, spec), rules, spec.body, spec.pace, spec.air, spec.footing, spec.machine,
                      spec.material, correction)

    def plan(self, data: bytes, filename: str, spec: PlanSpec, facts: dict[str, Any] | None = None,
             progress: Callable[[str, float], None] | None = None, cancelled: Callable[[], bool] | None = None,
             correction: Correction | None = None) -> Plan:
        """The exact plan.

        ``facts`` go into the file's header. ``progress(stage, share)`` is called as stages begin. ``correction`` is what the quick
        figures were corrected by, so that heights chosen by time come out as shown. A time cap is kept by exact times: where they
        differ from the quick ones, heights are chosen again with the difference. Raises `InputError` for what a maker can put right,
        and `Cancelled` when ``cancelled()`` says so between two stages.
        """
        # for an even stack, profile and surface are made beside the paths: what is waited for them counts
        elapsed = dict.fromkeys(("load", "profile", "surface", "layers", "outlines", "paths", "motion", "gcode"), 0.0)
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
        check_fits(placed, spec.machine, footing.reach(spec.footing.skirt_loops, spec.footing.skirt_distance, spec.footing.skirt_width))
        note("load")
        mark("layers")
        # an even stack is known at once: what it does to the surface is found while the paths are laid
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
            outline_key = digest(self._file_key(data, filename), spec.place, hashlib.sha256(heights.tobytes()).hexdigest(),
                                 spec.surface.outline_offset, spec.surface.first_layer_offset)
            outlines = self.cache.get("outlines", outline_key, lambda: cut(placed, heights, spec.surface.outline_offset,  # noqa: B023
                                                                           spec.surface.first_layer_offset))
            note("outlines")
            mark("paths")
            rows, rows_key = self._rows(outlines, outline_key, spec, lambda: mark(None))
            note("paths")
            mark("motion")
            timed_key = digest(rows_key, spec.pace, spec.air, spec.material, spec.machine)
            timed: Timed = self.cache.get("motion", timed_key, lambda: time_rows(rows, spec, len(heights)))  # noqa: B023
            findings = self.cache.get("checks", digest(outline_key, spec.body.walls, spec.body.outer_width),
                                      lambda: path_findings(outlines, spec))  # noqa: B023
            note("motion")
            stack = ahead.result() if ahead else self.stack(data, filename, spec, correction)
            table = self.surface(data, filename, spec)
            note("surface")
            findings = mesh_findings(part) + findings + height_findings(stack, table, spec) + pace_findings(timed, outlines, spec)
            result = report(part, placed, outlines, rows, timed, findings, spec, stack, table)
            if round_ == CAP_ROUNDS - 1 or _keeps_cap(timed, spec):
                break
            correction = correction_of(result, self.profile(data, filename, spec), spec)
        mark("gcode")
        start = float(timed.moves.seconds[0])
        text = write_gcode(timed.moves, spec, outlines.tops, outlines.heights, {
            **(facts or {}), "time": f"{result['time_s']['total']:.1f} s", "mass": f"{result['filament']['mass_g']:.3f} g",
            "start seconds": start})
        note("gcode")
        result["elapsed_s"] = {**elapsed, "total": time.perf_counter() - begun}
        result["core_version"] = VERSION
        return Plan(spec, outlines, stack, timed, findings, result, text)

    def _rows(self, outlines: Outlines, outline_key: str, spec: PlanSpec, check: Callable[[], None]) -> tuple[Rows, str]:
        body, surface, count = spec.body, spec.surface, spec.body.walls
        wall_key = digest(outline_key, count, body.outer_width, body.inner_width, body.wall_order)
        laid: Walls = self.cache.get("walls", wall_key, lambda: walls(outlines, count, body.outer_width, body.inner_width,
                                                                     body.wall_order == "outside-first"))
        check()
        full = body.infill_density >= 100
        area_key = digest(wall_key, body.top_thickness, body.top_layers, body.bottom_thickness, body.bottom_layers, body.tie_length,
                          body.least_solid_area, body.solid_width, full)

        def split() -> area_rules.FillAreas:
            if full:
                return area_rules.all_solid(laid.border)
            above = area_rules.reach(outlines.tops, outlines.heights, body.top_thickness, body.top_layers, True)
            below = area_rules.reach(outlines.tops, outlines.heights, body.bottom_thickness, body.bottom_layers, False)
            return area_rules.fill_areas(outlines, laid.border, above, below, body.tie_length, body.least_solid_area,
                                         body.solid_width)

        areas: area_rules.FillAreas = self.cache.get("areas", area_key, split)
        check()
        solid_key = digest(area_key, body.solid_width, body.solid_angle)
        solid: PathTable = self.cache.get("solid", solid_key, lambda: PathTable.joined([
            gap_paths(laid.leftover, outlines, body.solid_width, body.solid_angle, count),
            solid_paths(areas.solid, outlines, body.solid_width, body.solid_angle, count + 1)]))
        check()
        infill_key = digest(area_key, body.infill_density, body.infill_pattern, body.infill_angle, body.infill_width,
                            surface.layer_height)
        infill: PathTable = self.cache.get("infill", infill_key, lambda: infill_paths(
            areas.sparse, outlines, body.infill_width, body.infill_density / 100, body.infill_angle, body.infill_pattern,
            surface.layer_height, count + 2))
        check()
        foot = footing.skirt(outlines, spec.footing.skirt_loops, spec.footing.skirt_distance, spec.footing.skirt_width)
        origin = (spec.machine.size_x / 2, spec.machine.size_y / 2) if spec.machine.bed == "rectangle" else (0.0, 0.0)
        rows_key = digest(solid_key, infill_key, spec.footing, surface.seam, spec.pace.retraction_travel, origin)
        rows: Rows = self.cache.get("order", rows_key, lambda: lay(
            PathTable.joined([foot, laid.paths, solid, infill]), outlines, surface.seam, spec.pace.retraction_travel, origin))
        return rows, rows_key

    def _file_key(self, data: bytes, filename: str) -> str:
        return _checksum(data) + filename.rsplit(".", 1)[-1].lower()


def _keeps_cap(timed: Timed, spec: PlanSpec) -> bool:
    """Whether a plan asked for within a time keeps it to within one layer, and does not leave more than 1 % of it unused."""
    if spec.surface.kind != "best-fit" or spec.surface.time_cap_min is None or spec.surface.stack:
        return True
    cap, layer = spec.surface.time_cap_min * 60, float(timed.layer_seconds.max())
    left = cap - float(timed.moves.seconds.sum())
    return bool(-layer <= left <= max(0.01 * cap, layer))


@lru_cache(maxsize=2)
def _checksum(data: bytes) -> str:
    """SHA-256 of a file; a plan asks for it at every stage, and a large file takes a while."""
    return hashlib.sha256(data).hexdigest()

