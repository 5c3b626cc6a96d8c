"""The exact plans of a bed, as the bed lays them: without loops where those are shared, with one
stack for all where that is asked for.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from northpace.beds.bedplan import BedPlan, bed_plan, without_loops
from northpace.beds.one_stack import OneStack, common_first, one_stack, with_first, with_stack
from northpace.beds.spec import BedSpec
from northpace.errors import InputError
from northpace.estimate.rates import Correction
from northpace.plan.pipeline import Pipeline
from northpace.plan.source import Source
from northpace.spec import Machine, PlanSpec

Tell = Callable[[int, int], None]


@dataclass(frozen=True)
class Asked:
    """A plan that a bed is laid of."""

    name: str
    source: Source
    spec: PlanSpec
    correction: Correction | None = None


@dataclass(frozen=True)
class Planned:
    """Plans by their key as the bed lays them; ``own``: with heights of their own, where all share
    a stack; ``stack``: what one for all is or would be, None where it would change nothing.
    """

    plans: dict[str, BedPlan]
    own: dict[str, BedPlan] | None = None
    stack: OneStack | None = None


class Planner:
    """Plans what beds of a machine ``machine``, as it is now, are laid of."""

    def __init__(
        self,
        pipeline: Pipeline,
        asked: Mapping[str, Asked],
        machine: Machine | None = None,
        tell: Tell | None = None,
        cancelled: Callable[[], bool] | None = None,
    ) -> None:
        """``tell(k, n)`` is called before each plan; `Cancelled` is raised when ``cancelled()``
        says so.
        """
        self.pipeline, self.asked, self.machine = pipeline, asked, machine
        self.tell, self.cancelled = tell, cancelled

    def own(self, bed: BedSpec) -> dict[str, BedPlan]:
        """All plans with heights of their own."""
        out = {}
        # with one stack for all those that are placed are planned twice
        again = len({placing.plan for placing in bed.placings}) if bed.heights == "one" else 0
        for k, (key, each) in enumerate(self.asked.items()):
            self._tell(k, len(self.asked) + again)
            out[key] = self._plan(each, each.spec, bed)
        return out

    def planned(self, bed: BedSpec, own: dict[str, BedPlan]) -> Planned:
        """The plans as the bed lays them: ``own``, or all with one stack. Raises `InputError` where
        there is none.
        """
        counts = Counter(placing.plan for placing in bed.placings)
        if len(counts) < 2:
            return Planned(own)
        asked = {key: self.asked[key] for key in counts}
        if bed.heights == "own":
            return Planned(own, None, self._would_be(asked, bed, own, counts))
        stack = self._stack(asked, bed, own, counts)
        first = common_first([each.spec for each in asked.values()])
        shared = dict(own)
        for k, (key, each) in enumerate(asked.items()):
            self._tell(len(own) + k, len(own) + len(asked))
            spec = with_stack(each.spec, stack.heights[: stack.layers[k]], first)
            shared[key] = self._plan(each, spec, bed)
        return Planned(shared, own, stack)

    def _plan(self, each: Asked, spec: PlanSpec, bed: BedSpec) -> BedPlan:
        laid = without_loops(spec) if bed.loops == "shared" else spec
        made = self.pipeline.plan(each.source, laid, {}, None, self.cancelled, each.correction)
        return bed_plan(each.name, made, spec.footing, self.machine)

    def _tell(self, done: int, count: int) -> None:
        if self.tell:
            self.tell(done, count)

    def _would_be(
        self,
        asked: Mapping[str, Asked],
        bed: BedSpec,
        own: Mapping[str, BedPlan],
        counts: Mapping[str, int],
    ) -> OneStack | None:
        """What one stack for all would be; None where they share one already, or cannot."""
        tops = [set(own[key].tops.round(4).tolist()) for key in asked]
        if all(each <= max(tops, key=len) for each in tops):
            return None
        try:
            return self._stack(asked, bed, own, counts)
        except InputError:
            return None

    def _stack(
        self,
        asked: Mapping[str, Asked],
        bed: BedSpec,
        own: Mapping[str, BedPlan],
        counts: Mapping[str, int],
    ) -> OneStack:
        first = common_first([each.spec for each in asked.values()])
        if len({round(float(own[key].tops[0] - own[key].heights[0]), 4) for key in asked}) > 1:
            raise InputError(
                "the plans on this bed stand on rafts of different height, or some on none, so "
                "that their layers are never level; lay them with heights of their own, or all on "
                "the same raft",
                "heights",
            )
        specs = [with_first(each.spec, first) for each in asked.values()]
        tasks = [
            self.pipeline.task(each.source, spec, each.correction)
            for each, spec in zip(asked.values(), specs, strict=True)
        ]
        return one_stack(
            tasks,
            specs,
            [own[key].heights for key in asked],
            [counts[key] for key in asked],
            bed.measure,
            None if bed.target_um is None else bed.target_um / 1000,
        )
