"""Compiled kernels that no longer fit their sources."""

from __future__ import annotations

import hashlib
from pathlib import Path

from ops.steps import ROOT


def drop_stale(root: Path = ROOT) -> bool:
    """Remove the compiled kernels of the core and the simulated printer when any file with a kernel
    has changed: a kernel knows when its own file changed, but not when one that it calls, in
    another file, did. Returns whether there was something to drop.
    """
    seen = hashlib.sha256()
    for source in sorted((*root.glob("northpace/**/*.py"), *root.glob("standin/**/*.py"))):
        text = source.read_bytes()
        if b"njit" in text:
            seen.update(text)
    #: says which sources the compiled kernels were made of
    stamp = root / "northpace" / "__pycache__" / "kernels.made-of"
    if stamp.exists() and stamp.read_text() == seen.hexdigest():
        return False
    for folder in ("northpace", "standin"):
        for compiled in (root / folder).glob("**/*.nb[ic]"):
            compiled.unlink(missing_ok=True)
    stamp.parent.mkdir(exist_ok=True)
    stamp.write_text(seen.hexdigest())
    return True
