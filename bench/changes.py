"""What a change of one thing costs: ``python -m bench.changes``, or with a FOLDER of meshes.

A band of a twentieth of the height, or a region as tall, is put into the middle of a plan that is
known, and moved. Every change is timed as a share of the plan with nothing known.
"""

from __future__ import annotations

import argparse
import json
import time
from pathlib import Path
from typing import Any

import numpy as np

from northpace.errors import InputError
from northpace.plan.pipeline import Pipeline, Source
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import organic, stl


def changes(top: float) -> dict[str, str]:
    """Settings by what they are, for a part that ends at ``top`` mm."""
    # whole layers, so that the stack stays
    low, tall = (round(0.2 * round(at / 0.2), 1) for at in (top / 2, max(top / 20, 1.0)))

    def band(at: float, **values: Any) -> str:
        entry = {"from_mm": at, "to_mm": round(at + tall, 1), "changes": _named(values)}
        return "surface.bands=" + json.dumps([entry])

    def region(at: float, **values: Any) -> str:
        size = {"size_x": 60, "size_y": 60, "size_z": tall}
        entry = {"shape": "box", "z": at, **size, "changes": _named(values)}
        return "body.regions=" + json.dumps([entry])

    return {
        "band: infill density": band(low, body__infill_density=40),
        "band: walls": band(low, body__walls=4),
        "band: bead width": band(low, body__outer_width=0.5),
        "band: speed": band(low, pace__outer_wall_speed=30),
        "region: infill density": region(low, body__infill_density=40),
        "region moved": region(round(low + 0.6 * tall, 1), body__infill_density=40),
        "region: walls": region(low, body__walls=5),
        "walls moved": region(round(low + 0.6 * tall, 1), body__walls=5),
        "region: solid layers": region(low, body__top_layers=8),
    }


def _named(values: dict[str, Any]) -> dict[str, Any]:
    return {name.replace("__", "."): value for name, value in values.items()}


def measured(source: Source) -> dict[str, float]:
    """Share of the plan with nothing known that each change takes."""
    pipeline = Pipeline()

    def timed(*pairs: str) -> float:
        begun = time.perf_counter()
        pipeline.plan(source, with_settings(PlanSpec(), list(pairs)))
        return time.perf_counter() - begun

    whole = timed()
    top = float(pipeline.placed(source, PlanSpec()).height)
    shares = {name: timed(change) / whole for name, change in changes(top).items()}
    print(f"  {whole:6.2f} s  most {max(shares.values()):.3f}  {source.filename}", flush=True)
    return shares


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--every", type=int, default=1, help="of the folder's meshes, every n-th")
    parser.add_argument("folder", nargs="?", type=Path, help="meshes to plan instead")
    options = parser.parse_args()
    warm = Source.of(stl(organic(40, 30)), "warm.stl")
    measured(warm)
    if options.folder:
        paths = sorted(options.folder.glob("*.stl"))[:: options.every]
        sources = [Source.of(path.read_bytes(), path.name) for path in paths]
    else:
        sources = [Source.of(stl(organic()), "organic, 3,900 triangles")]
    found = []
    for source in sources:
        try:
            found.append(measured(source))
        except InputError as refused:
            print(f"  {source.filename}: {refused}")
    for name in found[0]:
        shares = np.array([shares[name] for shares in found])
        print(f"{name:24} median {np.median(shares):.3f}, most {shares.max():.3f} of the plan")


if __name__ == "__main__":
    main()
