"""The parts of the sample workshop, generated with stated dimensions in mm. All of them are made
up.
"""

from __future__ import annotations

from collections.abc import Callable

import manifold3d as m3
import numpy as np

from northpace.part.stl import binary_stl

#: Segments of a full turn: fine enough that facets stay below what a nozzle shows.
ROUND = 160


def _revolved(profile: list[tuple[float, float]]) -> m3.Manifold:
    """A solid of revolution about z from its half section (radius, height), counter-clockwise."""
    return m3.Manifold.revolve(m3.CrossSection([profile]), ROUND)


def _arc(
    radius: float, start: float, end: float, steps: int, x: float = 0.0, y: float = 0.0
) -> list[tuple[float, float]]:
    angles = np.radians(np.linspace(start, end, steps))
    return [(x + radius * float(np.cos(a)), y + radius * float(np.sin(a))) for a in angles]


def dome_cap() -> m3.Manifold:
    """Cap of the radiation shield: foot Ø 60, straight to 12, dome to 36, wall 2.4."""
    outer = [
        (30.0, 0.0),
        (30.0, 12.0),
        *[(30.0 * np.cos(a), 12.0 + 24.0 * np.sin(a)) for a in np.radians(np.linspace(3, 90, 30))],
    ]
    inner = [
        (27.6 * np.cos(a), 12.0 + 21.6 * np.sin(a)) for a in np.radians(np.linspace(90, 0, 30))
    ]
    return _revolved([*outer, *inner, (27.6, 0.0)])


def anemometer_cup() -> m3.Manifold:
    """Half-ball cup, Ø 44, wall 1.8, with a flat foot and a stem for the arm on a rib that needs no
    support.
    """
    outer = [(8.0, 0.0), *[(x, y + 22.0) for x, y in _arc(22.0, -66, 0, 32)], (22.0, 24.0)]
    inner = [(20.2, 24.0), *[(x, y + 22.0) for x, y in _arc(20.2, 0, -90, 32)]]
    cup = _revolved([(0.0, 0.0), *outer, *inner])
    stem = m3.Manifold.cylinder(8.0, 3.6, 3.6, 64).rotate((0, 90, 0)).translate((20.5, 0, 17.0))
    rib = m3.Manifold.batch_hull([stem, m3.Manifold.sphere(2.0, 48).translate((13.0, 0, 6.0))])
    hollow = m3.Manifold.sphere(20.2, ROUND).translate((0, 0, 22.0))
    bore = m3.Manifold.cylinder(8.0, 1.6, 1.6, 48).rotate((0, 90, 0)).translate((22.5, 0, 17.0))
    return cup + (rib - hollow) - bore


def rain_funnel() -> m3.Manifold:
    """Funnel: rim Ø 80, spout Ø 10, 62 tall, wall 2; printed rim down."""
    section = [
        (40.0, 0.0),
        (40.0, 8.0),
        (7.0, 46.0),
        (7.0, 62.0),
        (5.0, 62.0),
        (5.0, 45.2),
        (38.0, 7.2),
        (38.0, 0.0),
    ]
    return _revolved(section)


def mast_clamp() -> m3.Manifold:
    """Clamp for a Ø 25 mast: two ears with bolt holes Ø 5.2, 22 tall."""
    ring = m3.Manifold.cylinder(22.0, 19.0, 19.0, ROUND)
    ears = m3.Manifold.cube((24.0, 22.0, 22.0)).translate((12.0, -11.0, 0.0))
    mast = m3.Manifold.cylinder(30.0, 12.6, 12.6, ROUND).translate((0, 0, -4))
    slot = m3.Manifold.cube((40.0, 3.0, 30.0)).translate((0.0, -1.5, -4.0))
    bolt = m3.Manifold.cylinder(40.0, 2.6, 2.6, 48).rotate((90, 0, 0))
    return (
        ring
        + ears
        - mast
        - slot
        - bolt.translate((28.0, 20.0, 6.0))
        - bolt.translate((28.0, 20.0, 16.0))
    )


def sensor_case() -> m3.Manifold:
    """Open case 64 × 44 × 24, wall 2.4, with four posts and the raised letters T P on the front."""
    box = _rounded(64.0, 44.0, 24.0, 5.0)
    hollow = _rounded(59.2, 39.2, 24.0, 2.6).translate((0, 0, 2.4))
    case = box - hollow
    post = m3.Manifold.cylinder(18.0, 3.4, 3.4, 48) - m3.Manifold.cylinder(
        20.0, 1.25, 1.25, 32
    ).translate((0, 0, 4.0))
    for x, y in ((25.5, 15.5), (-25.5, 15.5), (25.5, -15.5), (-25.5, -15.5)):
        case = case + post.translate((x, y, 1.0))
    return case + letters().rotate((90, 0, 0)).translate((0.0, -21.8, 6.0))


def letters() -> m3.Manifold:
    """T and P as raised strokes 1.6 wide, 12 high, standing out 0.8."""

    def bar(x: float, y: float, w: float, h: float) -> m3.Manifold:
        return m3.Manifold.cube((w, h, 1.0)).translate((x, y, 0.0))

    t = bar(-11.0, 10.4, 8.0, 1.6) + bar(-7.8, 0.0, 1.6, 12.0)
    p = (
        bar(2.0, 0.0, 1.6, 12.0)
        + bar(2.0, 10.4, 7.0, 1.6)
        + bar(2.0, 5.2, 7.0, 1.6)
        + bar(7.4, 5.2, 1.6, 6.8)
    )
    return t + p


def _rounded(x: float, y: float, z: float, radius: float) -> m3.Manifold:
    base = m3.CrossSection.square((x - 2 * radius, y - 2 * radius), True).offset(
        radius, m3.JoinType.Round, 2.0, 64
    )
    return base.extrude(z)


def gauge_body() -> m3.Manifold:
    """Body of the rain gauge, Ø 48, 60 tall: an outer shell, and 6.4 further in a chamber Ø 35.2
    whose floor floats at 24. What lies between shell and chamber is solid in the model; what is
    laid there is for the plan to say.
    """
    chamber = m3.Manifold.cylinder(40.0, 17.6, 17.6, ROUND).translate((0, 0, 24.0))
    return m3.Manifold.cylinder(60.0, 24.0, 24.0, ROUND) - chamber


def fluted_sleeve() -> m3.Manifold:
    """Sleeve that dresses the mast's foot, Ø 39 over its eight flutes, 48 tall, twisted by 60° and
    modelled as a solid body.
    """
    turn = np.linspace(0, 2 * np.pi, 192, endpoint=False)
    radius = 18.0 + 1.5 * np.cos(8 * turn)
    return m3.Manifold.extrude(
        m3.CrossSection([np.stack([radius * np.cos(turn), radius * np.sin(turn)], 1)]),
        48.0,
        80,
        60.0,
    )


SHAPES: dict[str, Callable[[], m3.Manifold]] = {
    "dome-cap": dome_cap,
    "anemometer-cup": anemometer_cup,
    "rain-funnel": rain_funnel,
    "mast-clamp": mast_clamp,
    "sensor-case": sensor_case,
    "gauge-body": gauge_body,
    "fluted-sleeve": fluted_sleeve,
}


def sample_stl(name: str) -> bytes:
    """A shape of the workshop as binary STL."""
    mesh = SHAPES[name]().to_mesh()
    return binary_stl(
        np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts).astype(np.int64)
    )
