"""The vase check: whether a part can be one spiral, from where to where, what to do about the rest,
and what a spiral sets aside.
"""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any

import numpy as np

from northpace.errors import InputError
from northpace.outlines.edges import foot_layers
from northpace.outlines.sections import Outlines
from northpace.paths.spiral.rim import rim_path
from northpace.paths.spiral.rules import SHUTS, Break, breaks, rules_kept, stretches
from northpace.spec import PlanSpec
from northpace.spec.by_layer import value_of

#: What each way of building leaves aside; the settings keep their values for when the part is
#: ordinary again.
ASIDE = {
    "spiral": {
        "body.infill_density": "nothing inside",
        "body.infill_pattern": "nothing inside",
        "body.top_thickness": "open at the top",
        "body.top_layers": "open at the top",
        "body.floor_every": "nothing inside",
        "body.walls": "one wall",
        "body.wall_thickness": "one wall",
        "body.inner_width": "one wall",
        "surface.seam": "no seam",
        "pace.retraction_length": "no travel above the base",
    },
    "open-vessel": {
        "body.infill_density": "nothing inside",
        "body.infill_pattern": "nothing inside",
        "body.top_thickness": "open at the top",
        "body.top_layers": "open at the top",
        "body.floor_every": "nothing inside",
    },
}
#: Ways on that are offered at most.
MOST = 3


@dataclass(frozen=True)
class Offer:
    """A way on: its words, and the settings it changes."""

    words: str
    change: dict[str, Any]


@dataclass(frozen=True)
class VaseCheck:
    """A sentence; the first height at which each rule breaks; where a spiral could begin and end
    (mm); ways on.
    """

    suits: bool
    sentence: str
    from_mm: float
    to_mm: float
    breaks: tuple[Break, ...]
    offers: tuple[Offer, ...]

    def as_dict(self) -> dict[str, Any]:
        return asdict(self)


def vase_check(outlines: Outlines, spec: PlanSpec) -> VaseCheck:
    """Whether the part can be one spiral above its solid foot with the plan's outer wall width."""
    body, tops, count = spec.body, outlines.tops, len(outlines.tops)
    foot = min(foot_layers(tops, spec), max(count - 1, 1))
    base, top = float(tops[foot - 1]), float(tops[-1])
    kept = rules_kept(outlines, body.outer_width)
    found = breaks(outlines, kept, foot, count, body.outer_contour_only)
    if not found:
        return VaseCheck(
            True,
            f"This part can be one spiral from its foot at {base:.2f} mm to its rim at "
            f"{top:.2f} mm.",
            base,
            top,
            (),
            (Offer("Build it as one spiral", {"body.build": "spiral"}),),
        )
    runs = stretches(outlines, kept, foot, body.outer_contour_only)
    low, high = runs[0] if runs else (foot, foot)
    first = found[0]
    offers = []
    if not body.outer_contour_only and not breaks(outlines, kept, foot, count, True):
        words = "Its wall is modelled with both its sides: follow the outer contour only"
        offers.append(Offer(words, {"body.build": "spiral", "body.outer_contour_only": True}))
    offers += [_stretch(tops, begin, end, foot) for begin, end in runs[:MOST]]
    if first.rule in SHUTS and runs and runs[0][0] == foot:
        words = f"Spiral that ends level at {float(tops[runs[0][1] - 1]):.2f} mm, nothing above"
        offers.append(Offer(words, {"body.build": "spiral", "body.rim": "level"}))
        if _follows(outlines, foot, spec):
            words = "Spiral that follows the slanting rim"
            offers.append(Offer(words, {"body.build": "spiral", "body.rim": "follow"}))
    return VaseCheck(
        False,
        f"This part cannot be one spiral: at {first.z:.2f} mm {first.reason}.",
        float(tops[low - 1]) if low else 0.0,
        float(tops[high - 1]),
        tuple(found),
        tuple(offers),
    )


def _stretch(tops: np.ndarray, begin: int, end: int, foot: int) -> Offer:
    """A spiral of the layers ``begin`` to ``end`` − 1, as a band."""
    a, b = float(tops[begin - 1]), float(tops[end - 1])
    on_foot = begin == foot
    band = {
        "name": "spiral",
        "from_mm": round(a, 4),
        "to_mm": round(b, 4),
        "from_edge": {"at": "foot", "label": "end of the solid foot"} if on_foot else None,
        "changes": {"body.build": "spiral"},
    }
    where = f"up to {b:.2f} mm" if on_foot else f"between {a:.2f} and {b:.2f} mm"
    change = {"body.build": "ordinary", "surface.bands": band}
    return Offer(f"Spiral {where}, the rest ordinary", change)


def _follows(outlines: Outlines, foot: int, spec: PlanSpec) -> bool:
    """Whether a spiral can follow the rim: it slants by some tenths of a millimetre at least, and
    not too much.
    """
    try:
        _, z, _, _ = rim_path(outlines, foot, spec.body.outer_width, 0.0, spec.machine.least_height)
    except InputError:
        return False
    last = z[-max(len(z) // 50, 2) :]
    return float(last.max() - last.min()) > 0.5


def set_aside(spec: PlanSpec, build: str) -> list[dict[str, Any]]:
    """Settings that a way of building leaves aside, with the value that comes back and why it does
    not count.
    """
    return [
        {"name": name, "value": value_of(spec, name), "because": why}
        for name, why in ASIDE.get(build, {}).items()
        if value_of(spec, name) not in (None, 0)
    ]
