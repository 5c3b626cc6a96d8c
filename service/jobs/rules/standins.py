"""Simulated printers for the machines of the sample workshop: what each states about itself, and
where it listens.
"""

from __future__ import annotations

from typing import Any

from demo.workshop import MACHINES
from northpace.spec import Machine as MachineSpec
from service.workshop.models import Machine


def stated(machine: Machine) -> dict[str, Any]:
    """What a machine states about its motion and heating, by the names a stand-in knows them by."""
    spec = MachineSpec(**machine.figures)
    x, y = spec.origin
    return {
        "speed_xy": spec.max_speed_xy,
        "speed_z": spec.max_speed_z,
        "speed_e": spec.max_speed_e,
        "push_xy": spec.max_acceleration_xy,
        "push_z": spec.max_acceleration_z,
        "push_e": spec.max_acceleration_e,
        "deviation": spec.junction_deviation,
        "homing": spec.homing_time,
        "nozzle_rate": spec.nozzle_heating,
        "bed_rate": spec.bed_heating,
        "axes": spec.axes,
        "speed_motor": spec.motor_speed,
        "push_motor": spec.motor_acceleration,
        "column_radius": spec.column_radius,
        "arm": spec.arm_length,
        "middle_x": x,
        "middle_y": y,
        "head": _head(spec),
    }


def _head(spec: MachineSpec) -> list[list[Any]]:
    """What moves with the tip: mm to the left, right, front, back, and above it, and its name."""
    out: list[list[Any]] = [
        [part.left, part.right, part.front, part.back, part.height, part.name]
        for part in spec.head
        if not part.points
    ]
    if not spec.head:
        four = [spec.clear_left, spec.clear_right, spec.clear_front, spec.clear_back]
        out.append([*four, 0.0, "Head"])
    far, near = 10_000.0, [spec.gantry_front, spec.gantry_back]
    if spec.gantry == "across x":
        out.append([far, far, *near, spec.gantry_height, "Gantry"])
    elif spec.gantry == "across y":
        out.append([*near, far, far, spec.gantry_height, "Gantry"])
    return out


def wire_up(ports: list[int]) -> list[dict[str, Any]]:
    """Give the sample machines that speak to a printer on this machine their ports; returns what
    each stand-in is started with.
    """
    out = []
    options = {entry["name"]: entry.get("standin", {}) for entry in MACHINES}
    machines = Machine.objects.filter(
        workshop__sample=True,
        name__in=options,
        connection__kind="printer",
        connection__address__startswith="http://127.0.0.1:",
    )
    found = list(zip(machines, ports, strict=False))
    # one may get the port another had before, and no two may have the same for a moment
    Machine.objects.filter(pk__in=[machine.pk for machine, _ in found]).update(connection={})
    for machine, port in found:
        machine.connection = {"kind": "printer", "address": f"http://127.0.0.1:{port}"}
        machine.save(update_fields=["connection"])
        out.append(
            {"name": machine.name, "port": port, "limits": stated(machine), **options[machine.name]}
        )
    return out
