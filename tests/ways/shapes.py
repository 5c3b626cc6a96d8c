"""Parts that lie badly, and what their ways come to."""

from __future__ import annotations

from typing import Any

import manifold3d as m3

from northpace.part.solid import load_part
from northpace.spec import PlanSpec, with_settings
from northpace.ways.figures import WayFigures
from northpace.ways.find import find_ways
from tests.core.shapes import cube, stl

M = m3.Manifold
CONE = M.cylinder(30, 12, 0.01, 48)
HOLE = cube(20) - M.cylinder(30, 5, 5, 48, True).rotate((90, 0, 0)).translate((10, 10, 10))
TEE = M.cube((40, 10, 10)).translate((0, 0, 30)) + M.cube((10, 10, 30)).translate((15, 0, 0))
ELL = M.cube((40, 20, 6)) + M.cube((6, 20, 40))
BRACKET = (
    M.cube((50, 5, 40)) + M.cube((50, 40, 5)) - M.cylinder(20, 4, 4, 32).translate((25, 25, -5))
)


def ways_of(
    solid: Any, *pairs: str, turned: tuple[float, float, float] = (0, 0, 0), **said: Any
) -> list[WayFigures]:
    data = solid if isinstance(solid, bytes) else stl(solid.rotate(turned))
    spec = with_settings(PlanSpec(), list(pairs))
    return [way.figures for way in find_ways(load_part(data, "part.stl"), spec, **said)]


def standing_so(spec: PlanSpec, way: WayFigures) -> PlanSpec:
    """A plan with a way taken."""
    pairs = [f"{name}={_typed(value)}" for name, value in way["change"].items()]
    return with_settings(spec, pairs)


def _typed(value: Any) -> str:
    return str(value).lower() if isinstance(value, bool) else str(value)
