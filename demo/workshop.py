"""Machines, materials, spools and the sign-in of Tern Point Instruments. All of it is made up."""

from __future__ import annotations

from typing import Any

NAME = "Tern Point Instruments"
CHECKLIST = ["Bed clean and dry", "Filament end free on the spool"]
LABOUR = 28.0
#: Hours, rates and rules for orders.
HOUSE: dict[str, Any] = {
    "week": {
        "hours": [
            {"days": [0, 1, 2, 3, 4], "begin": "08:00", "end": "18:00"},
            {"days": [5], "begin": "10:00", "end": "14:00"},
        ],
        "zone": "Europe/Oslo",
    },
}
#: Of every spool: the empty reel and the filament when new, in g.
TARE, NET = 214.0, 1000.0
USER, PASSWORD, SHOWN = "tern", "tern-point", "Tern Point"

_COSTS = {"hourly_rate": 1.2, "power": 130.0, "tariff": 0.32, "failed_share": 4.0}
MACHINES: list[dict[str, Any]] = [
    {
        "name": "Skua 220",
        "nozzles": [(0.4, 20.0, 0.08)],
        "figures": {
            **_COSTS,
            "size_x": 220,
            "gantry_height": 24.0,
            "gantry_front": 18.0,
            "gantry_back": 26.0,
            "head": [
                {
                    "name": "Nozzle block",
                    "left": 11,
                    "right": 11,
                    "front": 9,
                    "back": 12,
                    "height": 2.5,
                },
                {"name": "Fan duct", "left": 16, "right": 16, "front": 24, "back": 0, "height": 6},
                {
                    "name": "Carriage",
                    "left": 32,
                    "right": 26,
                    "front": 22,
                    "back": 28,
                    "height": 16,
                },
            ],
            "object_labels": "M486",
            "size_y": 220,
            "size_z": 240,
            "hottest_nozzle": 285,
            "hottest_bed": 110,
            "name_limit": 32,
        },
        "bed_change_min": 6,
        "standin": {"reach": 0.8, "layer_extra": 0.2},
    },
    {
        "name": "Gannet 350",
        "nozzles": [(0.4, 24.0, 0.08), (0.6, 32.0, 0.12), (0.8, 40.0, 0.16)],
        "hard": (0.6,),
        "figures": {
            **_COSTS,
            "hourly_rate": 2.1,
            "power": 310.0,
            "size_x": 350,
            "size_y": 350,
            "size_z": 400,
            "hottest_nozzle": 300,
            "hottest_bed": 120,
            "max_speed_xy": 300,
            "max_acceleration_xy": 5000,
            "name_limit": 48,
            "gantry_height": 40.0,
            "head": [
                {
                    "name": "Nozzle block",
                    "left": 13,
                    "right": 13,
                    "front": 13,
                    "back": 13,
                    "height": 3,
                },
                {
                    "name": "Carriage",
                    "left": 30,
                    "right": 30,
                    "front": 26,
                    "back": 34,
                    "height": 20,
                },
            ],
            "axes": "crossed-belts",
            "motor_speed": 400,
            "motor_acceleration": 6000,
        },
        "bed_change_min": 8,
        "standin": {},
    },
    {
        "name": "Petrel R",
        "nozzles": [(0.4, 18.0, 0.08)],
        "figures": {
            **_COSTS,
            "hourly_rate": 1.0,
            "bed": "round",
            "size_x": 180,
            "size_y": 180,
            "size_z": 300,
            "gantry": "none",
            "hottest_nozzle": 250,
            "hottest_bed": 90,
            "max_speed_z": 150,
            "max_acceleration_z": 3000,
            "name_limit": 24,
            "axes": "three-columns",
            "motor_speed": 250,
            "motor_acceleration": 3500,
            "column_radius": 130.0,
            "arm_length": 270.0,
        },
        "bed_change_min": 4,
        "standin": {"reach": 0.95},
    },
]

#: The spool that hangs on each machine.
HANGS = {"Skua 220": "T-07", "Gannet 350": "T-11", "Petrel R": "T-02"}
MATERIALS: list[dict[str, Any]] = [
    {
        "name": "PETG",
        "figures": {
            "density": 1.27,
            "price": 28.0,
            "max_flow": 11.0,
            "nozzle_temp": 240,
            "first_nozzle_temp": 245,
            "bed_temp": 80,
            "first_bed_temp": 85,
            "fan": 60,
            "least_layer_time": 8,
            "flow_points": [
                {"temp": 225, "flow": 8.0},
                {"temp": 240, "flow": 11.0},
                {"temp": 255, "flow": 13.5},
            ],
        },
        "spools": [("T-07", "slate", 412.0, 1.75), ("T-11", "signal white", 880.0, 1.74)],
    },
    {
        "name": "PLA",
        "figures": {
            "density": 1.24,
            "price": 22.0,
            "max_flow": 13.0,
            "nozzle_temp": 205,
            "first_nozzle_temp": 210,
            "bed_temp": 55,
            "first_bed_temp": 60,
            "fan": 100,
            "least_layer_time": 6,
        },
        "spools": [("T-02", "chalk", 640.0, 1.75)],
    },
    {
        "name": "ASA",
        "figures": {
            "density": 1.07,
            "price": 34.0,
            "max_flow": 10.0,
            "nozzle_temp": 255,
            "first_nozzle_temp": 260,
            "bed_temp": 100,
            "first_bed_temp": 105,
            "fan": 20,
            "least_layer_time": 12,
        },
        "spools": [("T-15", "lamp black", 730.0, 1.76)],
    },
    {
        "name": "TPU",
        "figures": {
            "density": 1.21,
            "price": 41.0,
            "max_flow": 3.5,
            "nozzle_temp": 225,
            "first_nozzle_temp": 228,
            "bed_temp": 45,
            "first_bed_temp": 50,
            "fan": 50,
            "least_layer_time": 10,
        },
        "spools": [("T-20", "kelp", 500.0, 1.75)],
    },
]

#: Recipes by what they are for; each says in figures how it differs.
RECIPES: list[dict[str, Any]] = [
    {
        "name": "Everyday",
        "bore": 0.4,
        "note": "The plain start: even 0.20, three walls, a little inside.",
        "settings": {
            "surface": {"layer_height": 0.2},
            "body": {"walls": 3, "infill_density": 15.0},
        },
    },
    {
        "name": "Shown housings",
        "bore": 0.4,
        "note": "Fine even layers, slow outer walls, one-way tops.",
        "settings": {
            "surface": {"layer_height": 0.14},
            "body": {"walls": 3, "top_pattern": "one-way", "top_thickness": 1.0},
            "pace": {"outer_wall_speed": 35.0, "top_speed": 40.0},
        },
    },
    {
        "name": "Workshop brackets",
        "bore": 0.4,
        "note": "Wide inner beads and crossed infill for clamps that carry.",
        "settings": {
            "surface": {"layer_height": 0.24},
            "body": {
                "walls": 4,
                "inner_width": 0.55,
                "infill_width": 0.55,
                "infill_density": 35.0,
                "infill_pattern": "cubic",
            },
        },
    },
    {
        "name": "Fit samples",
        "bore": 0.4,
        "note": "Two walls and little inside, to try a fit before the real part.",
        "settings": {
            "surface": {"layer_height": 0.28},
            "body": {"walls": 2, "infill_density": 8.0, "top_thickness": 0.6},
            "pace": {"outer_wall_speed": 70.0},
        },
    },
    {
        "name": "Mast parts, 0.6",
        "bore": 0.6,
        "note": "For the 0.6 nozzle: few wide beads, gyroid inside.",
        "settings": {
            "surface": {"layer_height": 0.3, "first_layer_height": 0.3},
            "body": {
                "walls": 3,
                "outer_width": 0.66,
                "inner_width": 0.72,
                "solid_width": 0.7,
                "infill_width": 0.7,
                "infill_density": 25.0,
                "infill_pattern": "gyroid",
            },
            "footing": {"skirt_width": 0.66},
            "supports": {"width": 0.66},
        },
    },
]
