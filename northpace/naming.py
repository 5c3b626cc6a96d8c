"""File names that say what a file is: a template of the workshop's own, safe characters, a length
the display can show.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from datetime import date
from string import Formatter

from northpace.errors import InputError
from northpace.spec import PlanSpec

DEFAULT_TEMPLATE = "{time}_{part}_{material}_p{plan}"
FIELDS = {
    "time": "print time, as 1h05",
    "part": "the part's name",
    "material": "kind of material",
    "spool": "label of the spool",
    "plan": "number of the plan",
    "version": "version of the plan",
    "machine": "the machine's name",
    "nozzle": "bore of the nozzle in mm",
    "mass": "filament in g",
    "layer": "layer height in mm, or the least and the greatest above the first layer",
    "build": "how the part is built: ordinary, spiral, ...",
    "infill": "density of the infill in %",
    "supports": "supports, or none",
    "date": "day of the commit, as 2026-11-29",
    "copies": "copies on the bed",
}
EXTENSION = ".gcode"


def time_word(seconds: float) -> str:
    """Hours and minutes for a name or a sentence, rounded to the minute.

    >>> time_word(3600), time_word(59), time_word(90 * 60)
    ('1h00', '0h01', '1h30')
    """
    minutes = round(seconds / 60)
    return f"{minutes // 60}h{minutes % 60:02d}"


def lasting(seconds: float) -> str:
    """A duration for a sentence.

    >>> lasting(50), lasting(3000), lasting(4 * 3600 + 1500), lasting(5 * 86400)
    ('50 s', '50 min', '4.4 h', '5.0 days')
    """
    for unit, name, digits, most in (
        (1, "s", 0, 100),
        (60, "min", 0, 6000),
        (3600, "h", 1, 172800),
    ):
        if seconds < most:
            return f"{seconds / unit:.{digits}f} {name}"
    return f"{seconds / 86400:.1f} days"


def words_of(spec: PlanSpec, heights: Sequence[float], day: date, copies: int) -> dict[str, str]:
    """What a name says of settings, of heights in mm of the layers above the first, which has one
    of its own, and of a day.
    """
    low, high = (f"{value:g}" for value in (min(heights), max(heights)))
    return {
        "material": spec.material.name,
        "machine": spec.machine.name,
        "nozzle": f"{spec.machine.nozzle:g}",
        "layer": low if low == high else f"{low}-{high}",
        "build": spec.body.build,
        "infill": f"{spec.body.infill_density:g}",
        "supports": "supports" if spec.supports.enabled else "none",
        "date": day.isoformat(),
        "copies": str(copies),
    }


def safe(text: str) -> str:
    """Lower-case letters, digits, dot, hyphen; everything else becomes a hyphen."""
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[-.]{2,}", "-", re.sub(r"[^a-z0-9.]+", "-", plain)).strip("-.")


def check_template(template: str) -> None:
    """Raise `InputError` for a template that cannot give a name."""
    try:
        names = [name for _, name, form, _ in Formatter().parse(template) if name is not None]
    except ValueError as error:
        raise InputError(f"braces do not match ({error})", "name template") from error
    unknown = [name for name in names if name not in FIELDS]
    if unknown:
        raise InputError(
            f"unknown field {{{unknown[0]}}}; there are "
            + ", ".join(f"{{{key}}}" for key in FIELDS),
            "name template",
        )
    if not names:
        raise InputError(
            "without a field every file would have the same name; use at least one, such as {part}",
            "name template",
        )
    if not safe(re.sub(r"\{\w+\}", "x", template)):
        raise InputError("the template is empty", "name template")


def file_name(template: str, values: dict[str, str], limit: int) -> str:
    """The name with extension, at most ``limit`` characters: the part's name gives way first, then
    the end.

    >>> values = {"time": "1h00", "part": "Dome cap", "material": "PETG", "plan": "4"}
    >>> file_name(DEFAULT_TEMPLATE, values, 32)
    '1h00_dome-cap_petg_p4.gcode'
    """
    check_template(template)
    room = limit - len(EXTENSION)
    filled = {name: safe(str(values.get(name, ""))) or "x" for name in FIELDS}

    def put() -> str:
        text = template
        for name, value in filled.items():
            text = text.replace(f"{{{name}}}", value)
        return re.sub(r"[^A-Za-z0-9._-]+", "-", text).strip("-._") or "plan"

    name = put()
    if len(name) > room and "{part}" in template:
        filled["part"] = (
            filled["part"][: max(3, len(filled["part"]) - (len(name) - room))].strip("-.") or "x"
        )
        name = put()
    return name[:room].strip("-._") + EXTENSION
