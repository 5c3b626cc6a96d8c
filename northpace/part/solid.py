"""A part: the closed solids of a file, and how it stands on the bed."""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d as m3
import numpy as np

from northpace.errors import InputError
from northpace.part.load import load_bodies
from northpace.part.mend import mend


@dataclass(frozen=True)
class Part:
    """Closed solids in mm, in file coordinates; one `m3.Manifold` a body, with names and what was
    mended.
    """

    bodies: tuple[m3.Manifold, ...]
    names: tuple[str, ...]
    mended: tuple[str, ...]
    doubtful: bool
    triangles_in_file: int
    widest_opening: float = 0.0
    added_volume: float = 0.0

    @property
    def volume(self) -> float:
        return float(sum(body.volume() for body in self.bodies))

    @property
    def box(self) -> np.ndarray:
        """(2, 3) least and greatest corner in mm."""
        boxes = np.array([body.bounding_box() for body in self.bodies])
        return np.stack([boxes[:, :3].min(axis=0), boxes[:, 3:].max(axis=0)])

    @property
    def nbytes(self) -> int:
        return sum(body.num_vert() * 64 + body.num_tri() * 96 for body in self.bodies)


def load_part(data: bytes, filename: str) -> Part:
    """Read and mend a mesh file; raises `InputError` when it cannot be a solid."""
    raw = load_bodies(data, filename)
    solids: list[m3.Manifold] = []
    names: list[str] = []
    notes: list[str] = []
    refused: list[str] = []
    doubtful, widest, added = False, 0.0, 0.0
    for body in raw:
        try:
            result = mend(body)
        except InputError as error:
            refused.append(
                f"{body.name or 'the file'}: {error.message}" if len(raw) > 1 else error.message
            )
            continue
        pieces = result.bodies
        solids.extend(pieces)
        names.extend(
            [body.name or "body"]
            if len(pieces) == 1
            else [f"{body.name or 'body'} {n + 1}" for n in range(len(pieces))]
        )
        notes.extend(
            f"{body.name}: {note}" if len(raw) > 1 and body.name else note for note in result.notes
        )
        doubtful |= result.doubtful
        widest, added = max(widest, result.widest_opening), added + result.added_volume
    if not solids:
        raise InputError(refused[0], filename)
    notes.extend(f"left out {text}" for text in refused)
    return Part(
        tuple(solids),
        tuple(names),
        tuple(notes),
        doubtful,
        sum(len(body.faces) for body in raw),
        widest,
        added,
    )
