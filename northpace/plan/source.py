"""The mesh file a plan is made from."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path


@dataclass(frozen=True)
class Source:
    """A mesh file, known by what is in it; it is read only when a stage asks for its bytes."""

    filename: str
    checksum: str
    read: Callable[[], bytes] = field(compare=False, repr=False)

    @classmethod
    def of(cls, data: bytes, filename: str) -> Source:
        """A file whose bytes are at hand."""
        return cls(filename, hashlib.sha256(data).hexdigest(), lambda: data)

    @classmethod
    def at(cls, path: Path) -> Source:
        """A file on disk. Raises `OSError` where it cannot be read."""
        return cls.of(path.read_bytes(), path.name)

    @property
    def key(self) -> tuple[str, str]:
        """What tells one file from another: its bytes, and the format its name claims."""
        return self.checksum, self.filename.rsplit(".", 1)[-1].lower()
