"""Recipes, acknowledgements, trials and effects over the API."""

import json

import manifold3d as m3

from service.plans.models import Acknowledgement, Plan, PlanVersion
from service.workshop.models import Recipe
from tests.core.shapes import cube, stl
from tests.service.base import make_workshop, plan_body, signed_in
from tests.service.planned import Planned
from tests.service.test_api import JSON


class PathsApi(Planned):
    def test_a_stop_is_acknowledged_and_comes_back_when_it_changes(self):
        floating = cube(8) + m3.Manifold.cube((5.0, 5.0, 3.0)).translate((14, 0, 5))
        # layers of a thin post are over too soon, which wants a look
        floating += m3.Manifold.cube((2.0, 2.0, 20.0)).translate((-10, 0, 0))
        plan = self.plan(stl(floating))
        version = Plan.objects.get(pk=plan).latest.pk
        self.assertEqual(
            self.client.post("/api/jobs", {"version": version}, content_type=JSON).status_code, 422
        )
        for body in (
            {"code": "starts-in-air"},
            {"code": "starts-in-air", "reason": " "},
            {"code": "nothing", "reason": "why"},
        ):
            self.assertIn(
                self.client.post(
                    f"/api/plans/{plan}/acknowledge", body, content_type=JSON
                ).status_code,
                (400, 422),
                body,
            )
        answer = self.client.post(
            f"/api/plans/{plan}/acknowledge",
            {"code": "starts-in-air", "reason": "sits on a pin"},
            content_type=JSON,
        )
        self.assertEqual(answer.json()["acknowledgements"][0]["reason"], "sits on a pin")
        self.assertEqual(
            self.client.post(
                "/api/jobs", {"version": version, "ticked": ["looks"]}, content_type=JSON
            ).status_code,
            201,
        )
        # what only wants a look has to be ticked
        self.assertEqual(
            self.client.post("/api/jobs", {"version": version}, content_type=JSON).status_code, 422
        )
        # another height, another sentence: what was accepted was something else
        changed = self.change(plan, surface={"layer_height": 0.15})
        self.assertEqual(
            self.client.post(
                "/api/jobs", {"version": changed["latest"]["id"]}, content_type=JSON
            ).status_code,
            422,
        )
        self.assertEqual(
            self.client.delete(f"/api/plans/{plan}/acknowledge/starts-in-air").json()[
                "acknowledgements"
            ],
            [],
        )
        self.assertFalse(Acknowledgement.objects.exists())

    def test_effects_tell_what_each_change_did(self):
        plan = self.plan()
        first = self.client.get(f"/api/plans/{plan}").json()
        self.assertEqual(first["effects"], [])
        second = self.change(plan, body={"infill_density": 60})
        third = self.change(plan, body={"infill_density": 60}, pace={"infill_speed": 40})
        effects = third["effects"]
        self.assertEqual(
            [[c["name"] for c in e["changes"]] for e in effects],
            [["pace.infill_speed"], ["body.infill_density"]],
        )
        self.assertEqual(
            effects[1]["changes"][0], {"name": "body.infill_density", "before": None, "after": 60}
        )
        before, after = (p["exact"]["report"] for p in (first, second))
        self.assertAlmostEqual(
            effects[1]["time_s"], after["time_s"]["total"] - before["time_s"]["total"], 6
        )
        self.assertAlmostEqual(
            effects[1]["mass_g"], after["filament"]["mass_g"] - before["filament"]["mass_g"], 6
        )
        self.assertEqual(effects[0]["mass_g"], 0)

    def test_a_trial_is_exact_and_keeps_nothing(self):
        plan = self.plan()
        versions = PlanVersion.objects.count()
        tried = self.client.post(
            f"/api/plans/{plan}/try",
            {"settings": {"body": {"infill_pattern": "gyroid"}}},
            content_type=JSON,
        ).json()
        self.assertEqual(PlanVersion.objects.count(), versions)
        made = self.change(plan, body={"infill_pattern": "gyroid"})["exact"]["report"]
        self.assertAlmostEqual(tried["time_s"], made["time_s"]["total"], 6)
        self.assertAlmostEqual(tried["mass_g"], made["filament"]["mass_g"], 6)
        refused = self.client.post(
            f"/api/plans/{plan}/try",
            {"settings": {"body": {"infill_pattern": "waves"}}},
            content_type=JSON,
        )
        self.assertEqual(refused.status_code, 422)
        self.assertIn("honeycomb", refused.json()["detail"])

    def test_recipes_from_a_plan_to_a_plan(self):
        plan = self.plan()
        self.change(
            plan,
            body={"walls": 2, "patches": [{"x": 0, "y": 0, "z": 1, "keep": False}]},
            place={"turn_z": 30},
            surface={"pins": [{"z_mm": 3, "height_mm": 0.2}]},
        )
        answer = self.client.post(
            f"/api/plans/{plan}/recipe",
            {"name": "Thin walls", "note": "for trials"},
            content_type=JSON,
        )
        self.assertEqual(answer.status_code, 201)
        # what belongs to this part stays out of it
        self.assertEqual(answer.json()["settings"], {"body": {"walls": 2}})
        self.assertEqual(
            self.client.post(
                f"/api/plans/{plan}/recipe", {"name": "Thin walls"}, content_type=JSON
            ).status_code,
            422,
        )
        recipe = Recipe.objects.get()
        other = self.plan(recipe=recipe.pk)
        self.assertEqual(Plan.objects.get(pk=other).latest.settings, {"body": {"walls": 2}})
        # it is for the nozzle it was made with
        material = self.workshop.materials.get().pk
        offered = [
            [
                r["name"]
                for r in self.client.get(
                    f"/api/recipes?nozzle={nozzle.pk}&material={material}"
                ).json()
            ]
            for nozzle in self.workshop.machines.get().nozzles.order_by("bore")
        ]
        self.assertEqual(offered, [["Thin walls"], []])
        self.assertEqual(
            self.client.get(f"/api/recipes?nozzle=x&material={material}").status_code, 422
        )
        self.assertEqual(
            self.client.get(f"/api/recipes?nozzle=999999&material={material}").status_code, 404
        )
        body = {
            **plan_body(self.make_part(stl(cube(8))), self.workshop),
            "nozzle": self.workshop.machines.get().nozzles.last().pk,
            "recipe": recipe.pk,
        }
        refused = self.client.post("/api/plans", body, content_type=JSON)
        self.assertEqual(refused.status_code, 422)
        self.assertIn("0.4 mm nozzle", refused.json()["detail"])
        self.assertEqual(
            self.client.patch(
                f"/api/recipes/{recipe.pk}", {"note": "still for trials"}, content_type=JSON
            ).status_code,
            200,
        )
        self.assertEqual(self.client.delete(f"/api/recipes/{recipe.pk}").status_code, 204)
        self.assertEqual(self.client.get(f"/api/plans/{other}").json()["recipe"], None)

    def test_another_workshop_sees_none_of_it(self):
        plan = self.plan()
        self.client.post(f"/api/plans/{plan}/recipe", {"name": "Ours"}, content_type=JSON)
        make_workshop("Elsewhere", "visitor")
        visitor = signed_in("visitor")
        self.assertEqual(visitor.get("/api/recipes").json(), [])
        recipe = Recipe.objects.get().pk
        for answer in (
            visitor.get(f"/api/recipes/{recipe}"),
            visitor.delete(f"/api/recipes/{recipe}"),
            visitor.post(f"/api/plans/{plan}/try", "{}", content_type=JSON),
            visitor.post(
                f"/api/plans/{plan}/acknowledge",
                json.dumps({"code": "slowed", "reason": "x"}),
                content_type=JSON,
            ),
        ):
            self.assertEqual(answer.status_code, 404)
