"""From what a maker chose to the settings of a plan."""

from __future__ import annotations

from typing import Any

from northpace.errors import InputError
from northpace.motion.derive import derived
from northpace.spec import GROUP_TITLES, PlanSpec, spec_from
from northpace.spec.kept import forgiven
from northpace.spec.widths import suggested
from service.workshop.models import Material, Nozzle, Spool, material_spec

#: Groups that belong to the workshop and not to the plan.
NOT_THE_PLANS = ("machine", "material")
#: Groups that say what is made of a part's own file, and mean nothing for another part.
OF_THE_PART = ("mesh", "place")


def resolve(
    settings: dict[str, Any], nozzle: Nozzle, material: Material, spool: Spool | None
) -> PlanSpec:
    """The full spec of settings on a machine in a material; raises `InputError` for what
    contradicts.
    """
    for group in settings:
        if group not in GROUP_TITLES or group in NOT_THE_PLANS:
            raise InputError(
                f"there is no group '{group}' in a plan; there are "
                + ", ".join(name for name in GROUP_TITLES if name not in NOT_THE_PLANS),
                group,
            )
    return derived(
        spec_from(
            {**settings, "machine": nozzle.spec(), "material": material_spec(material, spool)}
        )
    )


def still_known(
    settings: dict[str, Any], nozzle: Nozzle, material: Material
) -> tuple[dict[str, Any], list[str]]:
    """Settings an older program kept without those that are no longer known or allowed, and the
    names of those. Raises `InputError` for settings that contradict each other on this machine.
    """
    theirs = {"machine": nozzle.spec(), "material": material_spec(material, None)}
    known, gone = forgiven({**settings, **theirs})
    return {group: own for group, own in known.items() if group in settings}, gone


def start_values(nozzle: Nozzle) -> dict[str, Any]:
    """Settings a new plan starts from: what a bead of this nozzle suggests, where the plain
    defaults do not fit.
    """
    if nozzle.bore == 0.4:
        return {}
    return suggested(nozzle.bore)


def refit(settings: dict[str, Any], old: Nozzle, new: Nozzle) -> dict[str, Any]:
    """Settings after a change of nozzle: values the old nozzle suggested give way to those of the
    new one, the maker's own stay.
    """
    if old.pk == new.pk:
        return settings
    before, after = start_values(old), start_values(new)
    fitted = {group: dict(values) for group, values in settings.items()}
    for group in {*before, *after}:
        for key in {*before.get(group, {}), *after.get(group, {})}:
            suggested = before.get(group, {}).get(key)
            if fitted.get(group, {}).get(key) != suggested:
                continue
            fitted.setdefault(group, {}).pop(key, None)
            if key in after.get(group, {}):
                fitted[group][key] = after[group][key]
    return {group: values for group, values in fitted.items() if values}
