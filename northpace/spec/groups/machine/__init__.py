"""What the machine can do: a copy of the workshop's, so that a plan stays what it was."""

from __future__ import annotations

from northpace.spec.declare import setting
from northpace.spec.groups.machine.costs import Costs
from northpace.spec.groups.machine.dialect import Dialect
from northpace.spec.groups.machine.head import Head, HeadPart
from northpace.spec.groups.machine.motion import Motion
from northpace.spec.groups.machine.nozzle import Nozzle
from northpace.spec.groups.machine.plate import KeepOut, Plate

__all__ = ["HeadPart", "KeepOut", "Machine"]


class Machine(Dialect, Costs, Motion, Nozzle, Head, Plate):
    """What the machine can do; a copy of the workshop's machine and nozzle, so that a plan stays
    what it was. Lists show the settings of the last part first.
    """

    name: str = setting(
        "Plain machine",
        "Name",
        help="As the workshop calls it.",
    )
