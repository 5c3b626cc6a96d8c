"""Memory that is no longer used goes back to the machine.

The C library keeps what arrays leave behind, for arrays to come that seldom fit: of a part of 500
bodies a third of what a plan takes.
"""

from __future__ import annotations

import ctypes
from functools import cache

#: A stage that took so long (s) may have left much; handing it back takes milliseconds.
LONG = 0.2
#: Arrays from this size (bytes) on are no part of what is kept: they go back at once. Without a
#: word the library raises this to the largest array that was ever dropped. With 1 MB a plan of
#: 170,000 moves asked for 40,000 pages anew, a twentieth of its time; with 8 MB it asks for a third
#: of that, and one of 3,000,000 takes hardly more room.
LARGE = 8 << 20
#: The number of that choice in the C library.
_MMAP_THRESHOLD = -3


@cache
def _library() -> ctypes.CDLL:
    return ctypes.CDLL(None)


def keep_nothing_large() -> None:
    """Let large arrays go back as soon as they are dropped, where the C library can."""
    choose = getattr(_library(), "mallopt", None)
    if choose is not None:
        choose(_MMAP_THRESHOLD, LARGE)


def give_back() -> None:
    """Hand unused memory back, where the C library can."""
    trim = getattr(_library(), "malloc_trim", None)
    if trim is not None:
        trim(0)
