"""Infill patterns, one file each; `docs/adding.md` says how to add one."""

from northpace.infill.concentric import CONCENTRIC
from northpace.infill.cubic import CUBIC
from northpace.infill.grid import GRID
from northpace.infill.gyroid import GYROID
from northpace.infill.hilbert import HILBERT
from northpace.infill.honeycomb import HONEYCOMB
from northpace.infill.lines import LINES
from northpace.infill.pattern import Pattern
from northpace.infill.triangles import TRIANGLES
from northpace.infill.vault import VAULT

#: All patterns by name, in the order a screen lists them.
PATTERNS: dict[str, Pattern] = {
    pattern.name: pattern
    for pattern in (
        LINES,
        GRID,
        TRIANGLES,
        HONEYCOMB,
        GYROID,
        CUBIC,
        CONCENTRIC,
        HILBERT,
        VAULT,
    )
}

__all__ = ["PATTERNS", "Pattern"]
