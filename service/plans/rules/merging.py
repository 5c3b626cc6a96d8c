"""Two people on one plan: what was changed elsewhere meanwhile is kept, and a clash is shown."""

from __future__ import annotations

import itertools
from typing import Any

from django.db import transaction

from northpace.errors import InputError
from northpace.spec import settings as every_setting
from service.plans.models import Plan, PlanVersion
from service.plans.rules.resolving import refit
from service.plans.rules.versions import Author, Choice, change_plan, choice_of

#: What of a choice is no setting, by the words for it.
OTHERS = {"nozzle": "Nozzle", "material": "Material", "spool": "Spool"}


class Clash(InputError):
    """Others changed the same, and differently; nothing was kept."""


def change(
    plan: Plan, wanted: Choice, author: Author, base: int | None = None, mine: bool = False
) -> PlanVersion:
    """A new version with what ``wanted`` changes of version ``base``, or of the newest one."""
    with transaction.atomic():
        # changes that come together are put into each other one after the other
        Plan.objects.select_for_update(no_key=True).get(pk=plan.pk)
        if base is not None:
            wanted = merged(plan, base, wanted, author, mine)
        latest = plan.latest
        settings = refit(wanted.settings, latest.nozzle, wanted.nozzle)
        return change_plan(plan, wanted._replace(settings=settings), author=author)


def merged(plan: Plan, base: int, wanted: Choice, author: Author, mine: bool) -> Choice:
    """What ``wanted`` changes of version ``base``, put into what the plan is now. Raises `Clash`
    where others changed the same since, unless it is to be ``mine`` all the same.
    """
    rows = list(
        plan.versions.filter(number__gte=base)
        .select_related("nozzle", "material", "spool")
        .order_by("number")
    )
    if mine and (not rows or rows[0].number != base):
        return wanted
    if not rows or rows[0].number != base:
        raise Clash("what was changed here was begun on a version that is gone", "plan")
    if len(rows) == 1:
        return wanted
    latest = choice_of(rows[-1])
    now, after = _flat(latest), _flat(wanted)
    own = _changed(_flat(choice_of(rows[0])), after)
    theirs = _by_others(rows, author)
    clash = [name for name in own if name in theirs and now.get(name) != after.get(name)]
    if clash and not mine:
        raise Clash(
            "meanwhile " + "; ".join(_words(name, theirs[name], now, after) for name in clash),
            "plan",
        )
    settings: dict[str, dict[str, Any]] = {g: dict(v) for g, v in latest.settings.items()}
    for name in own - set(OTHERS):
        group, key = name.split(".", 1)
        if name in after:
            settings.setdefault(group, {})[key] = after[name]
        else:
            settings.get(group, {}).pop(key, None)
    return Choice(
        {group: values for group, values in settings.items() if values},
        *(getattr(wanted if name in own else latest, name) for name in OTHERS),
    )


def _flat(choice: Choice) -> dict[str, Any]:
    """Settings by name, and the numbers of what they are for."""
    flat = {
        f"{g}.{key}": value
        for g, values in choice.settings.items()
        for key, value in values.items()
    }
    for name in OTHERS:
        found = getattr(choice, name)
        flat[name] = found.pk if found is not None else None
    return flat


def _changed(before: dict[str, Any], after: dict[str, Any]) -> set[str]:
    return {name for name in before | after if before.get(name) != after.get(name)}


def _by_others(rows: list[PlanVersion], author: Author) -> dict[str, str]:
    """What other screens changed from one version to the next, and who it was."""
    found: dict[str, str] = {}
    for before, after in itertools.pairwise(rows):
        if after.desk != author.desk or not author.desk:
            for name in _changed(_flat(choice_of(before)), _flat(choice_of(after))):
                found[name] = after.by or "somebody"
    return found


def _words(name: str, who: str, now: dict[str, Any], after: dict[str, Any]) -> str:
    entry = next((one for one in every_setting() if one["name"] == name), None)
    label = OTHERS.get(name) or (entry["label"] if entry else name)
    if name in OTHERS or any(isinstance(side.get(name), list | dict) for side in (now, after)):
        return f"{who} changed {label}"
    unit = f" {entry['unit']}" if entry and entry["unit"] else ""
    there, here = (_value(side, name) + unit * (name in side) for side in (now, after))
    return f"{who} set {label} to {there}, and here it is {here}"


def _value(values: dict[str, Any], name: str) -> str:
    return f"{values[name]}" if name in values else "its default"
