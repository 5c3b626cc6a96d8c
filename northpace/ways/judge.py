"""What a way up comes to: quick figures of the turned part, with supports where they are needed."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
import shapely.affinity

from northpace.estimate.quick import LEAST_RATIO, MOST_RATIO, Quick, quick
from northpace.estimate.rates import Correction
from northpace.estimate.rays import rays
from northpace.estimate.support import Needed, needed
from northpace.geometry.polygons import difference, rounded, together
from northpace.heights.choose import choose, height_task, plainly_even
from northpace.heights.even import even_heights
from northpace.heights.fit import HeightTask
from northpace.heights.measure import SurfaceError, measure
from northpace.heights.surface import SurfaceTable, facets, surface_table
from northpace.material.amounts import amounts
from northpace.motion.derive import derived
from northpace.outlines.profile import Profile, profile
from northpace.outlines.sections import sections
from northpace.part.place import Placed, misfits, place
from northpace.part.plate import plate
from northpace.part.solid import Part
from northpace.spec import PlanSpec
from northpace.ways.candidates import Candidate, centre_of_mass, standing_on
from northpace.ways.figures import WayFigures

#: Levels at which a way is looked at, and those at which it is looked at behind the outline: fewer
#: than for a plan, because many are looked at.
LEVELS, DEPTH_LEVELS = 160, 24
#: How many times as long again the lines of solid strips under slopes take, ways to them included,
#: as exact plans of generated parts have it.
STRIPS = 1.2
#: Turns about z that are tried where a part does not fit the bed (°).
TURNS = (0.0, 90.0, 45.0, 15.0, 30.0, 60.0, 75.0)


def judged(
    part: Part,
    candidate: Candidate,
    spec: PlanSpec,
    correction: Correction | None = None,
    pull: np.ndarray | None = None,
    known: float = 1.0,
) -> tuple[WayFigures, Placed, Needed]:
    """The figures of a way, the part as it stands, and what supports it needs. ``pull`` (3,) is a
    load in the file; ``known`` is how slow the solid lines were that the correction is from, which
    `of_few_levels` has made fit these figures.

    Raises `InputError` where no stack of layers keeps the plan's rules.
    """
    placed, candidate = fitted(part, candidate, spec)
    own = derived(_with_supports(spec, candidate))
    mesh = facets(placed, own.surface, own.machine.z_step, own.body.regions)
    shape = profile(placed, own.machine.z_step, LEVELS, DEPTH_LEVELS)
    held = needed(rays(mesh.vertices, mesh.faces), mesh, shape.edges, own)
    shape = replace(shape, stand=held.area, stand_slow=held.slow)
    table = surface_table(mesh, placed.height, own.machine.z_step)
    task = None if plainly_even(own.surface) else height_task(shape, table, own, correction)
    error, heights = _stack(task, table, own, placed)
    found = quick(shape, own, heights, correction)
    seconds = _seconds(found, shape, known)
    starts, loose = _starts_in_air(placed, shape.levels, own)
    stuff = amounts(sum(found.filament.values()), seconds, own.material, own.machine)
    contact, slender, tips = _footing(placed, own)
    wrong = misfits(placed, own.machine)
    figures: WayFigures = {
        "kind": candidate.kind,
        "change": _change(candidate, spec, held),
        "down": [round(float(v), 6) for v in candidate.down],
        "size_mm": [round(v, 3) for v in placed.size],
        "time_s": seconds,
        "mass_g": stuff.mass_g,
        "cost": stuff.cost,
        "bare_time_s": None,
        "layers": len(heights),
        "support_mm3": held.volume,
        "scar_mm2": held.scar,
        "scar_seen_mm2": held.seen,
        "scar_hidden_mm2": held.hidden,
        "scar_weighted_mm2": held.weighted,
        "mean_um": 1000 * error.mean,
        "p95_um": 1000 * error.p95,
        "contact_mm2": contact,
        "slenderness": slender,
        "tips_at_deg": tips,
        "starts_in_air": starts,
        "loose_starts": loose,
        "bridges": held.bridges,
        "hanging_mm2": held.hanging,
        "load_deg": None if pull is None else _load(candidate, pull),
        "misfit": wrong[0][1] if wrong else "",
    }
    if held.volume > 0 and not spec.supports.by_angle:
        plain = own.model_copy(update={"supports": spec.supports})
        figures["bare_time_s"] = _seconds(quick(shape, plain, heights, correction), shape, known)
    return figures, placed, held


def _seconds(found: Quick, shape: Profile, known: float) -> float:
    """The quick seconds of a way, with what its solid strips take more."""
    strips = found.seconds.get("solid", 0.0) * (solid_slow(shape) / known - 1)
    return sum(found.seconds.values()) + strips


def of_few_levels(part: Part, spec: PlanSpec, correction: Correction) -> Correction:
    """A correction that fits the figures of ways, which look at fewer levels. ``correction`` is
    from an exact plan of the part as it stands.
    """
    placed = place(part, spec.place)
    heights = even_heights(placed.height, spec.surface, spec.machine)
    shapes = [
        profile(placed, spec.machine.z_step),
        profile(placed, spec.machine.z_step, LEVELS, DEPTH_LEVELS),
    ]
    if spec.supports.by_angle:
        mesh = facets(placed, spec.surface, spec.machine.z_step, spec.body.regions)
        cut = rays(mesh.vertices, mesh.faces)
        held = [needed(cut, mesh, shape.edges, spec) for shape in shapes]
        shapes = [
            replace(shape, stand=one.area, stand_slow=one.slow)
            for shape, one in zip(shapes, held, strict=True)
        ]
    plain, found = (quick(shape, spec, heights) for shape in shapes)
    return {
        "seconds": _fitting(correction["seconds"], plain.seconds, found.seconds),
        "filament": _fitting(correction["filament"], plain.filament, found.filament),
    }


def _fitting(
    ratios: dict[str, float], plain: dict[str, float], found: dict[str, float]
) -> dict[str, float]:
    """Ratios exact / ``found`` by feature, from ``ratios`` exact / ``plain``."""
    return {
        name: float(np.clip(ratio * plain[name] / found[name], LEAST_RATIO, MOST_RATIO))
        if plain.get(name, 0.0) > 1.0 and found.get(name, 0.0) > 1.0
        else ratio
        for name, ratio in ratios.items()
    }


def solid_slow(shape: Profile) -> float:
    """How many times as long solid lines take as those of wide faces: by the share that lies in
    strips along walls, as under slopes: what opens within a few layers just inside the outline, but
    not further in.
    """
    tables = (shape.open_up[:, 3], shape.open_down[:, 3])
    outer, inner = (
        sum(float((table[:, depth] * shape.area).sum()) for table in tables) for depth in (0, -1)
    )
    return 1 + STRIPS * (1 - min(inner / outer, 1.0)) if outer > 0 else 1.0


def slow_now(part: Part, spec: PlanSpec) -> float:
    """The same of a part as it stands."""
    placed = place(part, spec.place)
    return solid_slow(profile(placed, spec.machine.z_step, LEVELS, DEPTH_LEVELS))


def _change(candidate: Candidate, spec: PlanSpec, held: Needed) -> dict[str, float | bool | str]:
    """What of a plan's settings a way changes."""
    now, then = spec.place, candidate.placement
    out: dict[str, float | bool | str] = {
        f"place.{key}": getattr(then, key)
        for key in type(then).model_fields
        if getattr(then, key) != getattr(now, key)
    }
    if held.volume > 0 and not spec.supports.by_angle:
        out |= {"supports.enabled": True, "supports.decided": "both"}
    return out


def _with_supports(spec: PlanSpec, candidate: Candidate) -> PlanSpec:
    supports = spec.supports.model_copy(update={"enabled": True, "decided": "both"})
    # bands, pins and stacks one by one belong to the heights of another way up
    surface = spec.surface.model_copy(
        update={"bands": (), "pins": (), "strokes": (), "stack": (), "time_cap_min": None}
    )
    return spec.model_copy(
        update={"place": candidate.placement, "supports": supports, "surface": surface}
    )


def fitted(part: Part, candidate: Candidate, spec: PlanSpec) -> tuple[Placed, Candidate]:
    """The part as it stands, turned about z where it would not fit the bed otherwise."""
    placed = place(part, candidate.placement)
    if candidate.kind == "now" or not misfits(placed, spec.machine):
        return placed, candidate
    bed = plate(spec.machine)
    hull = shapely.convex_hull(shapely.multipoints(_corners(placed)[:, :2]))
    for turn in TURNS[1:]:
        box = shapely.affinity.rotate(hull, turn, origin=(0, 0)).bounds
        size = np.array(box[2:]) - box[:2]
        if shapely.covers(bed, shapely.box(*(-size / 2), *(size / 2))):
            other = standing_on(spec.place, candidate.down, turn)
            return place(part, other), candidate._replace(placement=other)
    return placed, candidate


def _corners(placed: Placed) -> np.ndarray:
    return np.asarray(placed.solid.to_mesh().vert_properties)[:, :3]


def _stack(
    task: HeightTask | None, table: SurfaceTable, spec: PlanSpec, placed: Placed
) -> tuple[SurfaceError, np.ndarray]:
    """The step error, and heights (N,) in mm, by the plan's rule for heights."""
    if task is None:
        heights = even_heights(placed.height, spec.surface, spec.machine)
        return measure(table, np.round(heights / table.z_step).astype(np.int64)), heights
    stack = choose(task, spec)
    return stack.error, stack.heights


def _footing(placed: Placed, spec: PlanSpec) -> tuple[float, float, float]:
    """Area on the bed in mm², height over the width of what stands on it, and the angle in degrees
    by which it can be tilted before it falls.
    """
    first = min(spec.surface.first_layer_height, placed.height) / 2
    (area,) = sections(placed.solid, np.array([first]))
    if shapely.is_empty(area):
        return 0.0, np.inf, -90.0
    hull = shapely.convex_hull(area)
    middle = centre_of_mass([placed.solid])
    point = shapely.Point(middle[:2])
    away = float(shapely.distance(shapely.boundary(hull), point))
    away = away if shapely.covers(hull, point) else -away
    width = np.sqrt(max(float(shapely.area(hull)), 1e-6))
    return (
        float(shapely.area(area)),
        float(placed.height / width),
        float(np.degrees(np.arctan2(away, max(middle[2], 1e-9)))),
    )


def _starts_in_air(placed: Placed, levels: np.ndarray, spec: PlanSpec) -> tuple[int, int]:
    """How many outlines have nothing right below them, the bed left out, and how many of these
    supports cannot hold, because they stand on the bed only and the part lies below.
    """
    areas = sections(placed.solid, levels)
    parts, below = shapely.get_parts(areas[1:], return_index=True)
    shapely.prepare(areas)
    begins = np.flatnonzero(~shapely.intersects(parts, areas[below]))
    if spec.supports.origin != "bed":
        return len(begins), 0
    loose = 0
    for part, level in zip(parts[begins], below[begins], strict=True):
        free = difference(part, rounded(together(areas[: level + 1]), spec.supports.clearance))
        loose += bool(shapely.area(free) < spec.supports.width**2)
    return len(begins), loose


def _load(candidate: Candidate, pull: np.ndarray) -> float:
    """Degrees between a load (3,) in the file and the layers: 0 runs along them."""
    up = -candidate.down / np.linalg.norm(candidate.down)
    share = abs(float(up @ pull)) / max(float(np.linalg.norm(pull)), 1e-12)
    return float(np.degrees(np.arcsin(np.clip(share, 0, 1))))
