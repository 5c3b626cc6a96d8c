"""No result can be served from an old plan: every setting gives the same warm and cold."""

from __future__ import annotations

import json
import unittest
from collections import defaultdict
from collections.abc import Callable, Collection, Iterable, Iterator
from dataclasses import dataclass
from typing import Any

import manifold3d as m3
import numpy as np

from northpace.errors import InputError
from northpace.plan.cache import StageCache
from northpace.plan.pipeline import Pipeline, Plan
from northpace.plan.run import Run
from northpace.plan.stage import Needed, Request, Stage, stage
from northpace.plan.stages.findings import FACTS, STAGES
from northpace.plan.stages.moves import strength
from northpace.spec import PlanSpec, settings, spec_from
from northpace.spec.declare import Undeclared
from northpace.spec.portion import View
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


def all_stages() -> list[Stage[Any]]:
    """Every stage a plan may ask for."""
    found: dict[Stage[Any], None] = {}

    def walk(node: Any) -> None:
        node = node.stage if isinstance(node, Needed) else node
        if isinstance(node, Stage) and node not in found:
            found[node] = None
            for entry in node.on:
                walk(entry)

    for top in (*FACTS.values(), *STAGES.values(), strength):
        walk(top)
    return list(found)


ALL = all_stages()


def readers(name: str, spec: PlanSpec) -> frozenset[str]:
    """The stages that declare that they read a setting."""
    group = name.split(".")[0]

    def declares(node: Stage[Any]) -> bool:
        names = {e.name if isinstance(e, View) else e for e in node.names(spec)}
        return bool({name, group} & (names | set(node.local)))

    return frozenset(node.name for node in ALL if declares(node))


@dataclass(frozen=True)
class Change:
    """A setting with another value, and what else has to be so for it to show."""

    name: str
    value: Any
    extra: str


class EverySetting(unittest.TestCase):
    """The same moves, figures and findings, whether an old plan was there or not.

    Computing cold is what takes long. Settings that the very same stages read are changed
    together: a stage that reads one of them and does not say so is met with its old result then as
    it is with one alone.
    """

    @classmethod
    def setUpClass(cls):
        cls.warm = Pipeline()
        cls.known: dict[str, tuple[PlanSpec, dict[str, Any]]] = {}

    def before(self, extra: str) -> tuple[PlanSpec, dict[str, Any]]:
        if extra not in self.known:
            spec = changed(PlanSpec(), json.loads(extra))
            self.known[extra] = spec, everything(self.warm.plan(PART, spec))
        return self.known[extra]

    def changes(self, left_out: Collection[str] = NOTHING) -> Iterator[list[Change]]:
        """Every change there is to make, by setting."""
        for entry in settings():
            name = entry["name"]
            extra = json.dumps(WITH.get(name, WITH.get(name.split(".")[0], {})))
            if name not in left_out:
                spec, _ = self.before(extra)
                yield [Change(name, value, extra) for value in another(entry, spec)]

    def as_cold(
        self, together: list[Change], to_spec: Callable[[PlanSpec, list[Change]], PlanSpec]
    ):
        """Compare warm and cold with all these changes; in halves where they contradict."""
        spec, _ = self.before(together[0].extra)
        with self.subTest(changed=[(one.name, one.value) for one in together]):
            try:
                new = to_spec(spec, together)
                warm = everything(self.warm.plan(PART, new))
            except InputError:
                if len(together) == 1:
                    raise
                half = len(together) // 2
                self.as_cold(together[:half], to_spec)
                self.as_cold(together[half:], to_spec)
                return
            self.assertEqual(warm, everything(Pipeline().plan(PART, new)))

    def test_every_setting_shows(self):
        for every in self.changes():
            spec, old = self.before(every[0].extra)
            differs = False
            for one in every:
                warm = everything(self.warm.plan(PART, changed(spec, {one.name: one.value})))
                differs |= any(warm[k] != old[k] for k in warm if k != "gcode")
                differs |= without_checksum(warm) != without_checksum(old)
            with self.subTest(setting=every[0].name):
                self.assertTrue(differs, "shows nothing")

    def test_warm_is_as_cold(self):
        for together in in_groups(self.changes(), PlanSpec()):
            self.as_cold(
                together, lambda spec, all_: changed(spec, {one.name: one.value for one in all_})
            )

    def test_what_changes_nothing_changes_nothing(self):
        """All of them at once, because what none of them changes all of them do not."""
        values = {
            entry["name"]: another(entry, PlanSpec())[0]
            for entry in settings()
            if entry["name"] in NOTHING
        }
        self.assertEqual(set(values), set(NOTHING))
        _, old = self.before("{}")
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
        within = {entry["name"]: entry["within"] for entry in settings() if entry["within"]}
        every = [found[:1] for found in self.changes(()) if found[0].name in within]
        self.assertGreater(len(every), 40)

        def placed(spec: PlanSpec, together: list[Change]) -> PlanSpec:
            box = {"shape": "box", "x": 6.0, "y": 4.5, "z": 1.0}
            size = {"size_x": 6.0, "size_y": 6.0, "size_z": 2.0}
            values = {one.name: one.value for one in together}
            inside = {name: values[name] for name in values if within[name] == "region"}
            band = {"from_mm": 1.0, "to_mm": 3.0, "changes": values}
            places: dict[str, Any] = {"surface.bands": [band]}
            if inside:
                places["body.regions"] = [{**box, **size, "changes": inside}]
            return changed(spec, places)

        for together in in_groups(every, PlanSpec()):
            self.as_cold(together, placed)


class Declared(unittest.TestCase):
    def test_a_stage_cannot_read_what_it_did_not_declare(self):
        @stage(phase="load", reads=("body.walls",))
        def curious(spec):
            return spec.body.walls + spec.body.solid_width

        with self.assertRaises(Undeclared):
            Run(StageCache(), Request(PART, PlanSpec()))(curious)


def in_groups(changes: Iterable[list[Change]], spec: PlanSpec) -> list[list[Change]]:
    """Changes that can be made together: one of each setting, all read by the same stages."""
    groups: dict[Any, list[Change]] = defaultdict(list)
    for every in changes:
        for round_, one in enumerate(every):
            groups[readers(one.name, spec), one.extra, round_].append(one)
    return list(groups.values())


def without_checksum(found: dict[str, Any]) -> list[bytes]:
    return [line for line in found["gcode"].splitlines() if b"checksum" not in line]
