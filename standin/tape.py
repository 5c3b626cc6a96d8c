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
    seconds = drive(program, limits.weaker(reach))
    layers = int(program.layer.max(initial=-1)) + 1
    first = np.searchsorted(program.layer, np.arange(layers), "left")
    if layer_extra > 0:
        seconds[first[first < len(seconds)]] += layer_extra
    clock = np.cumsum(seconds)
    starts = np.r_[0.0, clock][first] if layers else np.empty(0)
    fed = np.maximum.accumulate(np.maximum(np.cumsum(program.way[:, 3]), 0.0))
    begin = np.r_[0.0, clock]
    step, which = first_hit(program.way, np.array([part[:5] for part in limits.head], float))
    return Tape(
        clock,
        fed,
        program.layer,
        program.kind == WAIT,
        starts,
        [(float(begin[min(at, len(clock))]), what, value) for at, what, value in program.sets],
        float(begin[step]) if step >= 0 else float("inf"),
        limits.head[which][5] if step >= 0 else "",
    )
