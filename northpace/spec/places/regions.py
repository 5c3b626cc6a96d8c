"""Regions: volumes in the part with settings of their own, or with a say in attention, seam and
support.
"""

from __future__ import annotations

from typing import Any, Literal

from northpace.spec.declare import Group, setting


class Region(Group):
    """A volume in the part. All its measures are in the file's coordinates, so it moves, turns and
    scales with the part.
    """

    name: str = setting(
        "",
        "Name",
        help="As the maker calls it.",
    )
    shape: Literal["under", "over", "near", "outline", "box", "cylinder", "ball", "body"] = setting(
        "under",
        "Shape",
        help="Under or over a face, within a distance of a face, inside a drawn outline; a plain "
        "solid; or a body of the file.",
    )
    body: str = setting(
        "",
        "Body",
        help="Name of the body it is, as the mesh lists it.",
    )
    x: float = setting(
        0.0,
        "x",
        help="Of a point on the face, or of the middle.",
        unit="mm",
    )
    y: float = setting(
        0.0,
        "y",
        help="Of a point on the face, or of the middle.",
        unit="mm",
    )
    z: float = setting(
        0.0,
        "z",
        help="Of a point on the face, or of the middle.",
        unit="mm",
    )
    spread: float = setting(
        20.0,
        "Spread",
        help="The face goes on over edges that turn by no more than this.",
        unit="°",
        ge=0,
        le=180,
    )
    reach: float = setting(
        0.0,
        "Reach",
        help="Depth under or height over the face (0: all the way), distance from it, or radius.",
        unit="mm",
        ge=0,
        le=5000,
    )
    size_x: float = setting(
        10.0,
        "Size x",
        help="Of a box.",
        unit="mm",
        ge=0.01,
        le=5000,
    )
    size_y: float = setting(
        10.0,
        "Size y",
        help="Of a box.",
        unit="mm",
        ge=0.01,
        le=5000,
    )
    size_z: float = setting(
        10.0,
        "Size z",
        help="Of a box, a cylinder, or along a drawn outline (half of it to either side).",
        unit="mm",
        ge=0.01,
        le=5000,
    )
    points: tuple[tuple[float, float, float], ...] = setting(
        (),
        "Outline",
        help="Corners of a drawn outline; at least three.",
        unit="mm",
    )
    changes: dict[str, Any] = setting(
        {},
        "Changes",
        help="Settings by name with their value inside.",
    )
    attention: Literal["", "seen", "ordinary", "hidden"] = setting(
        "",
        "Attention",
        help="How much the part's surface inside it counts.",
    )
    seam: Literal["", "attract", "clear"] = setting(
        "",
        "Seam",
        help="Attracts the seam, or keeps it clear.",
    )
    support: Literal["", "ask", "forbid"] = setting(
        "",
        "Support",
        help="Asked for under the surface inside it, or forbidden.",
    )

    def volume(self) -> Region:
        """The region as a place alone: where it is, and nothing of what it does there."""
        said = {"name": "", "changes": {}, "attention": "", "seam": "", "support": ""}
        return self.model_copy(update=said)

    @property
    def title(self) -> str:
        """How a sentence calls it."""
        if self.shape == "body" and not self.name:
            return f"the region of body '{self.body}'"
        return (
            f"region '{self.name}'"
            if self.name
            else f"the region ({self.shape}) at {self.x:.1f}, {self.y:.1f}, {self.z:.1f} mm"
        )


def region_contradictions(regions: tuple[Region, ...]) -> list[str]:
    """Regions that say no volume."""
    problems = []
    for region in regions:
        if region.shape == "outline" and len(region.points) < 3:
            problems.append(
                f"body.regions: {region.title} has an outline of {len(region.points)} "
                "corners; it needs at least three"
            )
        if region.shape == "body" and not region.body:
            problems.append(f"body.regions: {region.title} needs the name of a body")
        if region.shape in ("near", "cylinder", "ball") and region.reach <= 0:
            problems.append(
                f"body.regions: {region.title} needs a "
                f"{'distance' if region.shape == 'near' else 'radius'} above 0 mm"
            )
    return problems
