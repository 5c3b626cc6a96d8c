"""Bands, regions and ways of building over the API."""

from service.plans.models import Plan
from tests.service.base import make_workshop, signed_in
from tests.service.planned import Planned
from tests.service.test_api import JSON

BAND = {
    "name": "belt",
    "from_mm": 2,
    "to_mm": 6,
    "changes": {"body.infill_density": 10, "air.nozzle_temp": 220},
    "ramps": {"body.infill_density": 50},
}
BOX = {
    "name": "core",
    "shape": "box",
    "x": 4,
    "y": 4,
    "z": 4,
    "size_x": 4,
    "size_y": 4,
    "size_z": 2,
    "changes": {"body.infill_density": 80},
}


class PlacesApi(Planned):
    def ask(self, path, body, status=200):
        answer = self.client.post(f"/api/{path}", body, content_type=JSON)
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json()

    def test_bands_and_regions_are_in_the_report(self):
        plan = self.plan()
        report = self.change(plan, surface={"bands": [BAND]}, body={"regions": [BOX]})["exact"][
            "report"
        ]
        self.assertEqual(report["bands"], [{"name": "belt", "from_mm": 2, "to_mm": 6}])
        self.assertEqual([report["lanes"]["infill"][k] for k in (5, 10, 29, 35)], [15, 10, 50, 15])
        self.assertEqual(
            [report["lanes"]["nozzle_temp"][k] for k in (0, 5, 15, 35)], [210, 205, 220, 205]
        )
        region = report["regions"][0]
        self.assertAlmostEqual(region["from_mm"], 3, 6)
        self.assertAlmostEqual(region["to_mm"], 5, 6)
        self.assertAlmostEqual(region["area_mm2"], 16, 3)

    def test_what_differs_at_a_height(self):
        plan = self.plan()
        settings = {"surface": {"bands": [BAND]}, "body": {"regions": [{**BOX, "seam": "attract"}]}}
        rows = self.ask(f"plans/{plan}/here", {"settings": settings, "z_mm": 4})
        self.assertEqual(
            [(row["name"], row["value"], row["base"], row["by"]) for row in rows],
            [
                ("body.infill_density", 29, 15, "band 'belt'"),
                ("air.nozzle_temp", 220, None, "band 'belt'"),
                ("body.infill_density", 80, 15, "region 'core'"),
                ("seam", "attract", "", "region 'core'"),
            ],
        )
        self.assertEqual(self.ask(f"plans/{plan}/here", {"settings": settings, "z_mm": 7}), [])
        # the value is the one that is laid, in the band's first and last layer too; the layer below
        # it is none of its
        lane = self.change(plan, **settings)["exact"]["report"]["lanes"]["infill"]
        for layer in (10, 19, 29):
            rows = self.ask(
                f"plans/{plan}/here", {"settings": settings, "z_mm": round(0.2 * (layer + 1), 6)}
            )
            self.assertEqual(
                next(row["value"] for row in rows if row["kind"] == "band"), lane[layer]
            )
        self.assertEqual(self.ask(f"plans/{plan}/here", {"settings": settings, "z_mm": 2}), [])

    def test_a_tower_and_merging(self):
        ask = {
            "name": "nozzle",
            "from_mm": 6,
            "every_mm": 8,
            "to_mm": 30,
            "setting": "air.nozzle_temp",
            "start": 230,
            "step": -5,
        }
        made = self.ask("bands/repeat", ask)["bands"]
        self.assertEqual(
            [(band["from_mm"], band["changes"]) for band in made],
            [
                (6, {"air.nozzle_temp": 230}),
                (14, {"air.nozzle_temp": 225}),
                (22, {"air.nozzle_temp": 220}),
            ],
        )
        for wrong, words in (
            ({"setting": "place.scale_x"}, "whole part only"),
            ({"start": 900}, "0 to 500"),
            ({"every_mm": 0.1}, "200 bands"),
        ):
            self.assertIn(words, self.ask("bands/repeat", {**ask, **wrong}, 422)["detail"])
        found = self.ask(
            "bands/merge",
            {
                "bands": [
                    BAND,
                    {"name": "top", "from_mm": 4, "to_mm": 8, "changes": {"body.walls": 1}},
                ]
            },
        )["bands"]
        self.assertEqual(
            [(band["from_mm"], band["to_mm"]) for band in found], [(2, 4), (4, 6), (6, 8)]
        )
        self.assertEqual(found[1]["changes"]["body.walls"], 1)

    def test_overlaps_are_refused_with_their_heights(self):
        plan = self.plan()
        settings = {
            "surface": {
                "bands": [
                    BAND,
                    {"name": "top", "from_mm": 4, "to_mm": 8, "changes": {"body.walls": 1}},
                ]
            }
        }
        answer = self.client.patch(f"/api/plans/{plan}", {"settings": settings}, content_type=JSON)
        self.assertEqual(answer.status_code, 422)
        self.assertIn("overlap from 4 to 6 mm", answer.json()["detail"])

    def test_the_vase_check(self):
        plan = self.plan()
        found = self.ask(f"plans/{plan}/vase", {})
        self.assertTrue(found["suits"])
        self.assertIn("body.infill_density", [row["name"] for row in found["aside"]["spiral"]])
        tried = {
            way: self.ask(f"plans/{plan}/try", {"settings": {"body": {"build": way}}})
            for way in ("ordinary", "spiral", "open-vessel")
        }
        self.assertLess(tried["spiral"]["mass_g"], tried["open-vessel"]["mass_g"])
        self.assertLess(tried["spiral"]["seams"], tried["open-vessel"]["seams"])
        self.assertAlmostEqual(tried["spiral"]["wall_thickness_mm"], 0.45, 6)

    def test_regions_as_contours(self):
        plan = self.plan()
        upright = {"shape": "under", "x": 8, "y": 4, "z": 4, "spread": 5}
        box, wrong = self.ask(
            f"plans/{plan}/regions", {"settings": {"body": {"regions": [BOX, upright]}}}
        )
        self.assertGreater(len(box["rings"]), 3)
        self.assertAlmostEqual(box["from_mm"], 3, delta=0.1)
        # the part stands in the middle of the bed: so does the middle of the box
        self.assertEqual(
            {tuple(round(abs(v)) for v in point[:2]) for point in box["rings"][0]}, {(2, 2)}
        )
        self.assertIn("upright", wrong["message"])

    def test_the_best_value_goes_to_the_material_or_the_spool(self):
        plan = self.plan()
        self.ask(
            f"plans/{plan}/write-back", {"name": "air.nozzle_temp", "value": 215, "to": "spool"}
        )
        self.assertEqual(
            self.change(plan, body={"walls": 2})["latest"]["resolved"]["nozzle_temp"], 215
        )
        self.assertEqual(self.workshop.materials.get().figures.get("nozzle_temp"), None)
        self.ask(f"plans/{plan}/write-back", {"name": "air.fan", "value": 70, "to": "material"})
        self.assertEqual(self.workshop.materials.get().figures["fan"], 70)
        self.ask(
            f"plans/{plan}/write-back", {"name": "air.fan", "value": 170, "to": "material"}, 422
        )
        self.ask(
            f"plans/{plan}/write-back", {"name": "body.walls", "value": 1, "to": "material"}, 400
        )
        self.assertEqual(self.workshop.materials.get().figures["fan"], 70)

    def test_another_workshop_sees_none_of_it(self):
        plan = self.plan()
        make_workshop("Elsewhere", "visitor")
        visitor = signed_in("visitor")
        for path, body in (
            ("vase", {}),
            ("regions", {}),
            ("here", {"z_mm": 1}),
            ("write-back", {"name": "air.fan", "value": 1, "to": "spool"}),
        ):
            self.assertEqual(
                visitor.post(f"/api/plans/{plan}/{path}", body, content_type=JSON).status_code, 404
            )
        self.assertEqual(Plan.objects.get(pk=plan).latest.spool.figures, {})
