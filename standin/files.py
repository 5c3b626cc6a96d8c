"""The files a machine keeps, one for each run, and what they come to when they are run."""

from __future__ import annotations

import hashlib
import os
import re
from pathlib import Path

from standin.limits import Limits
from standin.tape import Tape, tape_of

#: Bytes at the head of a file in which its material is named.
HEAD = 20_000
#: Files that are kept ready to run.
READY = 40


class Files:
    """Files by the number of their run. The same content is made ready to run once, since many
    jobs print the same.
    """

    def __init__(self, folder: Path, limits: Limits, reach: float, layer_extra: float) -> None:
        self.folder, self._limits, self._reach, self._extra = folder, limits, reach, layer_extra
        self._tapes: dict[str, Tape] = {}
        folder.mkdir(parents=True, exist_ok=True)

    def used(self) -> int:
        """Bytes of all files."""
        return sum(path.stat().st_size for path in self.folder.iterdir())

    def has(self, run: str) -> bool:
        """Whether there is a file for a run."""
        return self._path(run).exists()

    def holds(self, run: str, data: bytes) -> bool:
        """Whether the file of a run has exactly this content."""
        return self.has(run) and self._path(run).read_bytes() == data

    def keep(self, run: str, data: bytes) -> None:
        """Write the file of a run, whole or not at all."""
        spare = self._path(run).with_suffix(".part")
        spare.write_bytes(data)
        os.replace(spare, self._path(run))

    def drop(self, run: str) -> None:
        """Remove the file of a run, if there is one."""
        self._path(run).unlink(missing_ok=True)

    def material(self, run: str) -> str:
        """The material that the head of a file names; "" if it names none."""
        head = self._path(run).read_bytes()[:HEAD].decode("ascii", "replace")
        found = re.search(r"^; material: (.+?)\s*$", head, re.MULTILINE)
        return found[1] if found else ""

    def tape(self, run: str) -> Tape:
        """The file of a run, ready to run. Raises `ValueError` for one that cannot be read."""
        if run not in self._tapes:
            data = self._path(run).read_bytes()
            key = hashlib.sha256(data).hexdigest()
            if key not in self._tapes:
                if len(self._tapes) > READY:
                    self._tapes.clear()
                text = data.decode("ascii", "replace")
                self._tapes[key] = tape_of(text, self._limits, self._reach, self._extra)
            self._tapes[run] = self._tapes[key]
        return self._tapes[run]

    def change(self, run: str, tape: Tape) -> None:
        """From now on a run goes on as another tape says, such as one that leaves a piece out."""
        self._tapes[run] = tape

    def _path(self, run: str) -> Path:
        return self.folder / f"{run}.gcode"
