"""All checks, in the order their findings are listed."""

from __future__ import annotations

from northpace.checks.above_target import above_target
from northpace.checks.caps import caps
from northpace.checks.check import Check
from northpace.checks.drags import drags
from northpace.checks.edge_in_layer import edge_in_layer
from northpace.checks.empty_layer import empty_layer
from northpace.checks.fit import fit
from northpace.checks.flow_limit import flow_limit
from northpace.checks.free_span import free_span
from northpace.checks.gap import gap
from northpace.checks.height_jump import height_jump
from northpace.checks.lifting_corners import lifting_corners_check
from northpace.checks.long_bridge import long_bridge
from northpace.checks.mended import mended
from northpace.checks.narrow_slot import narrow_slot
from northpace.checks.needless_footing import needless_footing
from northpace.checks.never_reached import never_reached
from northpace.checks.no_supports import no_supports
from northpace.checks.open_bottom import open_bottom
from northpace.checks.open_by_design import open_by_design
from northpace.checks.overhang import overhang
from northpace.checks.rebuilt import rebuilt
from northpace.checks.region_outside import region_outside
from northpace.checks.scars import scars
from northpace.checks.shaking import shaking
from northpace.checks.short_layer import short_layer
from northpace.checks.slowed import slowed
from northpace.checks.small_contact import small_contact
from northpace.checks.starts_in_air import starts_in_air
from northpace.checks.strings import strings
from northpace.checks.suited import suited
from northpace.checks.supports import supports
from northpace.checks.tall_overhang import tall_overhang
from northpace.checks.target_out_of_reach import target_out_of_reach
from northpace.checks.thin_top import thin_top
from northpace.checks.time_left import time_left
from northpace.checks.tiny_solid import tiny_solid
from northpace.checks.too_thin import too_thin

CHECKS: tuple[Check, ...] = (
    # the file
    rebuilt,
    mended,
    # the bed
    fit,
    small_contact,
    lifting_corners_check,
    needless_footing,
    # what the part grows on
    empty_layer,
    starts_in_air,
    free_span,
    overhang,
    open_bottom,
    long_bridge,
    # narrow places
    gap,
    too_thin,
    narrow_slot,
    # solid layers
    tiny_solid,
    thin_top,
    open_by_design,
    # supports
    no_supports,
    supports,
    scars,
    # bands and regions
    region_outside,
    edge_in_layer,
    # travel
    strings,
    drags,
    # heights
    target_out_of_reach,
    above_target,
    time_left,
    height_jump,
    tall_overhang,
    # pace
    slowed,
    short_layer,
    flow_limit,
    never_reached,
    shaking,
    # workshop
    suited,
    caps,
)
#: Every code a finding can have.
CODES: tuple[str, ...] = tuple(code for check in CHECKS for code in check.codes)
