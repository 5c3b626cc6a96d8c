"""What a material may be."""

from __future__ import annotations

from typing import Any, Literal, NamedTuple

from northpace.errors import InputError
from northpace.spec import spec_from
from northpace.spec.groups.material import PaceEnd
from service.workshop.models import Material, Workshop

#: Hot enough for any material, so that a material is judged by itself.
ANY_MACHINE = {"hottest_nozzle": 600, "hottest_bed": 200}


#: Figures that belong to the spool.
NOT_ITS_OWN = {"name", "diameter", "usable_mass"}


def check_figures(figures: dict[str, Any]) -> dict[str, Any]:
    """Figures of a material that differ from the defaults; raises `InputError` with what is
    allowed.
    """
    strange = NOT_ITS_OWN & set(figures)
    if strange:
        raise InputError(
            f"'{min(strange)}' is a figure of the spool or the name, not of the material", "figures"
        )
    spec_from({"machine": ANY_MACHINE, "material": {**figures, "name": "material"}})
    return figures


#: Where the dial begins and ends.
ENDS = ("precise", "quick")


class AtEnd(NamedTuple):
    """A value at one end of the dial for a machine, by its name; 0 or nothing leaves it to the
    limits.
    """

    end: Literal["precise", "quick"]
    machine: str
    setting: str
    value: float | None


def with_end(figures: dict[str, Any], at: AtEnd) -> dict[str, Any]:
    """Figures of a material with a value at an end of the dial. What holds for any machine is where
    a machine's own set begins. Raises `InputError` for a setting that does not go with the dial.
    """
    if at.setting == "machine" or at.setting not in PaceEnd.model_fields:
        raise InputError(f"'{at.setting}' does not go with the dial", "setting")
    sets: list[dict[str, Any]] = figures.get(at.end, [])
    mine = next((one for one in sets if one.get("machine") == at.machine), None)
    if mine is None:
        mine = next((one for one in sets if not one.get("machine")), {})
    others = [one for one in sets if one.get("machine") != at.machine]
    own = {**mine, "machine": at.machine, at.setting: at.value or 0.0}
    return check_figures({**figures, at.end: [*others, own]})


def ends_follow(workshop: Workshop, before: str, name: str) -> None:
    """Ends of the dial of a machine that is called otherwise from now on."""
    for material in Material.objects.select_for_update(no_key=True).filter(workshop=workshop):
        changed = {
            end: [
                {**one, "machine": name} if one.get("machine") == before else one
                for one in material.figures[end]
            ]
            for end in ENDS
            if end in material.figures
        }
        if any(changed[end] != material.figures[end] for end in changed):
            material.figures = {**material.figures, **changed}
            material.save(update_fields=["figures"])
