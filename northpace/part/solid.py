"""A part: the closed solids of a file, and how it stands on the bed."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import manifold3d as m3
import numpy as np

from northpace.errors import InputError
from northpace.part.load import load_bodies
from northpace.part.mend import mend
from northpace.part.notes import Mending
from northpace.part.shells import boxes_of, too_small
from northpace.spec import Mesh

#: An opening wider than this (mm) is closed by guessing, and one wider than this share of the part
#: may make another part of it.
WIDE, SHARE = 1.0, 0.1


@dataclass(frozen=True)
class Part:
    """Closed solids in mm, in file coordinates; one `m3.Manifold` a body, with names and what was
    mended.
    """

    #: a solid for each body, and its name; no two are alike
    bodies: tuple[m3.Manifold, ...]
    names: tuple[str, ...]
    #: what was mended, and whether the surface could not be closed, so that it was built anew
    done: tuple[Mending, ...]
    doubtful: bool
    triangles_in_file: int
    #: widest opening that was closed (mm), and what bulges out of the plane of openings (mm³)
    widest_opening: float = 0.0
    added_volume: float = 0.0
    #: how far thinning moved the surface (mm), and how many triangles it took away
    moved: float = 0.0
    merged: int = 0

    @property
    def mended(self) -> tuple[str, ...]:
        """What was mended, in words."""
        return tuple(one.words for one in self.done)

    @property
    def volume(self) -> float:
        return float(sum(body.volume() for body in self.bodies))

    @property
    def box(self) -> np.ndarray:
        """(2, 3) least and greatest corner in mm."""
        boxes = np.array([body.bounding_box() for body in self.bodies])
        return np.stack([boxes[:, :3].min(axis=0), boxes[:, 3:].max(axis=0)])

    @property
    def extent(self) -> float:
        """Its greatest extent along an axis (mm)."""
        return float(np.ptp(self.box, axis=0).max())

    @property
    def guessed(self) -> Literal["", "a little", "much"]:
        """How much closing its openings was a guess: not at all where none is wide."""
        if self.widest_opening <= WIDE:
            return ""
        return "much" if self.widest_opening > SHARE * self.extent else "a little"

    @property
    def triangles(self) -> int:
        return sum(body.num_tri() for body in self.bodies)

    @property
    def nbytes(self) -> int:
        return sum(body.num_vert() * 64 + body.num_tri() * 96 for body in self.bodies)


def load_part(data: bytes, filename: str, mesh: Mesh = Mesh()) -> Part:
    """Read and mend a mesh file, its faults taken as ``mesh`` says; raises `InputError` when it
    cannot be a solid.
    """
    raw = load_bodies(data, filename)
    solids: list[m3.Manifold] = []
    names: list[str] = []
    done: list[Mending] = []
    refused: list[str] = []
    doubtful, widest, added = False, 0.0, 0.0
    for body in raw:
        try:
            result = mend(body, mesh)
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
        said = f"{body.name}: " * (len(raw) > 1 and bool(body.name))
        done.extend(Mending(said + one.words, one.volume) for one in result.done)
        doubtful |= result.doubtful
        widest, added = max(widest, result.widest_opening), added + result.added_volume
    if not solids:
        raise InputError(refused[0], filename)
    done.extend(Mending(f"left out {text}") for text in refused)
    part = Part(
        tuple(solids),
        _told_apart(names),
        tuple(done),
        doubtful,
        sum(len(body.faces) for body in raw),
        widest,
        added,
    )
    return _without_splinters(part) if mesh.splinters == "drop" else part


def _told_apart(names: list[str]) -> tuple[str, ...]:
    """The names, with a number behind those that stood there before."""
    taken: set[str] = set()
    for k, name in enumerate(names):
        number = 1
        while names[k] in taken:
            number += 1
            names[k] = f"{name} ({number})"
        taken.add(names[k])
    return tuple(names)


def splinters(part: Part) -> np.ndarray:
    """(N,) whether a body is too small to be meant."""
    boxes = boxes_of(part.bodies)
    extent = (boxes[:, 3:] - boxes[:, :3]).max(axis=1)
    volume = np.array([body.volume() for body in part.bodies])
    return too_small(extent, volume, part.extent)


def _without_splinters(part: Part) -> Part:
    small = splinters(part)
    if not small.any():
        return part
    lost = float(sum(part.bodies[k].volume() for k in np.flatnonzero(small)))
    word = f"dropped {int(small.sum()):,} splinter{'s' * (int(small.sum()) > 1)}"
    kept = np.flatnonzero(~small)
    return replace(
        part,
        bodies=tuple(part.bodies[k] for k in kept),
        names=tuple(part.names[k] for k in kept),
        done=(*part.done, Mending(word, -lost)),
    )
