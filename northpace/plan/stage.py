"""What a stage is: a pure function, the stages it builds on, and the settings it is handed.

A stage is declared where it is written:

    @stage(part, phase="load", reads=("place",))
    def placed(spec, part):
        return place(part, spec.place)

Its function is handed the portion of the spec it declared and the results it builds on, in the
order they are named. The key of its result follows from both, so it cannot be forgotten.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from northpace.estimate.rates import Correction
from northpace.plan.source import Source
from northpace.spec import PlanSpec
from northpace.spec.portion import View

T = TypeVar("T")
#: Settings, as "group", "group.setting" or a view of one.
Names = tuple[str | View, ...]
#: The same, or what names them for a spec.
Reads = Names | Callable[[PlanSpec], Names]
#: Phases of a plan, in the order a maker is told about them.
PHASES = ("load", "layers", "outlines", "paths", "motion", "checks", "gcode")


@dataclass(frozen=True)
class Request:
    """What is asked for: a file, the settings, what the quick figures are corrected by, and layer
    heights in mm where they are given instead of chosen.
    """

    source: Source
    spec: PlanSpec
    correction: Correction | None = None
    heights: tuple[float, ...] | None = None


@dataclass(frozen=True, eq=False)
class Input(Generic[T]):
    """Something a request brings along: its value, and what it contributes to keys."""

    name: str
    value: Callable[[Request], T]
    key: Callable[[Request], Any]


@dataclass(frozen=True)
class Before:
    """The previous result of a stage, and what it was computed from."""

    part: PlanSpec
    values: tuple[Any, ...]
    result: Any


@dataclass(frozen=True, eq=False)
class Stage(Generic[T]):
    """One step of a plan; see the module."""

    #: its name in counts and times
    name: str
    #: one of `PHASES`
    phase: str
    #: called with the portion of the spec and with the results it builds on
    run: Callable[..., T]
    #: what it builds on, in the order of the function's parameters
    on: tuple[Input[Any] | Stage[Any] | Needed, ...]
    #: settings it reads
    reads: Reads = ()
    #: settings it reads with what bands and regions make of them
    local: tuple[str, ...] = ()
    #: what tells one result from another, where different inputs often give the same
    known_by: Callable[[T], Any] | None = None
    #: what sets it apart from another stage with the same function
    extra: Any = None
    #: puts together what the function hands over part by part
    joined: Callable[[list[T]], T] | None = None
    #: how it goes on from what it came to before, if it can (`northpace.plan.again`)
    again: Again | None = None
    #: whether results are kept: not where they are large and one quick stage makes them over
    kept: bool = True

    def names(self, spec: PlanSpec) -> Names:
        """The settings it reads of a spec."""
        return self.reads(spec) if callable(self.reads) else self.reads

    def where(self, needed: Callable[[PlanSpec], bool], instead: Any) -> Needed:
        """This stage as one that another builds on only for some specs, which gets ``instead`` for
        the others. ``needed`` is asked with the portion of the spec the other one declared.
        """
        return Needed(self, needed, instead)


@dataclass(frozen=True, eq=False)
class Needed:
    """A stage that another builds on only for some specs."""

    stage: Stage[Any]
    needed: Callable[[PlanSpec], bool]
    instead: Any


@dataclass(frozen=True, eq=False)
class Now:
    """What a stage is computed from now; ``check`` raises where the caller wants to stop."""

    stage: Stage[Any]
    part: PlanSpec
    values: tuple[Any, ...]
    check: Callable[[], None]


#: Computes a result from the previous one; None means that it has to be computed as a whole.
Again = Callable[[Before, Now], Any]

SOURCE: Input[Source] = Input("source", lambda ask: ask.source, lambda ask: ask.source.key)
CORRECTION: Input[Correction | None] = Input(
    "correction", lambda ask: ask.correction, lambda ask: ask.correction
)


HEIGHTS: Input[tuple[float, ...] | None] = Input(
    "heights", lambda ask: ask.heights, lambda ask: ask.heights
)


def in_parts(
    *on: Input[Any] | Stage[Any] | Needed,
    joined: Callable[[list[T]], T],
    phase: str,
    reads: Reads = (),
    local: tuple[str, ...] = (),
    again: Again | None = None,
) -> Callable[[Callable[..., Iterator[T]]], Stage[T]]:
    """Declare the function below as a stage that hands its result over part by part, so that what
    is done can be looked at, and that it can be stopped between two parts. ``joined`` puts them
    together.
    """
    assert phase in PHASES

    def declared(run: Callable[..., Iterator[T]]) -> Stage[T]:
        by_parts: Callable[..., Any] = run
        return Stage(run.__name__, phase, by_parts, on, reads, local, joined=joined, again=again)

    return declared


def stage(
    *on: Input[Any] | Stage[Any] | Needed,
    phase: str,
    reads: Reads = (),
    local: tuple[str, ...] = (),
    known_by: Callable[[Any], Any] | None = None,
    again: Again | None = None,
    kept: bool = True,
) -> Callable[[Callable[..., T]], Stage[T]]:
    """Declare the function below as a stage that builds on others."""
    assert phase in PHASES

    def declared(run: Callable[..., T]) -> Stage[T]:
        return Stage(run.__name__, phase, run, on, reads, local, known_by, again=again, kept=kept)

    return declared
