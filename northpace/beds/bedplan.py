"""What a bed needs of an exact plan, and the visits it is laid in."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cache, partial

import numpy as np
import shapely

from northpace.beds.head import head
from northpace.beds.reach import Standing, Turned, standing, turned
from northpace.beds.spec import BedSpec
from northpace.checks.facts import Facts
from northpace.errors import InputError
from northpace.figures import Report
from northpace.geometry.polygons import rounded, together, union
from northpace.motion.heat import Heat, heat_by_layer
from northpace.motion.pace import Paced, asked_of
from northpace.motion.slowing import least_times
from northpace.moves import FOOTING, TRAVEL
from northpace.plan.pipeline import Plan
from northpace.spec import ByLayer, Footing, Machine, PlanSpec
from northpace.spec.groups.machine.dialect import Dialect
from northpace.spec.groups.machine.head import Head
from northpace.spec.groups.machine.plate import Plate


@dataclass(frozen=True)
class Visits:
    """The stretches of rows (V,) that a plan is laid in, from the bed up: a layer each, the layers
    of a raft each by itself.
    """

    #: first row with the way there, first row that lays, and end
    first: np.ndarray
    laid: np.ndarray
    last: np.ndarray
    #: layer of the plan, and top of the beads in mm
    layer: np.ndarray
    top: np.ndarray
    #: whether beads rise within a visit, as those of a spiral
    rising: bool


@dataclass(frozen=True)
class BedPlan:
    """An exact plan as beds lay it; layers (N,)."""

    #: what it is called
    name: str
    #: settings with derived speeds as they come out
    spec: PlanSpec
    paced: Paced
    report: Report
    #: tops as they are laid, a raft below them, and heights of the layers, in mm
    tops: np.ndarray
    heights: np.ndarray
    heat: Heat
    #: least time of a layer in s, and mm/s below which nothing is slowed
    least: np.ndarray
    floor: np.ndarray
    #: mm of filament pulled back before a travel, and given back beyond that
    drawn: np.ndarray
    extra: np.ndarray
    visits: Visits
    #: (2,) where the middle of the part lies in its rows, in mm
    middle: np.ndarray
    standing: Standing
    #: the same by every layer, made when it is asked for
    by_layer: Callable[[], Standing]
    #: priming loops as the plan asks for them, also where the bed lays one run around all
    loops: Footing
    _turned: dict[float, Turned] = field(default_factory=dict, compare=False)

    def turned(self, degrees: float) -> Turned:
        """How it stands when it is turned about z, under the head of its machine."""
        degrees = round(degrees % 360.0, 6)
        if degrees not in self._turned:
            self._turned[degrees] = turned(
                self.standing, *cosine_sine(degrees), head(self.spec.machine), self.by_layer
            )
        return self._turned[degrees]

    @property
    def top(self) -> float:
        """How tall it stands, in mm."""
        return float(self.visits.top[-1])


def cosine_sine(degrees: float) -> tuple[float, float]:
    """Cosine and sine of a turn, exact at right angles."""
    angle = np.radians(degrees)
    return float(np.round(np.cos(angle), 15)), float(np.round(np.sin(angle), 15))


def without_loops(spec: PlanSpec) -> PlanSpec:
    """A plan for a bed whose priming loops run around everything on it."""
    footing = spec.footing.model_copy(update={"skirt_loops": 0, "prime_volume": 0.0})
    return spec.model_copy(update={"footing": footing})


#: What of a machine is the bed's: plate, head and words of the file as the machine has them now,
#: whatever they were when a plan was computed. How it moves stays the plan's.
OF_THE_BED = (*Plate.model_fields, *Head.model_fields, *Dialect.model_fields)


def bed_plan(
    name: str, plan: Plan, loops: Footing | None = None, machine: Machine | None = None
) -> BedPlan:
    """A plan as beds lay it; ``loops`` are those it asks for where it is computed without,
    ``machine`` is the bed's as it is now. Raises `InputError` for a plan that lays nothing.
    """
    facts, outlines = plan.facts, plan.outlines
    spec, lift = facts.spec, facts.footing.lift
    if not (facts.rows.width > 0).any() or shapely.is_empty(outlines.areas).all():
        raise InputError(f"{name}: this plan lays nothing, so there is nothing to put on a bed")
    if machine is not None:
        now = {key: getattr(machine, key) for key in OF_THE_BED}
        spec = spec.model_copy(update={"machine": spec.machine.model_copy(update=now)})
    local = ByLayer(spec, outlines.tops, outlines.heights)
    paced = asked_of(facts.rows, spec, outlines.tops, outlines.heights)
    visits = visits_of(paced, lift > 0)
    # its rows know the origin that the machine had then
    middle = np.array(facts.spec.machine.origin) + (spec.place.shift_x, spec.place.shift_y)
    laid = _laid_and_ways(facts, visits, middle)
    return BedPlan(
        name,
        spec,
        paced,
        plan.report,
        outlines.tops + lift,
        outlines.heights,
        heat_by_layer(spec, outlines.tops, outlines.heights),
        least_times(spec, local),
        local.numbers("pace.floor_speed", spec.material.floor_speed),
        local.numbers("pace.retraction_length", 0.0),
        local.numbers("pace.restart_extra", 0.0),
        visits,
        middle,
        standing(visits.top, *laid),
        cache(partial(standing, visits.top, *laid, by_layer=True)),
        spec.footing if loops is None else loops,
    )


def plans_of(spec: BedSpec, plans: Mapping[str, BedPlan]) -> list[BedPlan]:
    """The plan of every placing; raises `InputError` for an empty bed, a plan there is none of, and
    plans of different machines.
    """
    if not spec.placings:
        raise InputError("there is nothing on the bed yet; put a plan on it", "placings")
    missing = sorted({placing.plan for placing in spec.placings} - set(plans))
    if missing:
        raise InputError(f"there is no plan '{missing[0]}'", "placings")
    found = [plans[placing.plan] for placing in spec.placings]
    for plan in found:
        own, first = plan.spec.machine, found[0].spec.machine
        if (own.name, own.nozzle) != (first.name, first.nozzle):
            raise InputError(
                f"{plan.name} is planned for {own.name} with {own.nozzle:g} mm, {found[0].name} "
                f"for {first.name} with {first.nozzle:g} mm; a bed is of one machine and nozzle",
                "placings",
            )
    return found


def visits_of(paced: Paced, on_raft: bool) -> Visits:
    """The visits of rows; those of a raft one by one."""
    rows = paced.rows
    laid = np.flatnonzero(rows.width > 0)
    layer, z = rows.layer[laid], np.round(rows.z[laid], 4)
    begins = np.r_[True, np.diff(layer) > 0]
    if on_raft:
        begins |= np.r_[True, (np.diff(z) > 1e-6) & (layer[1:] == 0)]
    at = np.flatnonzero(begins)
    # the way to a visit begins after the last bead of the one before; row 0 is where all starts
    first = np.r_[1, laid[at[1:] - 1] + 1]
    top = np.maximum.reduceat(z, at)
    rising = bool((top - np.minimum.reduceat(z, at) > 1e-6).any())
    return Visits(first, laid[at], np.r_[first[1:], len(rows.layer)], layer[at], top, rising)


def _laid_and_ways(
    facts: Facts, visits: Visits, middle: np.ndarray
) -> tuple[np.ndarray, list[shapely.Geometry]]:
    """(V,) what visits lay, and the lines the tip follows outside of that, about the middle of the
    part.
    """
    rows, outlines = facts.rows, facts.outlines
    shift = np.array(facts.spec.machine.origin) - middle
    areas = union(outlines.areas[visits.layer], facts.stands.areas[visits.layer])
    areas = shapely.transform(areas, lambda points: points + shift)
    at = np.stack([rows.x, rows.y], axis=1) - middle
    lines = shapely.linestrings(np.stack([at[:-1], at[1:]], axis=1))
    visit = np.searchsorted(visits.first, np.arange(1, len(rows.x)), "right") - 1
    footing = np.flatnonzero((rows.feature[1:] == FOOTING) & (rows.width[1:] > 0))
    travels = np.flatnonzero(rows.feature[1:] == TRAVEL)
    for v in np.unique(visit[footing]):
        mine = footing[visit[footing] == v]
        beads = rounded(lines[mine], rows.width[1:][mine] / 2, 4)
        raft = visits.layer[v] == 0 and v + 1 < len(visits.layer) and visits.layer[v + 1] == 0
        areas[v] = together(beads) if raft else union(areas[v], together(beads))
    ways: list[shapely.Geometry] = [shapely.LineString()] * len(areas)
    shapely.prepare(areas)
    outside = travels[~shapely.covers(areas[visit[travels]], lines[travels])]
    # the way to the first visit comes from where the bed starts
    outside = outside[visit[outside] > 0]
    for v in np.unique(visit[outside]):
        ways[v] = shapely.multilinestrings(lines[outside[visit[outside] == v]])
    return areas, ways
