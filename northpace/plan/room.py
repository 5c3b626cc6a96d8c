"""Memory that is no longer used goes back to the machine.

The C library keeps what arrays leave behind, for arrays to come that seldom fit: of a part of 500
bodies a third of what a plan takes.
"""

from __future__ import annotations

import ctypes
from collections.abc import Callable
from functools import cache
from typing import Any

#: A stage that took so long (s) may have left much; handing it back takes milliseconds.
LONG = 0.2


def give_back() -> None:
    """Hand unused memory back, where the C library can."""
    trim = _trim()
    if trim is not None:
        trim(0)


@cache
def _trim() -> Callable[[int], Any] | None:
    return getattr(ctypes.CDLL(None), "malloc_trim", None)
