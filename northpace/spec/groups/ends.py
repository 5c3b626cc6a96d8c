"""What is sent before and after the part."""

from __future__ import annotations

from northpace.spec.declare import Group, setting


class Ends(Group):
    """What is sent before and after the part."""

    start_gcode: str | None = setting(
        None,
        "Start",
        help="Fields, sums and conditions in braces, as in the machine's own.",
        moves=("file",),
        source="machine",
        multiline=True,
    )
    end_gcode: str | None = setting(
        None,
        "End",
        help="Sent after the last layer.",
        moves=("file",),
        source="machine",
        multiline=True,
    )
