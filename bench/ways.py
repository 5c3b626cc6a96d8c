"""Quick against exact minutes of ways up, over parts made by chance."""

from __future__ import annotations

import manifold3d as m3
import numpy as np
from scipy.stats import spearmanr

from northpace.estimate.quick import correction_of
from northpace.part.solid import load_part
from northpace.plan.pipeline import Pipeline, Source
from northpace.spec import PlanSpec, with_settings
from northpace.ways.find import find_ways
from tests.core.shapes import stl
from tests.ways.shapes import standing_so

M = m3.Manifold
#: Parts, and ways of each that are planned exactly.
PARTS, EACH = 12, 9


def by_chance(seed: int) -> m3.Manifold:
    """Boxes, drums and balls joined, most with a bore."""
    rng = np.random.default_rng(seed)
    whole = M()
    for k in range(int(rng.integers(2, 5))):
        kind = rng.integers(3)
        if kind == 0:
            one = M.cube(tuple(rng.uniform(6, 40, 3)), True)
        elif kind == 1:
            one = M.cylinder(rng.uniform(6, 40), rng.uniform(4, 14), -1, 48, True)
            one = one.rotate(tuple(rng.choice([0, 90], 3)))
        else:
            one = M.sphere(rng.uniform(5, 14), 48)
        if k:
            low, high = np.array(whole.bounding_box()).reshape(2, 3)
            one = one.translate(tuple(rng.uniform(low, high)))
        whole += one
    if rng.random() < 0.75:
        middle = np.array(whole.bounding_box()).reshape(2, 3).mean(axis=0)
        bore = M.cylinder(200, rng.uniform(2, 5), -1, 32, True)
        whole -= bore.rotate(tuple(rng.choice([0, 90], 3))).translate(tuple(middle))
    return max(whole.decompose(), key=lambda body: body.volume())


def ways() -> None:
    """Print how well quick and exact minutes agree, part by part and over all of them."""
    plain, pairs, each = PlanSpec(), [], []
    held = with_settings(plain, ["supports.enabled=true"])
    for seed in range(PARTS):
        data = stl(by_chance(seed))
        source, pipeline = Source.of(data, "part.stl"), Pipeline()
        now = pipeline.plan(source, plain).report
        correction = correction_of(now, pipeline.profile(source, plain), plain)
        found = [way.figures for way in find_ways(load_part(data, "part.stl"), plain, correction)]
        stable = [way for way in found if way["tips_at_deg"] > 0][:EACH]
        exact = np.array(
            [
                pipeline.plan(source, standing_so(held, way)).report["time_s"]["total"]
                for way in stable
            ]
        )
        quick = np.array([way["time_s"] for way in stable])
        off = quick / exact - 1
        each.append(float(spearmanr(quick, exact)[0]))
        pairs.append(np.stack([quick / np.median(quick), exact / np.median(exact)], axis=1))
        print(
            f"  part {seed:2}: {len(stable)} ways, {exact.min() / 60:.1f} to "
            f"{exact.max() / 60:.1f} min, rank {each[-1]:5.2f}, off {100 * off.min():+.0f} to "
            f"{100 * off.max():+.0f} %",
            flush=True,
        )
    pooled = float(spearmanr(*np.concatenate(pairs).T)[0])
    print(f"\nover all of them {pooled:.2f}, median of the parts {np.median(each):.2f}")
