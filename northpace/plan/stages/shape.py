"""From the file to the part as it stands: its solid, its profile, its surface."""

from __future__ import annotations

from dataclasses import replace

from northpace.estimate.rays import rays
from northpace.estimate.support import needed
from northpace.heights import surface as surfaces
from northpace.heights.surface import Facets, SurfaceTable
from northpace.outlines import profile as profiles
from northpace.outlines.profile import Profile
from northpace.part.bodies import with_bodies
from northpace.part.differences import Differences
from northpace.part.differences import differences as differences_of
from northpace.part.faults import Fault, faults_of
from northpace.part.load import load_bodies
from northpace.part.place import Placed, place
from northpace.part.solid import Part, load_part
from northpace.part.thin import thinned_out
from northpace.plan.source import Source
from northpace.plan.stage import SOURCE, Names, stage
from northpace.spec import PlanSpec, Region
from northpace.spec.portion import View


@stage(
    SOURCE,
    phase="load",
    reads=("mesh.openings", "mesh.cavities", "mesh.meeting", "mesh.splinters"),
)
def mended(spec: PlanSpec, source: Source) -> Part:
    """The solids of the file, mended where they must be."""
    return load_part(source.read(), source.filename, spec.mesh)


@stage(SOURCE, phase="load")
def faults(spec: PlanSpec, source: Source) -> list[Fault]:
    """What is wrong with the mesh of the file."""
    return faults_of(load_bodies(source.read(), source.filename))


@stage(SOURCE, mended, phase="load")
def differences(spec: PlanSpec, source: Source, mended: Part) -> Differences:
    """What mending did, triangle by triangle."""
    return differences_of(load_bodies(source.read(), source.filename), mended)


@stage(mended, phase="load", reads=("mesh.thin",))
def thinned(spec: PlanSpec, mended: Part) -> Part:
    """The same with fewer triangles, where that is asked for."""
    return thinned_out(mended, spec.mesh.thin / 1000) if spec.mesh.thin else mended


@stage(thinned, phase="load", reads=("mesh.bodies",))
def part(spec: PlanSpec, thinned: Part) -> Part:
    """The same with its bodies where they are meant to be."""
    return with_bodies(thinned, spec.mesh.bodies) if spec.mesh.bodies else thinned


@stage(part, phase="load", reads=("place",))
def placed(spec: PlanSpec, part: Part) -> Placed:
    """The part as it stands on the bed."""
    return place(part, spec.place)


@stage(placed, phase="layers", reads=("machine.z_step",))
def levels(spec: PlanSpec, placed: Placed) -> Profile:
    """Area, perimeter and islands along the height."""
    return profiles.profile(placed, spec.machine.z_step)


def _attentive(regions: tuple[Region, ...]) -> tuple[Region, ...]:
    return tuple(
        region.volume().model_copy(update={"attention": region.attention})
        for region in regions
        if region.attention
    )


def _attention(spec: PlanSpec) -> Names:
    names: Names = ("machine.z_step", "surface.marks", View("body.regions", _attentive))
    if spec.surface.marks or _attentive(spec.body.regions):
        names = (*names, "surface.seen_weight", "surface.hidden_weight")
    return names


@stage(placed, phase="layers", reads=_attention)
def facets(spec: PlanSpec, placed: Placed) -> Facets:
    """The placed mesh with smooth slopes, flats and attention."""
    return surfaces.facets(placed, spec.surface, spec.machine.z_step, spec.body.regions)


def _supports(spec: PlanSpec) -> Names:
    return ("supports",) if spec.supports.by_angle else ("supports.enabled", "supports.decided")


@stage(levels, facets, phase="layers", reads=_supports)
def profile(spec: PlanSpec, levels: Profile, facets: Facets) -> Profile:
    """Area, perimeter and islands along the height; and, if the plan has supports, the area that
    these take at every level.
    """
    if not spec.supports.by_angle:
        return levels
    held = needed(rays(facets.vertices, facets.faces), facets, levels.edges, spec)
    return replace(levels, stand=held.area, stand_slow=held.slow)


@stage(facets, placed, phase="layers", reads=("machine.z_step",))
def surface(spec: PlanSpec, facets: Facets, placed: Placed) -> SurfaceTable:
    """What any stack of layers does to the surface."""
    return surfaces.surface_table(facets, placed.height, spec.machine.z_step)
