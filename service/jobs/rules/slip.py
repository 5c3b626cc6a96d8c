"""The slip that lies beside a job: what it is, what matters of its settings, and a code that leads
back to it.
"""

from __future__ import annotations

import io

import segno

from northpace.checks.finding import some
from northpace.spec import PlanSpec, resolve_heat
from service.jobs.models import Job


def lines(job: Job) -> list[tuple[str, str]]:
    """Settings that matter at the machine, in words."""
    spec: PlanSpec = job.whole_spec
    heat, body, surface = resolve_heat(spec), spec.body, spec.surface
    layers = (
        f"even {surface.layer_height:g} mm"
        if surface.kind == "even" and not surface.stack
        else f"{surface.kind}, changing with the height"
    )
    built = {
        "ordinary": f"{body.walls} × {body.outer_width:g} mm walls, infill "
        f"{body.infill_density:g} % {body.infill_pattern}",
        "spiral": f"one spiral wall of {body.outer_width:g} mm",
        "open-vessel": f"open vessel, {body.walls} walls",
    }[body.build]
    foot = spec.footing
    feet = (
        (foot.raft_layers, f"raft of {some(foot.raft_layers, 'layer', 'layers')}"),
        (foot.brim_reach, f"brim {foot.brim_reach:g} mm"),
        (foot.skirt_loops, some(foot.skirt_loops, "priming loop", "priming loops")),
    )
    footing = ", ".join(words for amount, words in feet if amount) or "none"
    hangs = f"{job.spool.label}, {job.spool.material}" if job.spool else spec.material.name
    return [
        ("spool", hangs),
        ("nozzle", f"{spec.machine.nozzle:g} mm"),
        (
            "temperatures",
            f"nozzle {heat['first_nozzle_temp']:g} then {heat['nozzle_temp']:g} °C, bed "
            f"{heat['first_bed_temp']:g} then {heat['bed_temp']:g} °C",
        ),
        ("layers", f"{layers}, first {surface.first_layer_height:g} mm"),
        ("body", built),
        ("supports", "yes" if spec.supports.stands else "none"),
        ("footing", footing),
        ("flow correction", f"{spec.material.flow:g} %, filament {spec.material.diameter:g} mm"),
    ]


def code(address: str) -> str:
    """SVG of the code to scan that holds an address."""
    sink = io.BytesIO()
    segno.make(address, error="m", micro=False).save(
        sink, kind="svg", scale=4, border=2, dark="#1C2733", xmldecl=False
    )
    return sink.getvalue().decode()
