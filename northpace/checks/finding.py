"""What a finding is."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
import shapely

from northpace.figures import FindingFigures, Severity
from northpace.moves import FEATURES

#: Places listed one by one.
MOST_PLACES = 200


@dataclass(frozen=True)
class Finding:
    """Something computed that the maker should know."""

    #: what it is; see `northpace.checks.registry`
    code: str
    #: how much it matters
    severity: Severity
    #: what it says
    message: str
    #: height and place of the worst, in mm
    z_mm: float | None = None
    at_mm: tuple[float, float, float] | None = None
    #: what would help
    help: str = ""
    #: places (x, y, z in mm) where it shows, the worst first, at most ``MOST_PLACES``
    places: tuple[tuple[float, float, float], ...] = ()
    #: settings that would put it right
    change: dict[str, float | int | str | bool] = field(default_factory=dict)
    #: number of places where it shows, if there are more of them than in ``places``
    count: int = 0
    #: code of the finding that this one is listed below, since both have the same cause; or ""
    below: str = ""

    def as_dict(self) -> FindingFigures:
        """The finding as the report has it."""
        return {
            "code": self.code,
            "severity": self.severity,
            "message": self.message,
            "z_mm": self.z_mm,
            "at_mm": None if self.at_mm is None else list(self.at_mm),
            "help": self.help,
            "places": [list(place) for place in self.places],
            "change": dict(self.change),
            "count": max(self.count, len(self.places)),
            "below": self.below,
        }


def some(count: int, one: str, many: str) -> str:
    """The count with the words that go with it: ``some(2, "layer is", "layers are")`` is "2 layers
    are".
    """
    return f"{count:,} {one if count == 1 else many}"


def at_places(
    code: str,
    severity: Severity,
    message: str,
    polygons: np.ndarray,
    z: np.ndarray,
    weight: np.ndarray | None = None,
    help: str = "",
    change: dict[str, float | int | str | bool] | None = None,
) -> Finding:
    """A finding at areas (P,) at heights (P,) mm, those with the greatest weight (P,) first (else
    the lowest).
    """
    order = np.argsort(z if weight is None else -weight, kind="stable")[:MOST_PLACES]
    spots = shapely.get_coordinates(shapely.point_on_surface(polygons[order]))
    places = tuple(
        (round(float(x), 3), round(float(y), 3), round(float(k), 3))
        for (x, y), k in zip(spots, z[order], strict=True)
    )
    return Finding(
        code, severity, message, places[0][2], places[0], help, places, change or {}, len(z)
    )


def minutes(seconds: float) -> str:
    """A span as a sentence says it: seconds below two minutes, minutes above."""
    return f"{seconds:.0f} s" if seconds < 120 else f"{seconds / 60:.0f} min"


def feature_word(code: int) -> str:
    """A feature as a sentence says it."""
    return FEATURES[code].replace("-", " ")


def cubic_mm(volume: float) -> str:
    """A volume in mm³ as a sentence says it, with two decimals below 1 mm³."""
    return f"{volume:.2f} mm³" if volume < 1 else f"{volume:,.0f} mm³"
