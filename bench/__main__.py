"""Time every stage as a ratio to the bare floor: ``python -m bench``, with --big, --beds, --ways
or a FOLDER of meshes.

The floor is what a library kernel needs for the least that must be done: manifold3d's sections of
all layers, and shapely's offsets for the same walls. Timings depend on the machine, ratios much
less; neither is a test.
"""

from __future__ import annotations

import argparse
import resource
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import shapely

from bench.beds import beds
from bench.ways import ways
from northpace.errors import InputError
from northpace.estimate.quick import quick
from northpace.geometry.sheets import areas_of
from northpace.heights.fit import HeightTask, least_time
from northpace.heights.frontier import frontier
from northpace.heights.solve import solve
from northpace.outlines.sections import SIMPLIFY
from northpace.plan.pipeline import Pipeline, Source
from northpace.proposals.held import held_now
from northpace.proposals.rank import rank
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import organic, stl

CASES = {"organic, 3,900 triangles": 88, "organic, 809,000 triangles": 1270}


def timed(run: Callable[[], object], times: int = 3) -> float:
    """Least seconds of several runs."""
    best = float("inf")
    for _ in range(times):
        begun = time.perf_counter()
        run()
        best = min(best, time.perf_counter() - begun)
    return best


def floor_of(
    pipeline: Pipeline, source: Source, spec: PlanSpec, heights: np.ndarray, times: int = 2
) -> float:
    """Sections and the offsets of three walls by the bare kernels, with nothing around them."""
    placed = pipeline.placed(source, spec)
    levels = np.cumsum(heights) - heights / 2

    def bare() -> None:
        cut = [placed.solid.slice(float(level)).simplify(SIMPLIFY) for level in levels]
        areas = areas_of(np.array(cut, object))
        for k in range(3):
            shapely.buffer(areas, -0.2 - 0.407 * k, join_style="mitre")

    return timed(bare, times)


def candidates(pipeline: Pipeline, source: Source, spec: PlanSpec) -> None:
    """Ranking what would make a plan quicker, as a ratio to one quick estimate of it."""
    report = pipeline.plan(source, spec).report
    shape, heights = (
        pipeline.profile(source, spec),
        np.array(report["layers"]["heights_mm"]),
    )
    once = timed(lambda: quick(shape, spec, heights), 20)
    found = rank(shape, spec, heights, held_now(report, spec, spec.surface.layer_height), None)
    all_ = timed(
        lambda: rank(shape, spec, heights, held_now(report, spec, spec.surface.layer_height), None),
        2,
    )
    print(
        f"  ranking {len(found):,} candidates: {all_:.2f} s, {all_ / len(found) / once:.2f} "
        f"quick estimates each ({1000 * once:.2f} ms)"
    )


def choices(task: HeightTask, spec: PlanSpec) -> None:
    """Solver and frontiers as ratios to one pass of numpy over the grid of z steps and heights."""
    grid = timed(lambda: (task.seconds + task.mean).min(axis=1), 5)
    steps, heights = task.seconds.shape
    print(
        f"  choosing heights: {steps:,} z steps × {heights} heights; one pass over them "
        f"{1000 * grid:.2f} ms"
    )
    rows = [
        ("one solve", lambda: solve(task.rules, task.seconds, task.mean, 1.0)),
        ("target p95", lambda: least_time(task, "p95", 0.1)),
        ("25 points, mean", lambda: frontier(task, spec, ("mean",), 25)),
        ("25 points, p95", lambda: frontier(task, spec, ("p95",), 25)),
    ]
    for name, run in rows:
        seconds = timed(run, 3)
        print(f"  {name:16} {1000 * seconds:8.1f} ms  {seconds / grid:8.1f} × one pass")


def folder(meshes: list[Path]) -> None:
    """A plain plan of every mesh, slowest last, with its ratio to the floor of its own run."""
    rows, spec = [], PlanSpec()
    for path in meshes:
        source = Source.of(path.read_bytes(), path.name)
        pipeline = Pipeline()
        try:
            report = pipeline.plan(source, spec).report
            whole = report["elapsed_s"]["total"]
            floor = floor_of(pipeline, source, spec, np.array(report["layers"]["heights_mm"]), 1)
        except InputError as refused:
            print(f"  {path.name}: {refused}")
            continue
        rows.append((whole, whole / floor, path.name, report["paths"]["moves"]))
    for whole, ratio, name, moves in sorted(rows):
        print(f"  {whole:7.2f} s  {ratio:6.1f} × floor  {moves:10,} moves  {name}")
    seconds, ratios = np.array([row[:2] for row in rows]).T
    print(
        f"\n{len(rows)} meshes: median {np.median(seconds):.2f} s, longest {seconds.max():.2f} s, "
        f"median {np.median(ratios):.1f} × floor"
    )


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--big", action="store_true", help="the mesh of 809,000 triangles too")
    parser.add_argument("--beds", action="store_true", help="beds instead")
    parser.add_argument("--ways", action="store_true", help="how well ways up are ranked instead")
    parser.add_argument("--every", type=int, default=1, help="of the folder's meshes, every n-th")
    parser.add_argument("folder", nargs="?", type=Path, help="meshes to plan instead")
    options = parser.parse_args()
    spec = with_settings(PlanSpec(), ["body.infill_pattern=grid"])
    Pipeline().plan(Source.of(stl(organic(40, 30)), "warm.stl"), spec)  # compile
    if options.beds:
        beds(timed)
        return
    if options.ways:
        ways()
        return
    if options.folder:
        kinds = (".stl", ".obj", ".3mf")
        meshes = sorted(p for p in options.folder.iterdir() if p.suffix.lower() in kinds)
        folder(meshes[:: options.every])
        print(f"most memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6:.2f} GB")
        return
    for name, segments in list(CASES.items())[: 2 if options.big else 1]:
        source = Source.of(stl(organic(segments)), "part.stl")
        runs = []
        for _ in range(3):
            pipeline = Pipeline()
            runs.append(pipeline.plan(source, spec).report)
        report = min(runs, key=lambda r: r["elapsed_s"]["total"])
        floor = floor_of(pipeline, source, spec, np.array(report["layers"]["heights_mm"]))
        print(
            f"\n{name}: {report['layers']['count']} layers, {report['paths']['moves']:,} "
            f"moves, floor {floor:.3f} s"
        )
        for stage, seconds in report["elapsed_s"].items():
            print(f"  {stage:10} {seconds:7.3f} s  {seconds / floor:6.2f} × floor")
        held = min(
            Pipeline()
            .plan(source, with_settings(spec, ["supports.enabled=true"]))
            .report["elapsed_s"]["total"]
            for _ in range(2)
        )
        print(f"  {'with supports':10} {held:4.3f} s  {held / floor:6.2f} × floor")
        speeds = iter(range(20, 60))
        again = timed(
            lambda: pipeline.plan(  # noqa: B023
                source,  # noqa: B023
                with_settings(spec, [f"pace.outer_wall_speed={next(speeds)}"]),  # noqa: B023
            )
        )
        print(f"  {'re-timed':10} {again:7.3f} s  {again / floor:6.2f} × floor")
        shape, heights = (
            pipeline.profile(source, spec),
            np.array(report["layers"]["heights_mm"]),
        )
        guess = timed(lambda: quick(shape, spec, heights))  # noqa: B023
        print(f"  {'quick ≈':10} {guess:7.3f} s  {guess / floor:6.2f} × floor")
        choices(pipeline.task(source, spec), spec)
        candidates(pipeline, source, spec)
    print(f"\nmost memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6:.2f} GB")


if __name__ == "__main__":
    main()
