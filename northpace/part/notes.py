"""What was done to make a solid of a file."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Mending:
    """One thing that was done: in words, and the volume it gave to the part (mm³); for openings
    that of what bulges out of their plane.
    """

    words: str
    volume: float = 0.0


class Notes:
    """What was done so far."""

    def __init__(self) -> None:
        self.done: list[Mending] = []

    def append(self, words: str, volume: float = 0.0) -> None:
        """Note one more thing."""
        self.done.append(Mending(words, volume))
