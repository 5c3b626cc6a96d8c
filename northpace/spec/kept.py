"""Specs that were kept by an older version of this program: carried forward by small steps, and
where that is not enough, read without what is no longer known.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from northpace.errors import InputError
from northpace.spec.read import spec_from
from northpace.spec.whole import PlanSpec

Values = dict[str, dict[str, Any]]

#: Step k makes values of version k those of version k + 1: a setting renamed, a choice that is
#: called otherwise. Whoever renames one adds a step here, and an example to
#: `tests/core/kept`.
STEPS: tuple[Callable[[Values], Values], ...] = (
    # before versions were counted: nothing is known of what they hold
    lambda values: values,
)
VERSION = len(STEPS)


def carried(values: Values, version: int) -> Values:
    """Values of an older version by the names they have now."""
    values = {group: dict(own) for group, own in values.items()}
    for step in STEPS[version:]:
        values = step(values)
    return values


def spec_kept(values: Values, version: int) -> PlanSpec:
    """The spec that was kept; what is no longer known, or no longer allowed, has its default. What
    was fine then and contradicts itself by a rule of today is read as it was kept.
    """
    now = carried(values, version)
    try:
        return spec_from(now)
    except InputError:
        pass
    try:
        return spec_from(forgiven(now)[0])
    except InputError:
        return _unjudged(now)


def forgiven(values: Values) -> tuple[Values, list[str]]:
    """Values without those that are no longer known or allowed, and the names of those. Raises
    `InputError` for values that contradict each other.
    """
    values = {group: dict(own) for group, own in values.items()}
    left_out: list[str] = []
    while True:
        try:
            PlanSpec.model_validate(values)
            break
        except ValidationError as error:
            found = [name for item in error.errors() if (name := _drop(values, item["loc"]))]
            if not found:
                raise InputError("; ".join(item["msg"] for item in error.errors())) from error
            left_out += found
    for group, key in (("surface", "bands"), ("body", "regions")):
        try:
            spec_from(values)
            break
        except InputError:  # one that changes what is no longer changed there
            if values.get(group, {}).pop(key, None):
                left_out.append(f"{group}.{key}")
    return values, left_out


def _unjudged(values: Values) -> PlanSpec:
    """A spec whose groups are read one by one, without what holds between them."""
    plain = PlanSpec()
    groups = {}
    for name in PlanSpec.model_fields:
        own = dict(values.get(name, {}))
        kind = type(getattr(plain, name))
        while True:
            try:
                groups[name] = kind.model_validate(own)
                break
            except ValidationError as error:
                gone = [item["loc"][0] for item in error.errors() if item["loc"]]
                own = {key: value for key, value in own.items() if gone and key not in gone}
    return PlanSpec.model_construct(**groups)


def _drop(values: Values, where: tuple[int | str, ...]) -> str:
    """Leave out the value an error is about, or its group; its name, or nothing."""
    if not where or where[0] not in values:
        return ""
    group = str(where[0])
    if len(where) > 1 and where[1] in values[group]:
        del values[group][str(where[1])]
        return f"{group}.{where[1]}"
    if len(where) == 1:
        # its values contradict each other, or there is no such group
        del values[group]
        return group
    return ""
