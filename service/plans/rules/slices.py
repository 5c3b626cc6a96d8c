"""Test slices: a stretch of a plan printed on its own, and the verdict on it."""

from __future__ import annotations

from typing import Any

import numpy as np
from django.db import transaction

from northpace.errors import InputError
from northpace.outlines.sample_slice import Slice, test_slice
from service.core import pipeline
from service.files import keep_picture
from service.limits import figuring
from service.parts.rules import parts
from service.plans.models import Plan, PlanVersion, TestSlice
from service.plans.rules import figures, resolving, versions
from service.plans.rules.beside import beside


def make_slice(plan: Plan, low: float, high: float) -> TestSlice:
    """A sample part and a plan for it, with the layers and layer times of the plan's newest exact
    version.
    """
    version = figures.last_exact(plan)
    if version is None or version.report is None or plan.latest.pk != version.pk:
        raise InputError(
            "the exact plan is still being computed; a test slice keeps its layers and times",
            str(plan),
        )
    part, layers = plan.part, version.report["layers"]
    cut = _cut(plan, version, low, high)
    errors = layers["error_um"][cut.layers[0] : cut.layers[1] + 1]
    name = f"{part.name}, {cut.from_mm:.1f} to {cut.to_mm:.1f} mm"[:120]
    settings = {
        group: dict(values)
        for group, values in version.settings.items()
        if group not in resolving.OF_THE_PART
    }
    surface = {
        key: value
        for key, value in settings.get("surface", {}).items()
        if key
        in ("layer_height", "first_layer_height", "outline_offset", "first_layer_offset", "seam")
    }
    settings["surface"] = {**surface, "stack": [round(float(h), 6) for h in cut.heights]}
    settings["pace"] = {
        **settings.get("pace", {}),
        "layer_seconds": [round(float(s), 3) for s in cut.seconds],
    }
    with transaction.atomic():
        sample = parts.take_in(plan.workshop, f"{name}.stl", cut.stl, read_now=True)
        trial = versions.create_plan(
            plan.workshop, sample, version.nozzle, version.material, version.spool, settings
        )
        return TestSlice.objects.create(
            plan=plan,
            version=version,
            trial=trial,
            from_mm=cut.from_mm,
            to_mm=cut.to_mm,
            error_um=max(errors),
        )


@beside("quick", figuring)
def _cut(plan: Plan, version: PlanVersion, low: float, high: float) -> Slice:
    assert version.report is not None  # it is exact
    spec, layers = version.whole_spec, version.report["layers"]
    return test_slice(
        pipeline().placed(plan.part.source, spec),
        np.array(layers["heights_mm"]),
        np.array(layers["seconds"]),
        low,
        high,
        spec.surface.first_layer_height,
        spec.surface.layer_height,
    )


def judge(found: TestSlice, verdict: str, note: str, target_um: float | None) -> TestSlice:
    """Record a verdict; it sets the surface target of the plan the slice was cut from.

    Accepted: what was seen is good enough. Too coarse: three quarters of it, unless the maker says
    how much.
    """
    if verdict == TestSlice.Verdict.OPEN:
        raise InputError("a verdict is 'accept' or 'too-coarse'", "verdict")
    target = (
        target_um
        if target_um is not None
        else found.error_um * (1.0 if verdict == TestSlice.Verdict.ACCEPT else 0.75)
    )
    target = round(max(target, 1.0), 1)
    found.verdict, found.note, found.target_um = verdict, note, target
    latest = found.plan.latest
    settings: dict[str, Any] = {group: dict(values) for group, values in latest.settings.items()}
    settings["surface"] = {**settings.get("surface", {}), "target_um": target}
    settings["surface"].pop("time_cap_min", None)
    with transaction.atomic():
        found.save()
        choice = versions.choice_of(latest)._replace(settings=settings)
        versions.change_plan(found.plan, choice)
    return found


def keep_photo(found: TestSlice, data: bytes) -> None:
    """Keep a photo; raises `InputError` for what is no PNG or JPEG, or too large."""
    found.photo_key = keep_picture(data)
    found.save(update_fields=["photo_key"])
