"""A bed while it is being filled: what lies on it, and whether another shape may lie at a place."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
import shapely

from northpace.beds.bedplan import BedPlan
from northpace.beds.reach import Turned, may_hit, moved
from northpace.beds.spec import BedSpec, Placing
from northpace.geometry.polygons import rounded, together
from northpace.part.plate import keep_out, plate
from northpace.spec import Machine


@dataclass(frozen=True, eq=False)
class Shape:
    """A plan at a turn, as it is laid out."""

    plan: str
    turn: float
    turned: Turned

    @property
    def outline(self) -> shapely.Geometry:
        """Everything it lays, about its middle."""
        return self.turned.standing.footprint


@dataclass
class Room:
    """A bed that is being filled."""

    #: whose plate it is, and how the bed is laid
    machine: Machine
    spec: BedSpec
    shapes: list[Shape] = field(default_factory=list)
    at: list[np.ndarray] = field(default_factory=list)
    #: group of each, and of what is placed now
    groups: list[int] = field(default_factory=list)
    group: int = 0
    #: mm that stay free inside the edge of the plate, and beside keep-out places
    margins: tuple[float, float] = (0.0, 0.0)

    def __post_init__(self) -> None:
        inside, beside = self.margins
        whole = plate(self.machine)
        places = together(np.array([area for _, area in keep_out(self.machine)], object))
        self.plate = rounded(whole, -inside) if inside else whole
        self.barred = rounded(places, beside) if beside else places
        shapely.prepare(self.plate)
        self._placed: list[shapely.Geometry] = []
        self._boxes = np.empty((0, 4))

    @property
    def gap(self) -> float:
        """Open room between shapes in mm."""
        return self.machine.nozzle if self.single else self.spec.clearance

    @property
    def in_turn(self) -> bool:
        """Whether the head must not hit what groups before have laid."""
        return self.spec.way != "together"

    @property
    def single(self) -> bool:
        """Whether every shape is a group."""
        return self.spec.way == "in-turn"

    def add(self, shape: Shape, at: np.ndarray) -> None:
        """Put a shape of the present group at a place (2,) in mm, allowed or not."""
        self.shapes.append(shape)
        self.at.append(at)
        self.groups.append(self.group)
        outline = moved(shape.outline, at)
        shapely.prepare(outline)
        self._placed.append(outline)
        self._boxes = np.vstack([self._boxes, outline.bounds])

    def allows(self, shape: Shape, at: np.ndarray) -> bool:
        """Whether a shape may lie at a place (2,) in mm, laid after all that is there."""
        here = moved(shape.outline, at)
        if not shapely.covers(self.plate, here) or shapely.intersects(self.barred, here):
            return False
        room = self.gap - 1e-6
        box = np.array(here.bounds)
        near = (self._boxes[:, :2] < box[2:] + room).all(axis=1)
        near &= (self._boxes[:, 2:] > box[:2] - room).all(axis=1)
        if any(shapely.dwithin(self._placed[k], here, room) for k in np.flatnonzero(near)):
            return False
        return not self.in_turn or not any(
            may_hit(shape.turned, other.turned, there - at)
            for other, there, group in zip(self.shapes, self.at, self.groups, strict=True)
            if group != self.group
        )


def as_it_lies(placing: Placing, plans: Mapping[str, BedPlan]) -> Shape:
    """The shape of a placing at the turn it has."""
    return Shape(placing.plan, placing.turn, plans[placing.plan].turned(placing.turn))


def turns_of(spec: BedSpec, plan: BedPlan, name: str, now: float = 0.0) -> list[Shape]:
    """A plan at every turn that makes a difference."""
    step = spec.turn_step
    angles = np.arange(0.0, 360.0, step) if step else np.zeros(1)
    out: list[Shape] = []
    for angle in angles:
        shape = Shape(name, float((now + angle) % 360), plan.turned(float(now + angle)))
        if not any(_same(shape.outline, other.outline) for other in out):
            out.append(shape)
    return out


def _same(one: shapely.Geometry, two: shapely.Geometry) -> bool:
    """Whether two outlines cover the same, to a tenth of a millimetre or so at their border."""
    if np.abs(np.array(one.bounds) - two.bounds).max() > 0.15:
        return False
    return float(shapely.hausdorff_distance(one, two)) < 0.5
