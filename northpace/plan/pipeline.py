"""From a request to a plan: the stages of `northpace.plan.stages` in the order they are told."""

from __future__ import annotations

import time
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from northpace import VERSION
from northpace.checks.by_cause import by_cause
from northpace.checks.caps import caps, over
from northpace.checks.facts import Facts, Relief
from northpace.checks.finding import Finding
from northpace.checks.registry import CHECKS
from northpace.estimate.lighter import Lighter, lighter
from northpace.estimate.quick import correction_of
from northpace.estimate.rates import Correction
from northpace.figures import Report
from northpace.gcode.write import write_gcode
from northpace.heights.choose import plainly_even
from northpace.heights.fit import HeightTask
from northpace.heights.frontier import POINTS, Frontier
from northpace.heights.measure import MEASURES
from northpace.heights.stack import Stack
from northpace.heights.surface import Facets, SurfaceTable
from northpace.material.amounts import Amounts
from northpace.motion.derive import derived
from northpace.motion.pace import Timed
from northpace.moves import Moves
from northpace.outlines.edges import needs_layers, resolved, without_open_edges
from northpace.outlines.profile import Profile
from northpace.outlines.sections import Outlines
from northpace.part.differences import Differences
from northpace.part.faults import Fault
from northpace.part.place import Placed, check_size
from northpace.part.solid import Part
from northpace.paths.spiral.check import VaseCheck, vase_check
from northpace.plan.cache import StageCache
from northpace.plan.laying import Laid, Laying
from northpace.plan.report import report
from northpace.plan.room import keep_nothing_large
from northpace.plan.run import Cancelled, Run
from northpace.plan.source import Source
from northpace.plan.stage import PHASES, Request
from northpace.plan.stages import findings as checks
from northpace.plan.stages import heights, moves, order, shape, walls
from northpace.plan.within import Trials, Tried
from northpace.spec import PlanSpec, digest, spec_from

__all__ = ["Cancelled", "Pipeline", "Plan", "Source"]

_BESIDE = ThreadPoolExecutor(3, "beside")
Progress = Callable[[str, float], None]
#: Everything a plan came to, what its checks found, and its report.
Computed = tuple[Facts, list[Finding], Report]


@dataclass(frozen=True)
class Plan:
    """A computed plan: the spec it answers, what it came to, its report and its file."""

    spec: PlanSpec
    facts: Facts
    findings: list[Finding]
    report: Report
    gcode: bytes

    @property
    def moves(self) -> Moves:
        """The move table, which all figures are sums over."""
        return self.facts.timed.moves

    @property
    def timed(self) -> Timed:
        """The moves with what is known of their layers."""
        return self.facts.timed

    @property
    def outlines(self) -> Outlines:
        """The layers."""
        return self.facts.outlines

    @property
    def stack(self) -> Stack:
        """The heights of the layers."""
        return self.facts.stack


class Pipeline:
    """Answers requests over one cache of stage results. Safe to share between threads.

    Every method takes a file and a spec; ``correction`` makes times those of an exact plan of the
    part, so that heights chosen by time come out as shown. All raise `InputError` for what a maker
    can put right.
    """

    def __init__(self, cache: StageCache | None = None) -> None:
        self.cache = cache or StageCache()
        keep_nothing_large()

    def part(self, source: Source, spec: PlanSpec = PlanSpec()) -> Part:
        """The solids of a file, in its coordinates."""
        return self._run(source, spec)(shape.part)

    def mended(self, source: Source, spec: PlanSpec) -> Part:
        """The solids of a file as mending made them, neither thinned nor moved."""
        return self._run(source, spec)(shape.mended)

    def faults(self, source: Source) -> list[Fault]:
        """What is wrong with the mesh of a file."""
        return self._run(source, PlanSpec())(shape.faults)

    def differences(self, source: Source, spec: PlanSpec) -> Differences:
        """What mending did to the mesh, triangle by triangle."""
        return self._run(source, spec)(shape.differences)

    def placed(self, source: Source, spec: PlanSpec) -> Placed:
        """The part as it stands."""
        return self._run(source, spec)(shape.placed)

    def profile(self, source: Source, spec: PlanSpec) -> Profile:
        """Area, perimeter and islands along the height."""
        return self._run(source, spec)(shape.profile)

    def facets(self, source: Source, spec: PlanSpec) -> Facets:
        """The placed mesh with smooth slopes, flats and attention."""
        return self._run(source, spec)(shape.facets)

    def surface(self, source: Source, spec: PlanSpec) -> SurfaceTable:
        """What any stack does to the surface."""
        return self._run(source, spec)(shape.surface)

    def settled(
        self, source: Source, spec: PlanSpec, correction: Correction | None = None
    ) -> PlanSpec:
        """The spec with derived speeds as they come out, and every edge of a band as a height in
        mm. Edges tied to layers are found in the stack there would be without the bands they belong
        to; as those end at a layer anyway, the stack stays unless they change heights themselves.
        """
        spec = derived(spec)
        if not any(band.tied for band in spec.surface.bands):
            return spec
        placed = self.placed(source, spec)
        tops = np.empty(0)
        if needs_layers(spec):
            first = resolved(without_open_edges(spec), placed, tops)
            tops = np.cumsum(self.stack(source, first, correction).heights)
        out = resolved(spec, placed, tops)
        spec_from(out.model_dump())  # edges that are known now may overlap
        return out

    def task(
        self, source: Source, spec: PlanSpec, correction: Correction | None = None
    ) -> HeightTask:
        """Rules, seconds and errors that heights are chosen by."""
        return self._settled_run(source, spec, correction)(heights.task)

    def stack(self, source: Source, spec: PlanSpec, correction: Correction | None = None) -> Stack:
        """The heights a spec asks for."""
        return self._settled_run(source, spec, correction)(heights.stack)

    def vase(
        self, source: Source, spec: PlanSpec, correction: Correction | None = None
    ) -> VaseCheck:
        """Whether the part can be one spiral, judged by the layers it has now."""
        return vase_check(self._settled_run(source, spec, correction)(heights.outlines), spec)

    def frontier(
        self,
        source: Source,
        spec: PlanSpec,
        correction: Correction | None = None,
        measures: tuple[str, ...] = MEASURES,
        points: int = POINTS,
    ) -> Frontier:
        """The least time for every value of some measures; for an even plan that of a best fit
        under the same rules.
        """
        spec = self.settled(source, spec, correction)
        if spec.surface.kind == "even":
            fitted = spec.surface.model_copy(update={"kind": "best-fit"})
            spec = spec.model_copy(update={"surface": fitted})
        return self._run(source, spec, correction)(heights.frontier(measures, points))

    def lighter(
        self,
        source: Source,
        spec: PlanSpec,
        layers: np.ndarray,
        least_g: float,
        correction: Correction | None,
    ) -> list[Lighter]:
        """Changes that each make the part lighter by a mass (g), from the heights (N,) it has."""
        spec = self.settled(source, spec, correction)

        def trimmed(off: float) -> Profile:
            place = spec.place.model_copy(update={"trim_top": off})
            return self.profile(source, spec.model_copy(update={"place": place}))

        return lighter(self.profile(source, spec), spec, layers, least_g, correction, trimmed)

    def plan(
        self,
        source: Source,
        spec: PlanSpec,
        facts: dict[str, Any] | None = None,
        progress: Progress | None = None,
        cancelled: Callable[[], bool] | None = None,
        correction: Correction | None = None,
        laid: Callable[[Laid], None] | None = None,
    ) -> Plan:
        """The exact plan.

        ``facts`` go into the file's header. ``progress(phase, share)`` is called as phases begin,
        ``laid`` with the beads that are known as they become more. A time cap is kept by exact
        times (`northpace.plan.within`); what is tried for that is not told. Raises `Cancelled` when
        ``cancelled()`` says so between stages.
        """
        begun = time.perf_counter()
        spec_from(spec.model_dump())
        tell = progress or (lambda phase, share: None)
        _tell(tell, "load")
        asked, elapsed = spec, dict.fromkeys(PHASES, 0.0)
        spec = self.settled(source, spec, correction)
        check_size(self.placed(source, spec), spec.machine)

        capped, writing = spec.surface.has_time_cap, _Writing(facts or {}, digest(asked))

        def compute(correction: Correction | None, given: np.ndarray | None = None) -> Computed:
            run = self._run(source, spec, correction, cancelled, given)
            if laid and not capped:
                run.told = Laying(run, laid)
            # of what is tried for a cap only the best is written
            known, findings = self._known(run, tell, None if capped else writing.begin)
            strength = run(moves.strength)
            for phase, seconds in run.elapsed.items():
                elapsed[phase] += seconds
            return known, findings, report(known, strength, findings)

        if capped:
            known, findings, figures = self._within_cap(source, spec, correction, compute)
            writing.begin(known.spec, known.timed, known.amounts, known.outlines)
        else:
            known, findings, figures = compute(correction)
        known = replace(known, relief=self._relief(source, known, figures))
        passed = caps.run(known)
        figures["findings"] += [finding.as_dict() for finding in passed]
        _tell(tell, "gcode")
        text, took = writing.end()
        total = time.perf_counter() - begun
        figures["elapsed_s"] = {**elapsed, "gcode": took, "total": total}
        figures["core_version"] = VERSION
        return Plan(asked, known, [*findings, *passed], figures, text)

    def _within_cap(
        self,
        source: Source,
        spec: PlanSpec,
        correction: Correction | None,
        compute: Callable[..., Computed],
    ) -> Computed:
        """The best of the exact plans that keep the time cap."""
        profile, measure = self.profile(source, spec), spec.surface.measure

        def tried(correction: Correction | None, given: np.ndarray | None) -> Tried[Computed]:
            made = compute(correction, given)
            known, _, figures = made
            error = known.stack.error
            return Tried(
                known.outlines.heights,
                float(known.timed.moves.seconds.sum()),
                (error.of(measure), error.mean, error.max),
                correction_of(figures, profile, spec),
                made,
            )

        def choose(correction: Correction | None, cap: float) -> np.ndarray:
            surface = spec.surface.model_copy(update={"time_cap_min": cap})
            other = spec.model_copy(update={"surface": surface})
            return self._run(source, other, correction)(heights.stack).heights

        def task(correction: Correction | None) -> HeightTask:
            return self._run(source, spec, correction)(heights.task)

        return Trials(spec, tried, choose, task).run(correction).result

    def _known(
        self, run: Run, tell: Progress, timed: Callable[..., None] | None
    ) -> tuple[Facts, list[Finding]]:
        """Everything about a plan, stage by stage, and what the checks find; ``timed`` is told of
        its moves before these are checked.
        """
        _tell(tell, "layers")
        # a plain even stack is known at once: what it does to the surface is found beside the paths
        beside: list[Future[Any]] = []
        if plainly_even(run.request.spec.surface):
            beside.append(_BESIDE.submit(run, heights.stack))
        run(heights.heights)
        _tell(tell, "outlines")
        run(heights.outlines)
        _tell(tell, "paths")
        run(walls.walls)
        # what walls leave takes long, and is asked for when beads are ordered
        beside.append(_BESIDE.submit(run, walls.gaps))
        outlined = [check.name for check in CHECKS if check.uses == ("outlines",)]
        beside += [_BESIDE.submit(run, checks.STAGES[name]) for name in outlined]
        run(order.laid)
        # they are ordered by one thread
        beside.append(_BESIDE.submit(run, order.land))
        run(order.rows)
        _tell(tell, "motion")
        # what rests on what takes longest of what is asked of the rows, and asks for nothing else
        beside.append(_BESIDE.submit(run, moves.resting))
        run(moves.timed)
        if timed:
            spec = run.request.spec
            timed(spec, run(moves.timed), run(moves.amounts), run(heights.outlines))
        _tell(tell, "checks")
        for check in sorted(CHECKS, key=lambda check: "resting" in check.uses):
            if check.name in checks.STAGES:
                run(checks.STAGES[check.name])
        for future in beside:
            future.result()
        known = {name: run(stage) for name, stage in checks.FACTS.items()}
        found = [
            finding
            for check in CHECKS
            if check.name in checks.STAGES
            for finding in run(checks.STAGES[check.name])
        ]
        found = by_cause(found)
        return Facts(spec=run.request.spec, **known, relief=None), found

    def _relief(self, source: Source, known: Facts, figures: Report) -> Relief | None:
        """What would keep a plan to its caps, looked for when one is passed."""
        spec, amounts = known.spec, known.amounts
        if not over(amounts, spec):
            return None
        correction = correction_of(figures, self.profile(source, spec), spec)
        best = self.frontier(source, spec, correction, ("mean",), 2)
        ways: list[Lighter] = []
        if spec.limits.mass_g:
            off = amounts.mass_g - spec.limits.mass_g
            ways = self.lighter(source, spec, known.outlines.heights, off, correction)
        return Relief(min(point.seconds for point in best.points), ways)

    def _run(
        self,
        source: Source,
        spec: PlanSpec,
        correction: Correction | None = None,
        cancelled: Callable[[], bool] | None = None,
        given: np.ndarray | None = None,
    ) -> Run:
        fixed = None if given is None else tuple(np.round(given, 6).tolist())
        return Run(self.cache, Request(source, spec, correction, fixed), cancelled)

    def _settled_run(self, source: Source, spec: PlanSpec, correction: Correction | None) -> Run:
        return self._run(source, self.settled(source, spec, correction), correction)


class _Writing:
    """The file of a plan, written beside its checks; ``facts`` go into its header."""

    def __init__(self, facts: dict[str, Any], checksum: str) -> None:
        self._facts, self._checksum = facts, checksum
        self._text: Future[tuple[bytes, float]] | None = None

    def begin(self, spec: PlanSpec, timed: Timed, stuff: Amounts, outlines: Outlines) -> None:
        """Begin it, with what the plan comes to in its header."""
        seconds = timed.moves.seconds
        head = {
            **self._facts,
            "time": f"{float(seconds.sum()):.1f} s",
            "mass": f"{stuff.mass_g:.3f} g",
            "start seconds": float(seconds[0]),
            "spec checksum": self._checksum,
        }
        tops, heights = outlines.tops, outlines.heights

        def write() -> tuple[bytes, float]:
            begun = time.perf_counter()
            text = write_gcode(timed.moves, spec, tops, heights, head)
            return text, time.perf_counter() - begun

        self._text = _BESIDE.submit(write)

    def end(self) -> tuple[bytes, float]:
        """The file, and the seconds that writing it took."""
        assert self._text is not None
        return self._text.result()


def _tell(progress: Progress, phase: str) -> None:
    progress(phase, PHASES.index(phase) / len(PHASES))
