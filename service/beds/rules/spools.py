"""How far the spool of a bed reaches: over how many beds, and where it runs out."""

from __future__ import annotations

import numpy as np
from typing_extensions import TypedDict

from northpace.material.spools import reach
from service.beds.models import BedVersion
from service.workshop.rules.spools import reserved


class BedReach(TypedDict):
    """A spool and beds: grams that are free, whole beds it gives of those wanted, and the bed, the
    pass and the seconds from the start of the first at which it runs out.
    """

    label: str
    free_g: float
    wanted: int
    beds: int
    missing_g: float
    bed: int | None
    at_pass: int | None
    at_s: float | None


def spool_reach(version: BedVersion) -> BedReach | None:
    """How far the bed's spool reaches; None without a spool or exact figures."""
    spool, report = version.bed.spool, version.report
    if spool is None or report is None or "grams" not in report["passes"]:
        return None
    free = max(spool.usable_mass - reserved(spool), 0.0)
    passes, wanted = report["passes"], version.whole_spec.times
    change = 60 * version.bed.nozzle.machine.bed_change_min
    found = reach(
        np.array(passes["grams"]),
        np.array(passes["seconds"]),
        report["start_s"],
        [free],
        max(wanted, int(free / max(report["mass_g"], 1e-9)) + 1),
        change,
    )
    out = found.runs_out[0] if found.runs_out else None
    return {
        "label": spool.label,
        "free_g": free,
        "wanted": wanted,
        "beds": found.copies,
        "missing_g": max(wanted * report["mass_g"] - free, 0.0),
        "bed": out.copy if out else None,
        "at_pass": out.layer if out else None,
        "at_s": out.seconds if out else None,
    }
