"""How long a computation may take and how much memory it may have: more for finer meshes."""

from __future__ import annotations

from dataclasses import dataclass

from django.conf import settings

#: A computation may last so many times as long as the processor works on it, because others have
#: their share of the processor, too.
SHARED = 10.0


@dataclass(frozen=True)
class Limit:
    """What a computation gets, what it is, and what a maker can do who meets the limit.

    The ``seconds`` are those a processor works on it, so that it does not depend on what else the
    machine has to do; two processors at once count twice. After ``lasts`` seconds it is stopped
    all the same.
    """

    what: str
    seconds: float
    megabytes: float
    remedy: str
    lasts: float | None = None

    @property
    def longest(self) -> float:
        """Seconds after which it is stopped, however little of them a processor worked on it."""
        return SHARED * self.seconds if self.lasts is None else self.lasts

    @property
    def too_long(self) -> str:
        return f"{self.what} took more than {self.seconds:.0f} s of processor time and was stopped."

    @property
    def held_up(self) -> str:
        return (
            f"{self.what} was not done after {self.longest:.0f} s and was stopped: the machine had "
            "much else to do. Nothing is wrong with it; try again later."
        )

    @property
    def too_large(self) -> str:
        return f"{self.what} needs more than {self.megabytes:,.0f} MB and was stopped."

    @property
    def fell_over(self) -> str:
        return f"{self.what} ended its process twice, probably for want of memory."


#: Most of what is computed keeps so many processors busy at once.
THREADS = 2
#: Bytes a triangle has in the tightest format in use.
TRIANGLE = 50


def reading(size_bytes: int) -> Limit:
    """To read and mend a file."""
    return Limit(
        "reading and mending this file",
        THREADS * (settings.READING_SECONDS + size_bytes / TRIANGLE / 30_000),
        500 + 12 * size_bytes / 1e6,
        "A mesh with fewer triangles, closed, with its bodies joined, would help; so would a "
        "binary STL of it.",
    )


def planning(size_bytes: int) -> Limit:
    """To plan a part, or to search for what would be quicker."""
    return Limit(
        "planning this part",
        THREADS * (settings.PLANNING_SECONDS + size_bytes / TRIANGLE / 10_000),
        settings.PLANNING_MEGABYTES + 12 * size_bytes / 1e6,
        "Thicker layers, less infill, no supports or a mesh with fewer triangles would help; so "
        "would laying it down in pieces.",
    )


#: Bytes a move of a bed takes while it is merged and timed, moves a second, and the most megabytes
#: a bed may ask for.
MOVE_BYTES, MOVES_A_SECOND, MOST_MEGABYTES = 600, 20_000, 12_000


def laying(size_bytes: int, moves: int) -> Limit:
    """To lay a bed of plans with so many moves in all."""
    plain = planning(size_bytes)
    return Limit(
        "laying this bed",
        plain.seconds + THREADS * moves / MOVES_A_SECOND,
        min(plain.megabytes + moves * MOVE_BYTES / 1e6, MOST_MEGABYTES),
        "Fewer placings, plans with fewer moves (less infill, taller layers) or several beds would "
        "help.",
    )


def figuring(size_bytes: int) -> Limit:
    """To say the quick figures of a part, or what the screen shows of it."""
    return Limit(
        "what was asked about this part",
        THREADS * (settings.FIGURING_SECONDS + size_bytes / TRIANGLE / 20_000),
        1000 + 12 * size_bytes / 1e6,
        "A mesh with fewer triangles would help.",
    )
