"""The workshop: machines, nozzles, materials and spools made and corrected; the ledger; the
workshop file; what does not suit.
"""

import json
from concurrent.futures import ThreadPoolExecutor

from django.db import connection, transaction

from service.workshop.models import Machine, Material, Spool, SpoolEntry
from tests.service.base import make_workshop, signed_in
from tests.service.test_api import JSON, Api


class Workshop(Api):
    def send(self, method, path, body=None, status=200):
        answer = (
            getattr(self.client, method)(f"/api/{path}", json.dumps(body), content_type=JSON)
            if body is not None
            else getattr(self.client, method)(f"/api/{path}")
        )
        self.assertEqual(answer.status_code, status, answer.content)
        return answer.json() if answer.content else None


class Machines(Workshop):
    def test_made_corrected_and_removed(self):
        made = self.send("post", "machines", {"name": "Kittiwake", "bore": 0.6, "flow": 30}, 201)
        self.assertEqual([nozzle["bore"] for nozzle in made["nozzles"]], [0.6])
        path = f"machines/{made['id']}"
        self.assertEqual(
            self.send("patch", path, {"figures": {"size_x": 300, "axes": "crossed-belts"}})[
                "figures"
            ]["size_x"],
            300,
        )
        self.assertIn(
            "10 to 5000 mm", self.send("patch", path, {"figures": {"size_x": 3}}, 422)["detail"]
        )
        self.assertIn(
            "of the nozzle", self.send("patch", path, {"figures": {"nozzle": 0.8}}, 422)["detail"]
        )
        self.assertIn(
            "already", self.send("post", "machines", {"name": "Kittiwake"}, 422)["detail"]
        )
        self.send("post", f"{path}/nozzles", {"bore": 0.8, "flow": 40, "least_height": 0.16}, 201)
        wrong = self.send(
            "post", f"{path}/nozzles", {"bore": 0.2, "flow": 40, "least_height": 0.2}, 422
        )
        self.assertIn("above its greatest", wrong["detail"])
        nozzles = Machine.objects.get(pk=made["id"]).nozzles
        self.assertTrue(self.send("patch", f"nozzles/{nozzles.first().pk}", {"hard": True})["hard"])
        self.send("delete", f"nozzles/{nozzles.last().pk}", status=204)
        self.assertIn(
            "no other nozzle",
            self.send("delete", f"nozzles/{nozzles.first().pk}", status=422)["detail"],
        )
        self.send("delete", path, status=204)

    def test_start_and_end_are_checked_when_they_are_kept(self):
        machine = Machine.objects.get()
        path = f"machines/{machine.pk}"
        answer = self.send(
            "patch", path, {"figures": {"start_gcode": "G28\n{if nozzle > 1}M104 S{hot}{end}"}}, 422
        )
        self.assertIn("machine.start_gcode: line 2: unknown field {hot}", answer["detail"])
        self.send("patch", path, {"figures": {"start_gcode": "G28\nM109 S{nozzle_temp}"}})
        self.assertIn("bed_temp", self.send("get", "template-fields"))

    def test_it_is_drawn_as_the_core_takes_it(self):
        machine = self.workshop.machines.first()
        head = [{"name": "Duct", "left": 5, "right": 7, "front": 9, "back": 3, "height": 2.5}]
        places = [{"name": "Clip", "x": 10, "y": 0, "size_x": 8, "size_y": 4}]
        figures = {"size_x": 200, "size_y": 100, "head": head, "keep_out": places}
        figures |= {"gantry": "across x", "gantry_front": 12, "gantry_back": 8}
        drawn = self.send("patch", f"machines/{machine.pk}", {"figures": figures})["drawn"]
        boxes = {}
        for part in (*drawn["head"], *drawn["plate"]["keep_out"]):
            x, y = zip(*part["outline"][0], strict=True)
            boxes[part["name"]] = (min(x), min(y), max(x), max(y))
        self.assertEqual(boxes["Duct"], (-5, -9, 7, 3))
        self.assertEqual(boxes["Clip"], (6, -2, 14, 2))
        # a bar is drawn as far as the plate goes
        self.assertEqual(boxes["Gantry"], (-120, -12, 120, 8))
        self.assertEqual({part["name"]: part["above_mm"] for part in drawn["head"]}["Duct"], 2.5)
        # what an older program kept and is no longer allowed is not drawn, and nothing else is lost
        Machine.objects.filter(pk=machine.pk).update(figures={"size_x": 1})
        rows = self.send("get", "machines")
        kept = next(row for row in rows if row["id"] == machine.pk)
        self.assertIsNone(kept["drawn"])

    def test_connections_lead_somewhere(self):
        path = f"machines/{Machine.objects.get().pk}"
        for wrong in (
            {"kind": "printer", "address": "ftp://x"},
            {"kind": "printer", "address": "nowhere"},
            {"kind": "folder", "folder": "/no/such"},
            {"kind": "folder", "folder": "relative"},
        ):
            self.send("patch", path, {"connection": wrong}, 422)
        self.send("patch", path, {"connection": {"kind": "telepathy"}}, 400)
        self.assertEqual(
            self.send(
                "patch", path, {"connection": {"kind": "printer", "address": "http://printer:80"}}
            )["connection"]["address"],
            "http://printer:80",
        )

    def test_what_was_planned_for_it_keeps_it(self):
        self.make_plan()
        self.assertIn(
            "used by plans",
            self.send("delete", f"machines/{Machine.objects.get().pk}", status=409)["detail"],
        )
        self.assertIn(
            "used by plans",
            self.send("delete", f"materials/{Material.objects.get().pk}", status=409)["detail"],
        )

    def test_only_ones_own(self):
        make_workshop("Elsewhere", "visitor")
        self.client = signed_in("visitor")
        machine, spool = (
            Machine.objects.filter(workshop=self.workshop).get(),
            Spool.objects.filter(material__workshop=self.workshop).get(),
        )
        for method, path in (
            ("get", f"machines/{machine.pk}"),
            ("delete", f"machines/{machine.pk}"),
            ("get", f"spools/{spool.pk}/ledger"),
            ("delete", f"spools/{spool.pk}"),
            ("get", f"fits?nozzle={machine.nozzles.first().pk}&material={spool.material_id}"),
        ):
            self.send(method, path, status=404)
        mine = Machine.objects.filter(workshop__name="Elsewhere").get()
        self.send("post", f"machines/{mine.pk}/hung-up", {"spool": spool.pk}, 404)


class Materials(Workshop):
    def test_made_with_spools_and_their_ledger(self):
        made = self.send("post", "materials", {"name": "ASA", "figures": {"density": 1.07}}, 201)
        self.assertIn(
            "of the spool",
            self.send("patch", f"materials/{made['id']}", {"figures": {"diameter": 2}}, 422)[
                "detail"
            ],
        )
        self.assertIn(
            "0.1 to 20 g/cm³",
            self.send("patch", f"materials/{made['id']}", {"figures": {"density": 0}}, 422)[
                "detail"
            ],
        )
        spool = self.send(
            "post",
            f"materials/{made['id']}/spools",
            {"label": "A-1", "usable_mass": 800, "flow": 98},
            201,
        )
        self.assertEqual(spool["figures"], {"flow": 98})
        path = f"spools/{spool['id']}"
        self.assertIn("tare", self.send("post", f"{path}/weigh", {"gross": 900}, 422)["detail"])
        self.send("patch", path, {"tare": 200, "usable_mass": 750})
        self.assertEqual(self.send("post", f"{path}/weigh", {"gross": 900})["usable_mass"], 700)
        self.assertIn(
            "less than the empty reel",
            self.send("post", f"{path}/weigh", {"gross": 100}, 422)["detail"],
        )
        ledger = self.send("get", f"{path}/ledger")
        self.assertEqual(
            [(entry["kind"], entry["grams"], entry["left_after"]) for entry in ledger],
            [("weighed", -50, 700), ("corrected", -50, 750)],
        )
        self.send("patch", path, {"flow": None})
        self.assertEqual(Spool.objects.get(pk=spool["id"]).figures, {})
        self.send("delete", path, status=204)
        self.send("delete", f"materials/{made['id']}", status=204)

    def test_an_end_of_the_dial_is_kept_for_a_machine(self):
        machine, material = Machine.objects.first(), Material.objects.first()
        path = f"materials/{material.pk}"
        at = {"end": "quick", "machine": machine.pk, "setting": "infill_speed"}
        any_machine = {"machine": "", "outer_wall_speed": 60.0}
        self.send("patch", path, {"figures": {"quick": [any_machine]}})
        kept = self.send("post", f"{path}/dial", {**at, "value": 150})["figures"]["quick"]
        # a machine's own set begins with what holds for any, which stays
        own = {**any_machine, "machine": machine.name, "infill_speed": 150}
        self.assertEqual(kept, [any_machine, own])
        kept = self.send("post", f"{path}/dial", {**at, "value": None})["figures"]["quick"]
        self.assertEqual(kept[1]["infill_speed"], 0)
        for wrong, word in (
            ({"setting": "retraction_length", "value": 1}, "does not go with the dial"),
            ({"value": 5000}, "less than or equal to 1000"),
        ):
            refused = self.send("post", f"{path}/dial", {**at, **wrong}, 422)
            self.assertIn(word, refused["detail"])
        self.send("post", f"{path}/dial", {**at, "machine": 999999, "value": 1}, 404)
        # a machine that is called otherwise keeps its ends
        self.send("patch", f"machines/{machine.pk}", {"name": "Fulmar"})
        (_, own) = self.send("get", "materials")[0]["figures"]["quick"]
        self.assertEqual(own["machine"], "Fulmar")

    def test_what_does_not_suit_is_said_at_once(self):
        machine, material = Machine.objects.get(), Material.objects.get()
        ask = f"fits?nozzle={machine.nozzles.first().pk}&material={material.pk}"
        self.assertEqual(self.send("get", ask), [])
        self.send(
            "patch", f"materials/{material.pk}", {"figures": {"abrasive": True, "bed_temp": 130}}
        )
        found = self.send("get", ask)
        self.assertEqual([entry["severity"] for entry in found], ["stop", "look"])
        self.assertIn("needs a bed of 130 °C", found[0]["message"])
        self.send("get", "fits?nozzle=x&material=1", status=422)


class AtOnce(Workshop):
    def test_a_change_does_not_put_back_what_another_one_is_just_keeping(self):
        machine = Machine.objects.get()
        with ThreadPoolExecutor(1) as other, transaction.atomic():
            Machine.objects.filter(pk=machine.pk).update(held=True)
            answer = other.submit(self.patch_elsewhere, machine.pk, {"clears_itself": True})
            self.wait_for(self.somebody_waits)
        self.assertEqual(answer.result(30), 200)
        machine.refresh_from_db()
        self.assertEqual((machine.held, machine.clears_itself), (True, True))

    def patch_elsewhere(self, pk, body):
        try:
            return self.client.patch(f"/api/machines/{pk}", body, content_type=JSON).status_code
        finally:
            connection.close()

    def somebody_waits(self):
        with connection.cursor() as cursor:
            cursor.execute("select count(*) from pg_locks where not granted")
            return cursor.fetchone()[0] > 0

    def test_only_the_figures_named_are_changed(self):
        path = f"machines/{Machine.objects.get().pk}"
        self.send("patch", path, {"figures": {"size_x": 180}})
        found = self.send("patch", path, {"figures": {"size_z": 190}})
        self.assertEqual(found["figures"], {"size_x": 180, "size_y": 200, "size_z": 190})
        found = self.send("patch", path, {"figures": {"size_x": None}})
        self.assertEqual(found["figures"], {"size_y": 200, "size_z": 190})


class Files(Workshop):
    def test_out_and_in_again(self):
        self.send("patch", f"spools/{Spool.objects.get().pk}", {"tare": 200})
        out = self.client.get("/api/workshop/export").json()
        self.assertEqual([machine["name"] for machine in out["machines"]], ["Bench 200"])
        other = make_workshop("Elsewhere", "visitor")
        self.client = signed_in("visitor")
        out["machines"].append(
            {
                "name": "Second",
                "nozzles": [{"bore": 0.6, "flow": 30, "least_height": 0.12, "hard": True}],
            }
        )
        out["materials"][0]["spools"][0]["usable_mass"] = 444
        done = self.send("post", "workshop/import", out)["done"]
        self.assertIn("Second was added, with 1 nozzle", done)
        self.assertIn("PLA was changed, with 1 spool", done)
        self.assertTrue(other.machines.get(name="Second").nozzles.get().hard)
        spool = Spool.objects.get(material__workshop=other)
        self.assertEqual((spool.usable_mass, spool.tare), (444, 200))
        self.assertEqual(SpoolEntry.objects.get(spool=spool).note, "from a workshop file")
        again = self.client.get("/api/workshop/export").json()
        self.assertEqual(
            again["machines"][1]["nozzles"],
            [{**out["machines"][1]["nozzles"][0], "greatest_height": None}],
        )

    def test_all_of_it_or_nothing(self):
        good = {"name": "Fine", "nozzles": [{"bore": 0.4, "flow": 20, "least_height": 0.08}]}
        for bad, words in (
            (
                {
                    "machines": [
                        good,
                        {"name": "Bad", "figures": {"size_x": -1}, "nozzles": good["nozzles"]},
                    ]
                },
                "Bad: machine.size_x",
            ),
            ({"machines": [good, {"name": "Bare", "nozzles": []}]}, "machines.1.nozzles"),
            ({"format": "something else"}, "format"),
            ({"machines": [good], "stuff": 1}, "stuff"),
            ({"version": 9}, "version"),
            ([], "workshop file"),
            (
                {"machines": [good], "materials": [{"name": "X", "figures": {"density": 99}}]},
                "X: material.density",
            ),
            ({"machines": [{**good, "nozzles": good["nozzles"] * 2}]}, "same bore"),
        ):
            self.assertIn(words, self.send("post", "workshop/import", bad, 422)["detail"])
        self.assertEqual(Machine.objects.count(), 1)
        self.assertIn("machines", self.send("get", "workshop/schema")["properties"])
