"""Speeds that are not typed one by one: by one dial between two sets, or straight from limits."""

from __future__ import annotations

from northpace.motion.dial import dialled
from northpace.motion.from_limits import aim_of, from_limits
from northpace.spec import PlanSpec


def derived(spec: PlanSpec) -> PlanSpec:
    """The spec with every speed and acceleration that is not set by hand as the dial or the limits
    say; as it is when speeds are typed.
    """
    pace = spec.pace
    if pace.dial is not None:
        values = dialled(spec, pace.dial)
    elif pace.derived:
        values = from_limits(spec, aim_of(spec), pace.by_hand)
    else:
        return spec
    return spec.model_copy(update={"pace": pace.model_copy(update=values)})
