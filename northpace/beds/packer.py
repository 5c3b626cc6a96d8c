"""Finding places for shapes on a bed that is being filled.

A grid (`northpace.beds.grid`) says where a shape may lie at all. The best places by the rule are
then looked at exactly, and the shape is slid until it touches.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import shapely

from northpace.beds.filling import Room, Shape
from northpace.beds.grid import Grid, GridKey
from northpace.beds.reach import moved
from northpace.geometry.polygons import difference, intersection, rounded, union
from northpace.geometry.threads import in_threads

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
        self._look()
        for grow in (_grown, _shrunk):

            def look(
                shape: Shape, grow: Callable[[np.ndarray], np.ndarray] = grow
            ) -> tuple[np.ndarray, np.ndarray]:
                return self._candidates(shape, grow(self._blocked(shape)), rule, middle)

            looked = zip(shapes, in_threads(look, shapes), strict=True)
            found = [(float(costs[0]), shape, at) for shape, (at, costs) in looked if len(at)]
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


def _grown(mask: np.ndarray) -> np.ndarray:
    """A mask (Y, X) with the cells beside it."""
    out = mask.copy()
    out[1:] |= mask[:-1]
    out[:-1] |= mask[1:]
    out[:, 1:] |= mask[:, :-1]
    out[:, :-1] |= mask[:, 1:]
    return out


def _shrunk(mask: np.ndarray) -> np.ndarray:
    """A mask (Y, X) without the cells at its border."""
    return ~_grown(~mask)
