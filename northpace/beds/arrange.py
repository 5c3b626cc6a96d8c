"""Laying out a bed: every placing where it is clear of the others, of the edge and of keep-out
places, as compact as it goes, or row by row.

A grid (`northpace.beds.grid`) says where a shape may lie at all; the best places by rule are then
looked at exactly, and slid until they touch. What does not fit stays beside the bed.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import scipy.ndimage
import shapely

from northpace.beds.bedplan import BedPlan, plans_of
from northpace.beds.grid import Grid, GridKey
from northpace.beds.reach import Turned, may_hit, moved
from northpace.beds.spec import BedSpec, Placing
from northpace.geometry.polygons import difference, intersection, rounded, together, union
from northpace.part.plate import keep_out, plate
from northpace.paths.footing import room_for_loops
from northpace.spec import Machine

#: Rules by which places are taken: near the middle of the choice, or from a corner along rows.
Rule = Literal["compact", "front-left", "front-right", "back-left", "back-right"]
#: Places looked at exactly before a shape counts as not fitting.
LOOKED_AT = 60
#: How many turns are looked at exactly, of those that the grid says are best.
TRIED = 3
#: Edge of a cell in mm, also where the head counts or more than so many shapes are tried, and most
#: cells along the bed.
CELL, COARSE, MANY, MOST_CELLS = 1.0, 2.0, 100, 400
#: How exactly a shape is slid (mm).
EXACT = 0.01


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


@dataclass(frozen=True)
class OnGrid:
    """What is known of shapes on grids, kept from one arrangement of a bed to the next; by what it
    depends on, with plan and turn of the shape.
    """

    #: transforms of the areas that a shape takes
    spectra: dict[tuple[GridKey, str, float], list[np.ndarray]] = field(default_factory=dict)
    #: (Y · X, 2) places of a shape on a plate with margins
    places: dict[tuple[GridKey, tuple[float, float], str, float], np.ndarray] = field(
        default_factory=dict
    )


class Packer:
    """Finds places in a room, with a grid for what is there so far."""

    def __init__(self, room: Room, shapes: Sequence[Shape], known: OnGrid | None = None) -> None:
        """``shapes`` are those that will be placed; what is found out of them is kept in ``known``,
        for the next packer.
        """
        self.room = room
        box = room.plate.bounds
        span = max(box[2] - box[0], box[3] - box[1])
        reach = [np.abs(np.array(shape.outline.bounds)).max() for shape in shapes]
        # in turn the head reaches over the whole bed; coarser cells are enough there
        self.grid = Grid(
            box,
            span if room.in_turn else min(span, max(reach, default=0.0) + room.gap),
            max(COARSE if room.in_turn or len(shapes) > MANY else CELL, span / MOST_CELLS),
        )
        hull = shapely.convex_hull(room.plate)
        # what the hull of the plate allows is known exactly; the grid says the rest
        self._near = self.grid.empty()
        self.grid.take(self._near, union(difference(hull, room.plate), room.barred))
        sweeps = [s for shape in shapes for s in shape.turned.sweeps] if room.in_turn else []
        self._tall = {round(sweep.over, 2): self.grid.empty() for sweep in sweeps}
        self._taken: dict[float, np.ndarray] = {}
        self._known = known or OnGrid()
        self._seen, self._tall_seen = -1, set[int]()

    def _look(self) -> None:
        """Take in what was put into the room since."""
        room = self.room
        others = [k for k, group in enumerate(room.groups) if group != room.group]
        tall = [k for k in others if k not in self._tall_seen]
        if self._seen == len(room.shapes) and not tall:
            return
        first = max(self._seen, 0)
        for shape, at in zip(room.shapes[first:], room.at[first:], strict=True):
            self.grid.take(self._near, moved(rounded(shape.outline, room.gap, 8), at))
        for k in tall:
            shape, at = room.shapes[k], room.at[k]
            self._tall_seen.add(k)
            for height, cells in self._tall.items():
                stands = shape.turned.standing.taller_than(height)
                if stands is not None:
                    self.grid.take(cells, moved(stands, at))
        self._taken = {-1.0: self.grid.transform(self._near)}
        for height, cells in self._tall.items():
            if cells.any():
                self._taken[height] = self.grid.transform(cells)
        self._seen = len(room.shapes)

    def _blocked(self, shape: Shape) -> np.ndarray:
        """(Y, X) whether the shape, its middle in the middle of a cell, meets what is there, as far
        as cells tell.
        """
        self._look()
        sweeps = shape.turned.sweeps if self.room.in_turn else ()
        meets = [(-1.0, shape.outline), *((round(s.over, 2), s.area) for s in sweeps)]
        key = (self.grid.key, shape.plan, shape.turn)
        if key not in self._known.spectra:
            self._known.spectra[key] = [self.grid.shape(area) for _, area in meets]
        spectra = self._known.spectra[key]
        return self.grid.overlaps(
            [
                (self._taken[height], spectrum)
                for (height, _), spectrum in zip(meets, spectra, strict=True)
                if height in self._taken
            ]
        )

    def place(self, shapes: Sequence[Shape], rule: Rule, middle: np.ndarray) -> bool:
        """Put the one of several turns of a plan that fits best, near ``middle`` (2,) where the
        rule is compact; whether one did.
        """
        # the middles of cells tell borders up to a cell too narrow or too wide: first where
        # nothing is near, then where only that may be in the way
        for grow in (scipy.ndimage.binary_dilation, _shrunk):
            found = []
            for shape in shapes:
                places, costs = self._candidates(shape, grow(self._blocked(shape)), rule, middle)
                if len(places):
                    found.append((float(costs[0]), shape, places))
            found.sort(key=lambda one: one[0])
            best: tuple[float, Shape, np.ndarray] | None = None
            for lowest, shape, places in found[:TRIED]:
                if best is not None and lowest > best[0] + self.grid.cell:
                    break
                cost = self._cost(shape, rule, middle)
                at = next(
                    (
                        at
                        for place in places
                        if (at := self._settled(shape, place, cost)) is not None
                    ),
                    None,
                )
                if at is not None and (best is None or cost(at[None])[0] < best[0] - 1e-6):
                    best = (float(cost(at[None])[0]), shape, at)
            if best is not None:
                self.room.add(best[1], best[2])
                return True
        return False

    def _candidates(
        self, shape: Shape, blocked: np.ndarray, rule: Rule, middle: np.ndarray
    ) -> tuple[np.ndarray, np.ndarray]:
        """Up to `LOOKED_AT` places (P, 2) that are not blocked, and what they cost (P,), the
        cheapest first.
        """
        places = self._places(shape)
        free = np.flatnonzero(~blocked.ravel() & ~np.isnan(places[:, 0]))
        costs = self._cost(shape, rule, middle)(places[free])
        few = min(LOOKED_AT, len(free))
        if not few:
            return places[:0], costs
        nearest = np.argpartition(costs, few - 1)[:few]
        nearest = nearest[np.argsort(costs[nearest], kind="stable")]
        return places[free[nearest]], costs[nearest]

    def _places(self, shape: Shape) -> np.ndarray:
        """(Y · X, 2) middles of the cells, those at which the shape would lie a cell or two beyond
        the plate moved onto it, NaN further out. It is on the hull of the plate where every corner
        of its own hull is.
        """
        key = (self.grid.key, self.room.margins, shape.plan, shape.turn)
        onto = self._known.places
        if key not in onto:
            hull = shapely.convex_hull(self.room.plate)
            inner = hull
            for corner in shapely.get_coordinates(shapely.convex_hull(shape.outline))[:-1]:
                inner = intersection(inner, moved(hull, -corner))
            places = np.stack([self.grid.x.ravel(), self.grid.y.ravel()], axis=1)
            if shapely.is_empty(inner):
                onto[key] = np.full_like(places, np.nan)
                return onto[key]
            around = rounded(inner, 1.5 * self.grid.cell, 4)
            shapely.prepare([inner, around])
            inside = shapely.contains_xy(inner, places[:, 0], places[:, 1])
            near = shapely.contains_xy(around, places[:, 0], places[:, 1]) & ~inside
            lines = shapely.shortest_line(inner, shapely.points(places[near]))
            places[near] = shapely.get_coordinates(lines).reshape(-1, 2, 2)[:, 0]
            places[~inside & ~near] = np.nan
            onto[key] = places
        return onto[key]

    def _cost(
        self, shape: Shape, rule: Rule, middle: np.ndarray
    ) -> Callable[[np.ndarray], np.ndarray]:
        """What a place (P, 2) costs: the less the better."""
        low, high = np.array(shape.outline.bounds).reshape(2, 2)
        if rule == "compact":
            if not self.room.at:
                return lambda at: np.hypot(*(at + (low + high) / 2 - middle).T)
            boxes = np.array(
                [
                    np.array(s.outline.bounds) + np.tile(p, 2)
                    for s, p in zip(self.room.shapes, self.room.at, strict=True)
                ]
            )
            all_low, all_high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)

            def around(at: np.ndarray) -> np.ndarray:
                size = np.maximum(at + high, all_high) - np.minimum(at + low, all_low)
                away = np.hypot(*(at + (low + high) / 2 - middle).T)
                return np.asarray(size.sum(axis=1) + np.abs(size[:, 0] - size[:, 1]) / 2 + away / 4)

            return around
        sign = np.array([-1.0 if "right" in rule else 1.0, -1.0 if "back" in rule else 1.0])
        return lambda at: (at * sign) @ np.array([1.0, 100.0])

    def _settled(
        self, shape: Shape, near: np.ndarray, cost: Callable[[np.ndarray], np.ndarray]
    ) -> np.ndarray | None:
        """The cheapest allowed place within a cell or so of one, slid until it touches."""
        around = near + 0.5 * self.grid.cell * np.array(
            [(i, j) for i in range(-3, 4) for j in range(-3, 4)]
        )
        at = None
        for place in around[np.argsort(cost(around), kind="stable")]:
            if self.room.allows(shape, place):
                at = place
                break
        if at is None:
            return None
        for _ in range(3):
            before = at
            for way in ((0, -1), (-1, 0), (0, 1), (1, 0)):
                at = self._slid(shape, at, np.array(way, float), cost)
            if np.abs(at - before).max() < EXACT:
                break
        return at

    def _slid(
        self,
        shape: Shape,
        at: np.ndarray,
        way: np.ndarray,
        cost: Callable[[np.ndarray], np.ndarray],
    ) -> np.ndarray:
        """Moved along a way as long as that is cheaper and allowed."""
        by = self.grid.cell
        while by > EXACT:
            there = at + by * way
            if cost(there[None])[0] < cost(at[None])[0] - 1e-9 and self.room.allows(shape, there):
                at = there
            else:
                by /= 2
        return at


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


def arranged(spec: BedSpec, plans: Mapping[str, BedPlan]) -> tuple[BedSpec, list[int]]:
    """The bed with its placings arranged, those that are locked left where they are; and the
    numbers of those that do not fit, which lie beside it. Raises `InputError` for an empty bed.
    """
    machine = plans_of(spec, plans)[0].spec.machine
    there = [as_it_lies(placing, plans) for placing in spec.placings]
    known: dict[tuple[str, float], list[Shape]] = {}
    for placing in spec.placings:
        now = 0.0 if spec.turn_step else placing.turn
        if (placing.plan, now) not in known:
            shapes = turns_of(spec, plans[placing.plan], placing.plan, now)
            known[placing.plan, now] = shapes
    choices = [known[p.plan, 0.0 if spec.turn_step else p.turn] for p in spec.placings]
    rules: tuple[Rule, ...] = ("compact", "front-left")
    if spec.way != "together":
        rules = ("front-left", "front-right", "back-left", "back-right")
    if sum(map(len, known.values())) > MANY:
        rules = rules[:1]
    best: tuple[int, list[Placing], list[int]] | None = None
    on_grid = OnGrid()
    for margins, rule in itertools.product(_margins(spec, plans, choices), rules):
        room = Room(machine, spec, margins=margins)
        placings, beside = _one_way(room, choices, there, rule, on_grid)
        if best is None or len(beside) < best[0]:
            best = (len(beside), placings, beside)
        if not beside:
            break
    assert best is not None
    return spec.model_copy(update={"placings": tuple(best[1]), "order": ()}), best[2]


def _margins(
    spec: BedSpec, plans: Mapping[str, BedPlan], choices: list[list[Shape]]
) -> tuple[tuple[float, float], ...]:
    """Margins to try for a room (see `Room.margins`), in order of preference: first as much as the
    shared loops need, then none, in case the placings do not fit otherwise.
    """
    if spec.loops != "shared":
        return ((0.0, 0.0),)
    # the shortest hull takes the most loops
    shortest = min(float(shapely.length(shapely.convex_hull(s[0].outline))) for s in choices)
    needed = [
        room_for_loops(shortest, float(one.heights[0]), one.loops) for one in plans_of(spec, plans)
    ]
    most = max(inside for inside, _ in needed), max(beside for _, beside in needed)
    return (most, (0.0, 0.0)) if any(most) else ((0.0, 0.0),)


def _one_way(
    room: Room,
    choices: list[list[Shape]],
    there: list[Shape],
    rule: Rule,
    on_grid: OnGrid,
) -> tuple[list[Placing], list[int]]:
    """The placings arranged in an empty room by a rule, ``choices`` their turns and ``there`` how
    they lie now, and the numbers of those that do not fit.
    """
    spec, placings = room.spec, list(room.spec.placings)
    group = [spec.group_of(k) for k in range(len(placings))]
    area = [float(shapely.area(shapes[0].outline)) for shapes in choices]
    tops = [shapes[0].turned.top for shapes in choices]
    for k, (placing, lies) in enumerate(zip(placings, there, strict=True)):
        if placing.locked:
            room.group = group[k]
            room.add(lies, placing.at)
    distinct = list({id(s): s for shapes in choices for s in shapes}.values())
    packer = Packer(room, distinct, on_grid)
    free = [k for k, placing in enumerate(placings) if not placing.locked]
    # group by group, the lowest first, because the head passes over what is low; the largest first
    height = {g: max(tops[k] for k in free if group[k] == g) for g in {group[k] for k in free}}
    free.sort(key=lambda k: (height[group[k]], 0 if room.single else group[k], -area[k]))
    beside = []
    hopeless: set[tuple[str, float]] = set()
    for k in free:
        room.group = group[k]
        kind = (placings[k].plan, choices[k][0].turn)
        if kind in hopeless or not packer.place(choices[k], rule, spec.centre):
            hopeless.add(kind)
            beside.append(k)
            continue
        shape, at = room.shapes[-1], room.at[-1]
        placings[k] = placings[k].model_copy(
            update={
                "x": round(float(at[0]), 3),
                "y": round(float(at[1]), 3),
                "turn": shape.turn,
            }
        )
    return _beside(placings, beside, choices, room.machine), [k + 1 for k in beside]


def _beside(
    placings: list[Placing], beside: list[int], choices: list[list[Shape]], machine: Machine
) -> list[Placing]:
    """Placings that do not fit put in a row to the right of the bed."""
    _, low_y, high_x, _ = plate(machine).bounds
    x = high_x + 20.0
    for k in beside:
        low, high = np.array(choices[k][0].outline.bounds).reshape(2, 2)
        placings[k] = placings[k].model_copy(
            update={"x": round(float(x - low[0]), 3), "y": round(float(low_y - low[1]), 3)}
        )
        x += high[0] - low[0] + 10.0
    return placings


def _shrunk(mask: np.ndarray) -> np.ndarray:
    """A mask without the cells at its border."""
    return np.asarray(scipy.ndimage.binary_erosion(mask, border_value=1))
