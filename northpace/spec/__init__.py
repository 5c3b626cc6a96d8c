"""The plan spec: every setting declared once, with unit, bounds, default, group, help and what it
moves.

Forms, API, command line, comparison and documentation are derived from it. To add a setting,
declare it in the file of its group in `groups` and use it in the stage it belongs to. `places` has
the bands and regions that may have settings of their own, and `by_layer` says what holds there.
`whole` puts the groups together, `read` reads and lists them, `portion` is what a stage sees of
them, and `kept` reads what older versions wrote.
"""

from northpace.spec.by_layer import ByLayer, local_settings, with_changes
from northpace.spec.declare import Group, setting
from northpace.spec.groups.body import Body, Patch
from northpace.spec.groups.ends import Ends
from northpace.spec.groups.footing import Footing
from northpace.spec.groups.heat import HeatAir
from northpace.spec.groups.limits import Limits
from northpace.spec.groups.machine import HeadPart, KeepOut, Machine
from northpace.spec.groups.material import FanStage, FlowPoint, Material
from northpace.spec.groups.mesh import BodyChange, Mesh
from northpace.spec.groups.pace import Pace
from northpace.spec.groups.placement import Placement
from northpace.spec.groups.supports import SupportMark, Supports
from northpace.spec.groups.surface import HeightStroke, Mark, Pin, SeamMark, Surface
from northpace.spec.places.bands import Band, Edge
from northpace.spec.places.regions import Region
from northpace.spec.read import GROUP_TITLES, digest, settings, spec_from, with_settings
from northpace.spec.whole import PlanSpec, resolve_heat

__all__ = [
    "Band",
    "Body",
    "BodyChange",
    "ByLayer",
    "Edge",
    "Ends",
    "FanStage",
    "FlowPoint",
    "Footing",
    "GROUP_TITLES",
    "Group",
    "HeadPart",
    "HeatAir",
    "KeepOut",
    "Limits",
    "Machine",
    "HeightStroke",
    "Mark",
    "Material",
    "Mesh",
    "Pace",
    "Patch",
    "Pin",
    "Placement",
    "PlanSpec",
    "Region",
    "SeamMark",
    "SupportMark",
    "Supports",
    "Surface",
    "digest",
    "local_settings",
    "resolve_heat",
    "setting",
    "settings",
    "spec_from",
    "with_changes",
    "with_settings",
]
