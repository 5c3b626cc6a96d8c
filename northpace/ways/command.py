"""Ways up on the command line."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

import numpy as np

from northpace.errors import InputError
from northpace.naming import time_word
from northpace.plan.pipeline import Pipeline
from northpace.plan.source import Source
from northpace.spec import PlanSpec
from northpace.spec.validated import validated
from northpace.ways.figures import WayFigures
from northpace.ways.find import find_ways
from northpace.ways.rank import Weights, ranked


def add_options(ways: argparse.ArgumentParser) -> None:
    """What a search for ways can be told."""
    for name, field in Weights.model_fields.items():
        if name != "keep_seen":
            ways.add_argument(f"--{name}", type=float, default=field.default, metavar="WEIGHT")
    ways.add_argument("--keep-seen", action="store_true", help="no scars on faces marked as seen")
    ways.add_argument(
        "--pull", type=float, nargs=3, metavar=("X", "Y", "Z"), help="a load, in the file"
    )


def show(options: argparse.Namespace, source: Source, spec: PlanSpec) -> None:
    """Print the ways of a part, best first."""
    weights = validated(Weights, {key: getattr(options, key) for key in Weights.model_fields})
    pull = None if options.pull is None else np.array(options.pull)
    if pull is not None and not pull.any():
        raise InputError("a load needs a direction; 0 0 0 has none", "--pull")
    part = Pipeline().part(source, spec)
    ways = [way.figures for way in find_ways(part, spec, None, pull)]
    order = ranked(ways, weights)
    for one in order:
        way = ways[one["way"]]
        print(("* " if one["unbeaten"] else "  ") + _line(way))
    if not order:
        print("every way scars a face that is seen; take --keep-seen away to see them")
    if options.report:
        found = [{**ways[one["way"]], **one} for one in order]
        Path(options.report).write_text(json.dumps(found, indent=1) + "\n")


def _line(way: WayFigures) -> str:
    down = " ".join(f"{v:5.2f}" for v in way["down"])
    load = "" if way["load_deg"] is None else f", load {way['load_deg']:.0f}° to the layers"
    falls = "" if way["tips_at_deg"] > 0 else ", falls over"
    return (
        f"down {down}  {way['size_mm'][2]:6.1f} mm tall  ≈ {time_word(way['time_s'])} "
        f"{way['mass_g']:6.1f} g  supports {way['support_mm3'] / 1000:6.2f} cm³ "
        f"scars {way['scar_mm2']:6.0f} mm²  step {way['mean_um']:4.0f} µm  "
        f"tips at {way['tips_at_deg']:3.0f}°{falls}{load}"
        + (f"  {way['misfit']}" if way["misfit"] else "")
    )
