"""A file ready to run: when its steps end, what it has taken by then, where layers begin."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from standin.drive import drive
from standin.head import first_hit
from standin.limits import Limits
from standin.text import WAIT, Program, read


@dataclass
class Tape:
    """A file ready to run: ends of its steps in seconds (K,), filament fed until then (K,) in mm,
    layer of each step, and where layers begin (s).
    """

    #: when each step ends, and what is fed until then
    clock: np.ndarray
    fed: np.ndarray
    layer: np.ndarray
    wait: np.ndarray
    #: what it was made of
    program: Program
    #: when layers begin, and what is set when
    starts: np.ndarray
    sets: list[tuple[float, str, float]] = field(default_factory=list)
    #: when the head hits what it has laid, and what of it; never where it does not
    hit: float = float("inf")
    hits_with: str = ""

    def fed_at(self, t: float) -> float:
        """Filament in mm that has left the spool for good after ``t`` seconds; what is pulled back
        in between does not count.
        """
        k = int(np.searchsorted(self.clock, t, "left"))
        if k >= len(self.fed):
            return float(self.fed[-1])
        before, begun = (float(self.fed[k - 1]), float(self.clock[k - 1])) if k else (0.0, 0.0)
        span = float(self.clock[k]) - begun
        return (
            before + (float(self.fed[k]) - before) * min(max((t - begun) / span, 0.0), 1.0)
            if span > 0
            else before
        )

    def when_fed(self, mm: float) -> float:
        """Seconds after which so much filament has left the spool; infinite when the file takes
        less.
        """
        k = int(np.searchsorted(self.fed, mm, "left"))
        if k >= len(self.fed):
            return float("inf")
        before, begun = (float(self.fed[k - 1]), float(self.clock[k - 1])) if k else (0.0, 0.0)
        share = (mm - before) / max(float(self.fed[k]) - before, 1e-12)
        return begun + share * (float(self.clock[k]) - begun)


def tape_of(text: str, limits: Limits, reach: float, layer_extra: float) -> Tape:
    """Read a file and run through it once: ``reach`` is the share of its accelerations the machine
    really has, ``layer_extra`` what a layer takes beside its moves (s).

    Raises `ValueError` for a file that the machine does not understand.
    """
    program: Program = read(text, limits)
    if not len(program.kind):
        raise ValueError("the file holds nothing to do")
    program.push = program.push * reach
    return _run(program, drive(program, limits.weaker(reach)), limits, layer_extra)


def without(
    tape: Tape, thing: int, at: float, limits: Limits, reach: float, layer_extra: float
) -> Tape:
    """The tape when a labelled thing is given up after ``at`` seconds: what of it has not begun is
    left out, everything else is done where it is, by the straight way there.

    Raises `ValueError` where the file has no such label.
    """
    program = tape.program
    if not (program.thing == thing).any():
        raise ValueError(f"the file has no label {thing}")
    begun = int(np.searchsorted(tape.clock, at, "right")) + 1
    kept = (np.arange(len(program.kind)) < begun) | (program.thing != thing)
    ends = np.cumsum(program.way[:, :3], axis=0)[kept]
    way = program.way[kept]
    way[:, :3] = np.diff(ends, axis=0, prepend=0.0)
    at_step = np.cumsum(kept) - kept
    sets = [(int(at_step[min(k, len(kept) - 1)]), what, v) for k, what, v in program.sets]
    names = ("kind", "speed", "push", "wait", "layer", "thing")
    rest = Program(way=way, sets=sets, **{name: getattr(program, name)[kept] for name in names})
    done = np.diff(tape.clock[:begun], prepend=0.0)
    seconds = np.r_[done, drive(rest, limits.weaker(reach))[begun:]]
    return _run(rest, seconds, limits, layer_extra, begun, int(program.layer.max(initial=-1)) + 1)


def _run(
    program: Program,
    seconds: np.ndarray,
    limits: Limits,
    layer_extra: float,
    begun: int = 0,
    layers: int = 0,
) -> Tape:
    """A program with the seconds of its steps; those before ``begun`` have what layers take beside
    their moves already.
    """
    layers = layers or int(program.layer.max(initial=-1)) + 1
    first = np.searchsorted(program.layer, np.arange(layers), "left")
    if layer_extra > 0:
        seconds[np.unique(first[(first < len(seconds)) & (first >= begun)])] += layer_extra
    clock = np.cumsum(seconds)
    starts = np.r_[0.0, clock][np.minimum(first, len(clock))] if layers else np.empty(0)
    fed = np.maximum.accumulate(np.maximum(np.cumsum(program.way[:, 3]), 0.0))
    begin = np.r_[0.0, clock]
    step, which = first_hit(program.way, np.array([part[:5] for part in limits.head], float))
    return Tape(
        clock,
        fed,
        program.layer,
        program.kind == WAIT,
        program,
        starts,
        [(float(begin[min(at, len(clock))]), what, value) for at, what, value in program.sets],
        float(begin[step]) if step >= 0 else float("inf"),
        limits.head[which][5] if step >= 0 else "",
    )
