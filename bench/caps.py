"""Best fits within a time cap against every even stack that keeps it, by exact plans.

    python -m bench.caps --count 200

Shapes are made up from a seed; what is over its cap, or shows more than an even stack that keeps
it, is listed.
"""

from __future__ import annotations

import argparse
import time

import manifold3d as m3
import numpy as np

from northpace.plan.pipeline import Pipeline
from northpace.spec import PlanSpec, with_settings
from tests.core.shapes import source

#: Even layer heights a cap is compared with (mm), and the surface measures that are asked for.
EVENS = (0.1, 0.12, 0.14, 0.16, 0.18, 0.2, 0.22, 0.24, 0.26, 0.28)
MEASURES = ("mean", "p95", "max")


def turned(chance: np.random.Generator) -> m3.Manifold:
    """A body of revolution with a profile of its own, up to 24 mm high, tips and flats included."""
    count = int(chance.integers(3, 8))
    high = np.sort(chance.uniform(0.5, 1.0, count))
    high = high / high[-1] * chance.uniform(4.0, 24.0)
    wide = chance.uniform(1.0, 16.0, count)
    if chance.random() < 0.3:
        wide[-1] = 0.02  # a tip
    rings = np.column_stack([np.r_[wide[0], wide], np.r_[0.0, high]])
    return m3.CrossSection([np.r_[[[0.0, 0.0]], rings, [[0.0, high[-1]]]]]).revolve(64)


def cut(chance: np.random.Generator) -> m3.Manifold:
    """A cap of a ball, a ring or a leaning block, of a size of its own."""
    kind = int(chance.integers(3))
    if kind == 0:
        radius, deep = chance.uniform(10, 40), chance.uniform(3, 9)
        block = m3.Manifold.cube((2 * radius, 2 * radius, deep), True)
        return m3.Manifold.sphere(radius, 96) ^ block.translate((0, 0, radius - deep / 2))
    if kind == 1:
        inner, outer = chance.uniform(2, 5), chance.uniform(8, 16)
        ring = m3.CrossSection.circle(inner, 48).translate((outer, inner)).revolve(96)
        return ring.trim_by_plane((0, 0, 1), chance.uniform(0, 0.8 * inner))
    sides = chance.uniform(6, 24, 3)
    block = m3.Manifold.cube(tuple(sides), True).rotate(tuple(chance.uniform(-60, 60, 3)))
    return block.trim_by_plane((0, 0, 1), -0.2 * sides.min())


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m bench.caps", description=__doc__)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    chance, pipeline = np.random.default_rng(options.seed), Pipeline()
    done = over = worse = 0
    unused: list[float] = []
    begun = time.monotonic()
    shape = 0
    while done < options.count:
        shape += 1
        solid = (turned, cut)[int(chance.integers(2))](chance)
        if solid.is_empty():
            continue
        low = solid.bounding_box()[2]
        part = source(solid.translate((0, 0, -low)))

        def planned(*pairs: str) -> tuple[float, dict[str, float]]:
            spec = with_settings(PlanSpec(), list(pairs))
            found = pipeline.plan(part, spec).report  # noqa: B023
            return found["time_s"]["total"], dict(found["surface"])

        evens = {height: planned(f"surface.layer_height={height}") for height in EVENS}
        quickest, slowest = (f([time for time, _ in evens.values()]) for f in (min, max))
        caps = [*chance.uniform(quickest, slowest, 2), float(chance.choice(list(evens)))]
        caps[2] = evens[caps[2]][0] + 1e-4  # one that an even stack keeps to the second
        for cap in caps:
            name = str(chance.choice(MEASURES))
            asked = ("surface.kind=best-fit", f"surface.measure={name}")
            took, shows = planned(*asked, f"surface.time_cap_min={cap / 60}")
            best = min(found[f"{name}_um"] for time, found in evens.values() if time <= cap)
            done += 1
            unused.append(1 - took / cap)
            least = shows[f"{name}_um"]
            words = f"shape {shape}, {name} within {cap:.1f} s: {took:.1f} s, {least:.2f} µm"
            if took > cap + 1e-3:
                over += 1
                print(f"over its cap: {words}")
            if least > best + 1e-6:
                worse += 1
                print(f"worse than even ({best:.2f} µm): {words}")
    print(
        f"{done} comparisons: {over} over the cap, {worse} worse than an even stack; of the cap "
        f"{100 * np.median(unused):.2f} % is left at the median; {time.monotonic() - begun:.0f} s"
    )


if __name__ == "__main__":
    main()
