"""What an export is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal


@dataclass(frozen=True)
class Export:
    """A way to write something as a file."""

    #: what it is given: a move table as Arrow (`northpace.moves.to_arrow`), or plain data of the
    #: report, of a comparison (`northpace.plan.compare`) or of a workshop
    subject: Literal["moves", "report", "comparison", "workshop"]
    #: ending of the file's name, without the dot
    suffix: str
    media_type: str
    #: what it is good for, in a sentence
    help: str
    write: Callable[[Any], bytes]
