"""How the machine wants its files."""

from __future__ import annotations

from typing import Literal

from northpace.spec.declare import Group, setting


class Dialect(Group):
    """Words and numbers of a file, start and end."""

    name_limit: int = setting(
        32,
        "Name length",
        help="Characters of a file name the display can show.",
        ge=8,
        le=200,
    )
    extrusion: Literal["relative", "absolute"] = setting(
        "relative",
        "Extrusion",
        help="Filament as what each move feeds, or as the sum from the start.",
        moves=("file",),
    )
    acceleration_word: Literal["M204 S", "M204 P T"] = setting(
        "M204 S",
        "Acceleration word",
        help="One word for all moves, or one for laying (P) and one for travel (T).",
        moves=("file",),
    )
    fan_scale: Literal["0-255", "0-100", "0-1"] = setting(
        "0-255",
        "Fan scale",
        help="What stands for a fan at full.",
        moves=("file",),
    )
    pause_word: Literal["M0", "M601"] = setting(
        "M0",
        "Pause word",
        help="What makes the machine wait for a hand.",
        moves=("file",),
    )
    object_labels: Literal["none", "M486"] = setting(
        "none",
        "Labels of placings",
        help="Whether the file says which placing a move belongs to, so that one can be given up "
        "while the others go on.",
        moves=("file",),
    )
    comments: Literal["all", "layers"] = setting(
        "all",
        "Comments",
        help="Every layer and every change of feature, or layers only.",
        moves=("file",),
    )
    start_gcode: str = setting(
        "M140 S{bed_temp}\nM104 S{nozzle_temp}\nG28\nM190 S{bed_temp}\nM109 S{nozzle_temp}\nG92 E0",
        "Start",
        help="Sent before the part. Fields, sums and conditions in braces, such as "
        "{bed_temp}, {size_z - 10}, "
        "{if nozzle > 0.5} … {end}.",
        multiline=True,
    )
    end_gcode: str = setting(
        "M83\nG1 E-1 F2400\nG0 Z{min(top + 1, size_z)} F720\nM104 S0\nM140 S0\nM107\nG28 X0",
        "End",
        help="Sent after the part. The plain one pulls the filament back and lifts before it goes "
        "home.",
        multiline=True,
    )
