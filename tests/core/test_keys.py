"""No result can be served from an old plan: every setting gives the same warm and cold."""

from __future__ import annotations

import contextlib
import json
import unittest
from dataclasses import fields, is_dataclass
from typing import Any

import manifold3d as m3
import numpy as np
import shapely

from northpace.errors import InputError
from northpace.estimate.quick import correction_of, quick
from northpace.plan.cache import StageCache
from northpace.plan.pipeline import Pipeline, Plan
from northpace.plan.run import Run
from northpace.plan.stage import Request, stage
from northpace.spec import PlanSpec, settings, spec_from
from northpace.spec.declare import Undeclared
from tests.core.shapes import arrays, source
from tests.intake.shapes import both, file_of, moved, open_box, turned_in


def shed() -> m3.Manifold:
    """A plate with two posts, a roof over them that leans out, a rib and a pit; beside it a cup."""

    def block(x: float, y: float, z: float, *at: float) -> m3.Manifold:
        return m3.Manifold.cube((x, y, z)).translate(at)

    plate = block(12, 9, 2.4, 0, 0, 0) - block(2, 2, 2, 5, 1, 1.2)
    posts = block(2.4, 6, 2.2, 0, 2, 2.4) + block(2.4, 6, 2.2, 9.6, 2, 2.4)
    cup = m3.Manifold.cylinder(3, 1, 4, 24).translate((19, 4.5, 0))
    return plate + posts + block(14, 6, 1.2, -1, 2, 4.4) + block(0.5, 3, 1, 6, 5, 2) + cup


PART = source(shed())
TOP_FACE = {"x": 6.0, "y": 5.0, "z": 5.6}
FIT = {"surface.kind": "best-fit", "surface.target_um": 60.0}
BRANCHING = {"supports.enabled": True, "supports.spare_bridges": 0.0, "supports.kind": "branching"}
#: What else has to be so for a setting to show, by the setting or its group.
WITH: dict[str, dict[str, Any]] = {
    "supports": {"supports.enabled": True, "supports.spare_bridges": 0.0},
    "supports.spare_bridges": {"supports.enabled": True},
    "supports.branch_lean": BRANCHING,
    "supports.branch_apart": BRANCHING,
    # a part of a fifth of its size, for one 25 times as large takes a minute
    "place.inches": {"place.scale_x": 20.0, "place.scale_y": 20.0, "place.scale_z": 20.0},
    "surface.measure": FIT,
    "surface.target_um": FIT,
    "surface.time_cap_min": {"surface.kind": "best-fit"},
    "surface.step_limit": FIT,
    "surface.least_height": {"surface.kind": "best-fit", "surface.target_um": 15.0},
    "surface.greatest_height": {"surface.kind": "best-fit", "surface.target_um": 200.0},
    "surface.worst_um": {"surface.kind": "best-fit", "surface.target_um": 200.0},
    "surface.meet_flats": {"surface.kind": "best-fit", "surface.target_um": 200.0},
    "surface.overhang_rule": {"surface.kind": "best-fit", "surface.target_um": 300.0},
    "surface.seam_bearing": {"surface.seam": "bearing"},
    "surface.seen_weight": {"surface.marks": [{**TOP_FACE, "attention": "seen"}]},
    "surface.hidden_weight": {"surface.marks": [{**TOP_FACE, "attention": "hidden"}]},
    "body.caught_infill": {"body.caught_height": 5.0, "body.infill_density": 60.0},
    "body.caught_height": {"body.caught_infill": "solid"},
    "body.top_layers": {"body.top_thickness": 0.2},
    "pace.support_speed": {"supports.enabled": True, "supports.angle": 20.0},
    "pace.support_acceleration": {"supports.enabled": True, "supports.angle": 20.0},
    "pace.short_loop_speed": {"pace.short_loop": 60.0},
    "pace.flow_share": {"pace.derived": True, "pace.calm_share": 300.0},
    "pace.outer_share": {"pace.derived": True, "pace.calm_share": 300.0},
    "pace.flow_step": {"pace.derived": True, "pace.calm_share": 300.0},
    "pace.calm_share": {"pace.derived": True},
    "pace.by_hand": {"pace.derived": True},
    "material.precise": {"pace.dial": 20.0},
    "material.quick": {"pace.dial": 80.0},
    "pace.longest_detour": {"pace.longest_detour": 0.0},
    "footing.brim_where": {"footing.brim_reach": 3.0},
    "footing.brim_clearance": {"footing.brim_reach": 3.0},
    "footing.raft_margin": {"footing.raft_layers": 2},
    "footing.raft_gap": {"footing.raft_layers": 2},
    "limits.cost": {"limits.cost": 5.0, "machine.hourly_rate": 6.0},
    "machine.size_z": {"place.scale_z": 300.0},
    "machine.least_height": {"surface.kind": "best-fit", "surface.target_um": 15.0},
    "machine.calm_acceleration": {"pace.derived": True},
    "machine.power": {"machine.tariff": 0.4},
    "machine.bed": {"machine.bed_points": [[-9.0, -9.0], [9.0, -9.0], [0.0, 9.0]]},
    "machine.bed_points": {
        "machine.bed": "polygon",
        "machine.bed_points": [[-99.0, -99.0], [99.0, -99.0], [0.0, 99.0]],
    },
    "machine.motor_speed": {"machine.axes": "crossed-belts", "machine.motor_speed": 60.0},
    "machine.motor_acceleration": {
        "machine.axes": "crossed-belts",
        "machine.motor_acceleration": 800.0,
    },
    "machine.column_radius": {"machine.axes": "three-columns", "machine.motor_speed": 60.0},
    "machine.arm_length": {"machine.axes": "three-columns", "machine.motor_speed": 60.0},
    "machine.nozzle_flow": {"material.max_flow": 40.0, "machine.nozzle_flow": 4.0},
    "machine.nozzle_hard": {"material.abrasive": True},
    "machine.greatest_height": {"surface.kind": "best-fit", "surface.target_um": 300.0},
}
#: A value to change to, where the next one over is not allowed or does not show.
TO: dict[str, Any] = {
    "mesh.thin": 400.0,
    "mesh.bodies": [{"name": "body 2", "left_out": True}],
    "place.down_z": 1.0,
    "surface.layer_height": 0.25,
    "surface.first_layer_height": 0.3,
    "surface.least_height": 0.12,
    "surface.greatest_height": 0.2,
    "surface.time_cap_min": 12.0,
    "surface.strokes": [{"from_mm": 1.0, "to_mm": 4.0, "by": -40.0}],
    "surface.pins": [{"z_mm": 3.0, "height_mm": 0.1}],
    "surface.bands": [{"from_mm": 1.0, "to_mm": 3.0, "changes": {"body.walls": 2}}],
    "surface.marks": [{**TOP_FACE, "attention": "seen"}],
    "surface.seam_marks": [{"x": 0.0, "y": 0.0, "z": 1.0, "want": True}],
    "surface.stack": [0.2] * 28,
    "surface.worst_um": 60.0,
    "body.build": "open-vessel",
    "body.first_layer_width": 0.6,
    "body.top_width": 0.6,
    "body.bridge_width": 0.6,
    "body.solid_angles": [10.0, 100.0],
    "body.least_solid_area": 60.0,
    "body.patches": [{"x": 0.0, "y": 0.0, "z": 5.0, "keep": False}],
    "body.regions": [
        {
            "shape": "box",
            **{"x": 6.0, "y": 4.5, "z": 1.0, "size_x": 6.0, "size_y": 6.0, "size_z": 2.0},
            "changes": {"body.infill_density": 70.0, "pace.infill_speed": 40.0},
        }
    ],
    "pace.by_hand": ["outer_wall_speed"],
    "pace.layer_seconds": [30.0] * 28,
    "pace.short_loop": 60.0,
    "pace.retraction_travel": 9.0,
    "pace.longest_detour": 60.0,
    "pace.support_acceleration": 300.0,
    **{f"pace.{name}_acceleration": 600.0 for name in ("inner_wall", "solid", "top", "infill")},
    "pace.bridge_acceleration": 300.0,
    "footing.prime_volume": 60.0,
    "supports.spare_bridges": 0.0,
    "supports.least_area": 60.0,
    "supports.marks": [{"x": 6.0, "y": 4.5, "z": 4.4, "spread": 10.0, "want": False}],
    "limits.mass_g": 0.1,
    "limits.cost": 0.01,
    "machine.bed_points": [[-9.0, -9.0], [9.0, -9.0], [0.0, 9.0]],
    "machine.keep_out": [{"name": "Clip", "size_x": 5.0, "size_y": 5.0}],
    "machine.head": [{"name": "Duct"}],
    "machine.nozzle": 0.5,
    "machine.size_z": 12.0,
    "machine.least_height": 0.1,
    "machine.greatest_height": 0.24,
    "machine.z_step": 0.02,
    "material.flow_points": [{"temp": 205.0, "flow": 3.0}],
    "pace.dial": 60.0,
    "material.precise": [{"outer_wall_speed": 12.0}],
    "material.quick": [{"infill_speed": 200.0}],
    "material.fan_stages": [{"above_mm": 1.0, "fan": 40.0}],
}
#: Settings that change nothing of this part's plan, and why.
NOTHING: dict[str, str] = {
    "body.outer_contour_only": "only a spiral reads it; the vessel below shows it",
    "body.rim": "only a spiral reads it; the vessel below shows it",
    "machine.hottest_nozzle": "a hotter nozzle than the material needs is no matter",
    "machine.hottest_bed": "a hotter bed than the material needs is no matter",
    "machine.head": "one part alone has nothing to pass",
    "machine.gantry": "one part alone has nothing to pass",
    "machine.gantry_front": "one part alone has nothing to pass",
    "machine.gantry_back": "one part alone has nothing to pass",
    "machine.park_x": "one part alone is not paused",
    "machine.park_y": "one part alone is not paused",
    "machine.pause_word": "one part alone is not paused",
    "machine.object_labels": "one part alone is not labelled",
    "machine.gantry_height": "one part alone has nothing to pass",
    "machine.clear_left": "one part alone has nothing to pass",
    "machine.clear_right": "one part alone has nothing to pass",
    "machine.clear_front": "one part alone has nothing to pass",
    "machine.clear_back": "one part alone has nothing to pass",
    "mesh.openings": "nothing of it is open; the torn cup below shows it",
    "mesh.cavities": "nothing of it is hollow; the torn cup below shows it",
    "mesh.meeting": "laid they are one either way; the torn cup below shows it",
    "surface.calm": "its few layers are as calm as they get; the tests of calm show it",
    "mesh.splinters": "it has none; the torn cup below shows it",
    "mesh.looked_at": "nothing was mended; the torn cup below shows it",
    "machine.name_limit": "the name of a file is no part of a plan",
}


#: Settings whose changes the quick figures of this part miss by more than a tenth, and why.
NOT_QUICK: dict[str, str] = {
    "place.inches": "of a part 25 times as large the correction says nothing",
    "body.patches": "single solid areas are not told apart",
    "pace.short_loop": "loops are not told apart by their length",
    "pace.layer_seconds": "a layer cannot take longer than its slowest speed lets it",
    "supports.clearance": "rays do not see how much of a slim column is left beside a wall",
    "supports.least_area": "rays do not put small areas together",
    "machine.axes": "what three columns reach differs from place to place",
    "machine.column_radius": "what three columns reach differs from place to place",
}


def everything(plan: Plan) -> dict[str, Any]:
    """What a plan says: moves, figures and findings."""
    moves = plan.moves
    columns = {
        name: value.tobytes()
        for name, value in vars(moves).items()
        if isinstance(value, np.ndarray)
    }
    figures = {name: value for name, value in plan.report.items() if name != "elapsed_s"}
    return {**columns, "gcode": plan.gcode, "figures": json.dumps(figures, sort_keys=True)}


def changed(spec: PlanSpec, values: dict[str, Any]) -> PlanSpec:
    data = spec.model_dump()
    for name, value in values.items():
        group, _, key = name.partition(".")
        data[group][key] = value
    return spec_from(data)


def another(entry: dict[str, Any], spec: PlanSpec) -> list[Any]:
    """Other values of a setting: every other choice, or one a little further up or down."""
    name, kind = entry["name"], entry["type"]
    if name in TO:
        return [TO[name]]
    group, _, key = name.partition(".")
    now = getattr(getattr(spec, group), key)
    if kind == "choice":
        return [value for value in entry["choices"] if value != now]
    if kind == "bool":
        return [not now]
    if kind in ("number", "integer"):
        start = now if now is not None else max(entry["min"] or 0, 1)
        step = 1 if kind == "integer" else max(abs(start) * 0.2, 0.5)
        up = start + step
        high = entry["max"]
        return [up if high is None or up <= high else start - step]
    return [f"{now} changed"]


def prints(value: Any) -> Any:
    """What a result of a stage holds, down to its numbers and polygons."""
    if isinstance(value, np.ndarray):
        return shapely.to_wkb(value).tolist() if value.dtype == object else value.tobytes()
    if isinstance(value, list | tuple):
        return [prints(entry) for entry in value]
    if is_dataclass(value):
        return [prints(getattr(value, field.name)) for field in fields(value)]
    return repr(value)


class Shared(unittest.TestCase):
    """What one plan has computed stays as it is when others are planned."""

    #: each makes other stages take another way through the same outlines
    CHANGES = (
        {"body.walls": 0},
        {"body.build": "spiral"},
        {"body.build": "open-vessel"},
        {"body.walls": 2, "body.thin_beads": False},
        {"body.wall_order": "outside-first", "body.fill_gaps": False},
        {"supports.enabled": True, "supports.spare_bridges": 0.0, "footing.brim_reach": 3.0},
        {**BRANCHING, "footing.raft_layers": 2},
        {"body.infill_pattern": "vault", "body.floor_every": 2.0},
        {"body.regions": TO["body.regions"], "body.caught_infill": "solid"},
        {"surface.bands": [{"from_mm": 1.0, "to_mm": 3.0, "changes": {"body.walls": 0}}]},
    )

    def test_what_is_kept_is_not_changed_by_other_plans(self):
        pipeline = Pipeline()
        pipeline.plan(PART, PlanSpec())
        kept = {name: (value, prints(value)) for name, (value, _) in pipeline.cache._kept.items()}
        self.assertGreater(len(kept), 20)
        for change in self.CHANGES:
            with contextlib.suppress(InputError):
                pipeline.plan(PART, changed(PlanSpec(), change))
            for name, (value, before) in kept.items():
                self.assertEqual(prints(value), before, f"{name} after {change}")

    def test_a_refused_plan_leaves_the_next_one_as_it_is(self):
        warm, two = Pipeline(), changed(PlanSpec(), {"body.walls": 2})
        with self.assertRaises(InputError):
            warm.plan(PART, changed(PlanSpec(), {"body.build": "spiral"}))
        self.assertEqual(everything(warm.plan(PART, two)), everything(Pipeline().plan(PART, two)))

    def test_polygons_of_a_result_cannot_be_written_to(self):
        polygons = Pipeline().plan(PART, PlanSpec()).outlines.islands.polygons
        with self.assertRaises(ValueError):
            polygons[0] = None


class EverySetting(unittest.TestCase):
    """The same moves, figures and findings, whether an old plan was there or not."""

    @classmethod
    def setUpClass(cls):
        cls.warm = Pipeline()
        cls.known: dict[str, tuple[PlanSpec, dict[str, Any]]] = {}

    def before(self, name: str) -> tuple[PlanSpec, dict[str, Any]]:
        extra = WITH.get(name, WITH.get(name.split(".")[0], {}))
        key = json.dumps(extra)
        if key not in self.known:
            spec = changed(PlanSpec(), extra)
            self.known[key] = spec, everything(self.warm.plan(PART, spec))
        return self.known[key]

    def test_warm_is_as_cold(self):
        for entry in settings():
            name = entry["name"]
            if name in NOTHING:
                continue
            spec, old = self.before(name)
            differs = False
            for value in another(entry, spec):
                with self.subTest(setting=name, value=value):
                    new = changed(spec, {name: value})
                    warm = everything(self.warm.plan(PART, new))
                    self.assertEqual(warm, everything(Pipeline().plan(PART, new)))
                    differs |= any(warm[k] != old[k] for k in warm if k != "gcode")
                    differs |= without_checksum(warm) != without_checksum(old)
            with self.subTest(setting=name):
                self.assertTrue(differs, "shows nothing")

    def test_quick_figures_follow_every_setting(self):
        """Within a tenth of the exact plan, once an exact plan has corrected them."""
        self.assertLessEqual(set(NOT_QUICK), {entry["name"] for entry in settings()} - set(NOTHING))
        for entry in settings():
            name = entry["name"]
            if name in NOTHING:
                continue
            spec, _ = self.before(name)
            profile = self.warm.profile(PART, spec)
            correction = correction_of(self.warm.plan(PART, spec).report, profile, spec)
            missed = []
            for value in another(entry, spec):
                new = changed(spec, {name: value})
                exact = self.warm.plan(PART, new).report
                heights = self.warm.stack(PART, new, correction).heights
                found = quick(self.warm.profile(PART, new), new, heights, correction)
                seconds, length = sum(found.seconds.values()), sum(found.filament.values())
                ratios = (
                    seconds / exact["time_s"]["total"],
                    length / exact["filament"]["length_mm"],
                )
                if max(abs(ratio - 1) for ratio in ratios) > 0.1:
                    missed.append((value, ratios))
            with self.subTest(setting=name):
                self.assertEqual(bool(missed), name in NOT_QUICK, missed)

    def test_what_changes_nothing_changes_nothing(self):
        """All of them at once, because what none of them changes all of them do not."""
        values = {
            entry["name"]: another(entry, PlanSpec())[0]
            for entry in settings()
            if entry["name"] in NOTHING
        }
        self.assertEqual(set(values), set(NOTHING))
        _, old = self.before("none")
        new = changed(PlanSpec(), values)
        warm = everything(self.warm.plan(PART, new))
        self.assertEqual(warm, everything(Pipeline().plan(PART, new)))
        for name in warm:
            if name != "gcode":
                self.assertEqual(warm[name], old[name], name)
        self.assertEqual(without_checksum(warm), without_checksum(old))

    def test_spirals_warm_and_cold(self):
        vessel = m3.Manifold.cylinder(6, 8, 8, 32) - m3.Manifold.cylinder(6, 6.5, 6.5, 32)
        part = source(vessel.rotate((0, 10, 0)).trim_by_plane((0, 0, 1), 1.0))
        warm = Pipeline()
        spiral = {"body.build": "spiral", "body.outer_contour_only": True, "body.rim": "level"}
        found = []
        for values in ({}, {"body.rim": "follow"}, {"body.outer_width": 0.5}):
            spec = changed(PlanSpec(), {**spiral, **values})
            found.append(everything(warm.plan(part, spec)))
            self.assertEqual(found[-1], everything(Pipeline().plan(part, spec)))
        self.assertNotEqual(found[0]["gcode"], found[1]["gcode"])

    def test_a_torn_cup_warm_and_cold(self):
        ball, box = arrays(m3.Manifold.sphere(4, 24)), arrays(m3.Manifold.cube((6, 6, 4)))
        torn = both(
            *(moved(ball, 0, 0, 4), turned_in((0.4 * ball[0] + [0, 0, 4], ball[1]))),
            *(moved(open_box(5), 10, 0, 0), moved(box, 20, 0, 0), moved(box, 22, 1, 0)),
            moved((0.005 * ball[0], ball[1]), 40, 0, 0.02),
        )
        part, warm = file_of(torn), Pipeline()
        old = everything(warm.plan(part, PlanSpec()))
        for values in (
            {"mesh.openings": "drop"},
            {"mesh.cavities": "solid"},
            {"mesh.meeting": "apart"},
            {"mesh.splinters": "drop"},
            {"mesh.looked_at": True},
        ):
            with self.subTest(values=values):
                spec = changed(PlanSpec(), values)
                new = everything(warm.plan(part, spec))
                self.assertEqual(new, everything(Pipeline().plan(part, spec)))
                self.assertNotEqual(new["figures"], old["figures"])

    def test_heights_chosen_by_time_know_the_supports(self):
        # a best fit under a cap, then supports on: layers that were chosen without them would be
        # too many
        capped = {"surface.kind": "best-fit", "surface.time_cap_min": 9.0}
        warm = Pipeline()
        warm.stack(PART, changed(PlanSpec(), capped))
        held = changed(PlanSpec(), {**capped, "supports.enabled": True})
        self.assertEqual(
            warm.stack(PART, held).heights.tolist(), Pipeline().stack(PART, held).heights.tolist()
        )

    def test_changes_of_bands_and_regions_warm_and_cold(self):
        box = {"shape": "box", "x": 6.0, "y": 4.5, "z": 1.0}
        size = {"size_x": 6.0, "size_y": 6.0, "size_z": 2.0}
        for entry in settings():
            if not entry["within"]:
                continue
            with self.subTest(setting=entry["name"]):
                spec, _ = self.before(entry["name"])
                value = another(entry, spec)[0]
                changes = {"changes": {entry["name"]: value}}
                places = {"surface.bands": [{"from_mm": 1.0, "to_mm": 3.0, **changes}]}
                if entry["within"] == "region":
                    places["body.regions"] = [{**box, **size, **changes}]
                new = changed(spec, places)
                warm = everything(self.warm.plan(PART, new))
                self.assertEqual(warm, everything(Pipeline().plan(PART, new)))


class Declared(unittest.TestCase):
    def test_a_stage_cannot_read_what_it_did_not_declare(self):
        @stage(phase="load", reads=("body.walls",))
        def curious(spec):
            return spec.body.walls + spec.body.solid_width

        with self.assertRaises(Undeclared):
            Run(StageCache(), Request(PART, PlanSpec()))(curious)


def without_checksum(found: dict[str, Any]) -> list[bytes]:
    return [line for line in found["gcode"].splitlines() if b"checksum" not in line]
