"""What a material may be."""

from __future__ import annotations

from typing import Any

from northpace.errors import InputError
from northpace.spec import spec_from

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
