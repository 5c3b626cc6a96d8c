"""``python -m northpace mesh PART`` and ``cut PART``: what was taken from a file, and two parts of
one.
"""

from __future__ import annotations

import argparse
import json
from pathlib import Path

import numpy as np

from northpace.part.cut import cut
from northpace.part.stl import binary_stl, mesh_arrays
from northpace.plan.mesh import mesh_figures
from northpace.plan.pipeline import Pipeline
from northpace.plan.source import Source
from northpace.spec import PlanSpec


def add_cutting(mesh: argparse.ArgumentParser, cutting: argparse.ArgumentParser) -> None:
    """The options of both."""
    mesh.add_argument("--out", type=Path, help="write what is laid as .stl")
    cutting.add_argument(
        "--at", type=float, required=True, help="mm from the plate, or along the normal from 0"
    )
    cutting.add_argument(
        "--normal", type=float, nargs=3, metavar=("X", "Y", "Z"), default=(0.0, 0.0, 1.0)
    )
    cutting.add_argument("--out", type=Path, required=True, help="folder for both halves")


def show(options: argparse.Namespace, source: Source, spec: PlanSpec) -> None:
    """Print what was taken from a file."""
    pipeline = Pipeline()
    # a file that cannot be mended is refused after this, in one line
    for fault in pipeline.faults(source):
        print(f"fault   {fault['words']}")
    found = mesh_figures(pipeline, source, spec)
    for done in found["mended"]:
        print(f"mended  {done['words']} ({done['volume_mm3']:+.2f} mm³)")
    print(
        f"surface {found['added_mm2']:.1f} mm² added, {found['dropped_mm2']:.1f} mm² dropped, "
        f"{found['turned_mm2']:.1f} mm² turned"
    )
    thin = found["thinned"]
    if thin:
        print(
            f"thinned {thin['triangles_before']:,} to {thin['triangles_after']:,} triangles, moved "
            f"by {thin['moved_um']:.1f} µm as measured; step error {thin['p95_before_um']:.1f} to "
            f"{thin['p95_after_um']:.1f} µm (95 %), outlines {thin['outlines_before_s']:.2f} to "
            f"{thin['outlines_after_s']:.2f} s"
        )
    for body in found["bodies"]:
        size = " × ".join(f"{v:.2f}" for v in body["size_mm"])
        print(f"body    {body['name']}: {size} mm, {body['volume_mm3']:.2f} mm³")
    if options.report:
        options.report.write_text(json.dumps(found, indent=1) + "\n")
    if options.out:
        bodies = pipeline.part(source, spec).bodies
        options.out.write_bytes(binary_stl(*mesh_arrays(bodies)[:2]))


def cut_apart(options: argparse.Namespace, source: Source, spec: PlanSpec) -> None:
    """Write both halves of a part as it stands."""
    placed = Pipeline().placed(source, spec)
    halves = cut(placed.solid, np.array(options.normal), options.at)
    options.out.mkdir(parents=True, exist_ok=True)
    for name, half in zip(("lower", "upper"), halves, strict=True):
        target = options.out / f"{options.part.stem} {name}.stl"
        target.write_bytes(binary_stl(*mesh_arrays((half,))[:2]))
        print(f"{target}: {half.volume():.2f} mm³, {half.bounding_box()[5]:.2f} mm tall")
