"""What a hostile or careless client sends is refused with a word, never with a fault."""

import json

from service.workshop.models import Recipe
from tests.service.planned import JSON, Planned


class Hostile(Planned):
    def test_what_cannot_be_kept_is_refused(self):
        plan = self.plan()
        machine = self.workshop.machines.get().pk
        deep = "[" * 100_000 + "]" * 100_000
        nul, lone = json.dumps("a\0b"), '"\\ud800"'
        for path, body in (
            (f"plans/{plan}", f'{{"settings": {deep}}}'),
            (f"plans/{plan}", f'{{"settings": {{"note": {nul}}}}}'),
            (f"plans/{plan}", f'{{"settings": {{"note": {lone}}}}}'),
            (f"machines/{machine}", f'{{"name": {nul}}}'),
            (f"machines/{machine}", f'{{"name": {lone}}}'),
            (f"machines/{machine}", f'{{"figures": {{"size_x": {lone}}}}}'),
            ("workshop", f'{{"checklist": [{nul}]}}'),
            ("workshop", f'{{"name_template": {lone}}}'),
            ("workshop", '{"name_template": "{1e999}"}'),
        ):
            with self.subTest(path=path, body=body[:60]):
                answer = self.client.patch(f"/api/{path}", body, content_type=JSON)
                self.assertIn(answer.status_code, range(400, 500), answer.content[:300])
                self.assertTrue(answer.json()["detail"])

    def test_a_recipe_does_not_take_the_name_of_another(self):
        made = [
            Recipe.objects.create(workshop=self.workshop, name=name, bore=0.4)
            for name in ("one", "two")
        ]
        answer = self.client.patch(f"/api/recipes/{made[1].pk}", {"name": "one"}, content_type=JSON)
        self.assertEqual(answer.status_code, 409, answer.content[:300])
        self.assertIn("taken", answer.json()["detail"])

    def test_scripts_come_from_our_files_alone(self):
        policy = self.client.get("/")["Content-Security-Policy"]
        self.assertIn("script-src 'self';", policy)
        self.assertIn("frame-ancestors 'none'", policy)
