"""Compile the core's kernels once, before several processes need them at the same time and each
compiles its own.
"""

import fcntl
import pickle
from pathlib import Path

from demo.shapes import sample_stl
from northpace.errors import InputError
from northpace.gcode.read import read_gcode
from northpace.plan.mesh import mesh_figures
from northpace.plan.pipeline import Pipeline, Source
from northpace.spec import PlanSpec, with_settings
from northpace.ways.find import find_ways
from ops.steps import ROOT, VAR
from standin.drive import drive
from standin.limits import Limits
from standin.text import read

#: Plans that between them run nearly all kernels; what is missed is compiled when it is needed.
PLANS = (
    ("mast-clamp", ()),
    ("anemometer-cup", ("surface.kind=best-fit", "supports.enabled=true")),
    (
        "mast-clamp",
        (
            "body.infill_pattern=hilbert",
            'body.regions=[{"shape":"box","z":8,"size_x":80,"size_y":80,"size_z":8,'
            '"changes":{"body.infill_density":40,"pace.infill_speed":40}}]',
        ),
    ),
    ("dome-cap", ("body.build=spiral", "body.rim=level", "body.outer_contour_only=true")),
)


def main() -> None:
    VAR.mkdir(exist_ok=True)
    for entry in unreadable(ROOT / "northpace"):
        entry.unlink(missing_ok=True)
    pipeline = Pipeline()
    # what every plan needs, while the service's own processes wait for it (service/core.py)
    with (VAR / "kernels.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        _run(pipeline, *PLANS[0])
    for name, pairs in PLANS:
        _run(pipeline, name, pairs)
    source, spec = _sample(PLANS[0][0]), with_settings(PlanSpec(), ["mesh.thin=20"])
    mesh_figures(pipeline, source, spec)
    next(find_ways(pipeline.part(source), spec))


def unreadable(folder: Path) -> list[Path]:
    """Kept kernels that cannot be loaded: torn by a power cut, or of sources that know their types
    no longer. Left where they are they would fail every plan that needs them.
    """
    found = []
    for entry in sorted(folder.rglob("*.nb[ci]")):
        try:
            with entry.open("rb") as file:
                pickle.load(file)  # our own: the version of an index, or all of a kernel
                if entry.suffix == ".nbi":
                    pickle.load(file)
        except Exception:  # whatever a torn or foreign file makes of unpickling
            found.append(entry)
    return found


def _sample(name: str) -> Source:
    return Source.of(sample_stl(name), f"{name}.stl")


def _run(pipeline: Pipeline, name: str, pairs: tuple[str, ...]) -> None:
    try:
        gcode = pipeline.plan(_sample(name), with_settings(PlanSpec(), list(pairs))).gcode
    except InputError:
        return  # compiling is only a help; what is wrong shows in the tests
    read_gcode(gcode)
    drive(read(gcode.decode(), Limits()), Limits())


if __name__ == "__main__":
    main()
