"""What finished jobs tell about a machine: how hard it really accelerates, and what every layer
costs it beside its moves.

The time of a job is that of its moves at f times the accelerations asked for, plus a constant for
every layer; both are found from what jobs really took, by least squares with a mild pull towards a
machine that is as it states: jobs that are all alike cannot tell the two apart, and must not push
one against the other.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Protocol

import numpy as np

from northpace.motion.kinematics import Course, limits_of, run
from northpace.moves import START
from northpace.spec import Machine

#: Factors looked between, and how close they are found.
LEAST, MOST, CLOSE = 0.2, 3.0, 1e-3
#: A machine is corrected from this many jobs on; below, the overhead alone cannot be told from the
#: acceleration.
ENOUGH = 3
#: Share of its time that a job scatters by itself; how far a factor (its logarithm) and an overhead
#: (s) usually lie from what a machine states.
SCATTER, USUAL_FACTOR, USUAL_LAYER = 0.01, 0.4, 1.0


@dataclass(frozen=True)
class Learnt:
    """What a machine was found to do: factor of its accelerations, seconds a layer beside its
    moves, how far its jobs then still are off (standard deviation of actual over corrected, a
    share), and how far they were off before (mean share).
    """

    factor: float
    layer_s: float
    spread: float
    before: float
    jobs: int


class Moved(Protocol):
    """Columns (M,) of moves: those of a plan, or of its file read back."""

    @property
    def x(self) -> np.ndarray: ...
    @property
    def y(self) -> np.ndarray: ...
    @property
    def z(self) -> np.ndarray: ...
    @property
    def filament(self) -> np.ndarray: ...
    @property
    def speed(self) -> np.ndarray: ...
    @property
    def acceleration(self) -> np.ndarray: ...
    @property
    def feature(self) -> np.ndarray: ...


@dataclass(frozen=True)
class Done:
    """A finished job: its moves, its layers, the seconds it really took from the first move on, and
    the machine it was planned for.
    """

    moves: Moved
    layers: int
    seconds: float
    machine: Machine


def retimed(moves: Moved, machine: Machine, factor: float) -> float:
    """Seconds of moves at ``factor`` times the accelerations asked for and allowed; heating and
    homing left out.
    """
    limits = limits_of(machine.model_copy(update={"acceleration_reached": 100.0 * factor}))
    moving = moves.feature != START
    count = len(moves.x)
    seconds = np.zeros(count)
    pushed = moves.acceleration.astype(np.float64) * factor
    course = Course(moves.x, moves.y, moves.z, moves.filament, moves.speed, pushed)
    run(course, limits, 0, count, seconds)
    return float(seconds[moving].sum())


def learn(jobs: list[Done]) -> Learnt | None:
    """The factor and the overhead that fit jobs best in shares of their time; None for too few of
    them.
    """
    if len(jobs) < ENOUGH:
        return None
    actual = np.array([job.seconds for job in jobs])
    layers = np.array([job.layers for job in jobs], float)

    def fit(factor: float) -> tuple[float, float, float]:
        """What is made least, the overhead that makes it so, and the squared error in shares."""
        moved = np.array([retimed(job.moves, job.machine, factor) for job in jobs])
        a, b = layers / actual, 1.0 - moved / actual
        overhead = max(float(a @ b / (a @ a + (SCATTER / USUAL_LAYER) ** 2)), 0.0)
        error = float(((b - overhead * a) ** 2).sum())
        return (
            error / SCATTER**2
            + (np.log(factor) / USUAL_FACTOR) ** 2
            + (overhead / USUAL_LAYER) ** 2,
            overhead,
            error,
        )

    low, high, golden = np.log(LEAST), np.log(MOST), (np.sqrt(5.0) - 1.0) / 2.0
    while high - low > CLOSE:
        one, two = high - golden * (high - low), low + golden * (high - low)
        if fit(float(np.exp(one)))[0] < fit(float(np.exp(two)))[0]:
            high = two
        else:
            low = one
    factor = float(np.exp((low + high) / 2))
    _, overhead, error = fit(factor)
    plain = np.array([retimed(job.moves, job.machine, 1.0) for job in jobs])
    return Learnt(
        factor,
        overhead,
        float(np.sqrt(error / max(len(jobs) - 2, 1))),
        float((actual / plain - 1).mean()),
        len(jobs),
    )
