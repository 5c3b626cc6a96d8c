"""Exact reports of a plan's variants."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from northpace.estimate.quick import correction_of
from northpace.estimate.rates import Correction
from northpace.figures import Report
from northpace.motion.derive import derived
from northpace.plan.pipeline import Cancelled, Pipeline, Source
from northpace.spec import PlanSpec, spec_from


class Exact:
    """Exact reports of a plan's variants. They all use the correction the plan itself was made
    with, so that any of them taken up later, one by one or together, comes out as it was proposed.
    """

    def __init__(
        self,
        pipeline: Pipeline,
        source: Source,
        correction: Correction | None,
        cancelled: Callable[[], bool] | None,
    ) -> None:
        self.pipeline, self.source, self.correction, self.cancelled = (
            pipeline,
            source,
            correction,
            cancelled,
        )
        self.count = 0

    def __call__(self, spec: PlanSpec) -> Report:
        if self.cancelled and self.cancelled():
            raise Cancelled
        self.count += 1
        return self.pipeline.plan(
            self.source, spec, correction=self.correction, cancelled=self.cancelled
        ).report


def changed(spec: PlanSpec, change: dict[str, Any]) -> PlanSpec:
    """The spec with a change, checked, and speeds derived where they are; raises `InputError` for
    what contradicts.
    """
    data = spec.model_dump()
    for name, value in change.items():
        group, _, key = name.partition(".")
        data[group][key] = value
    return derived(spec_from(data))


def own_correction(exact: Exact, spec: PlanSpec, report: Report) -> Correction:
    """How far the quick figures of a plan are off in its own exact report: ranking counts with
    that.
    """
    settled = exact.pipeline.settled(exact.source, spec, exact.correction)
    return correction_of(report, exact.pipeline.profile(exact.source, spec), settled)
