"""Orders over the API: taken, counted, scheduled, released as beds, quoted, closed."""

import csv
import io
import zipfile
from datetime import datetime, timedelta
from decimal import Decimal

from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from service.beds.models import Bed
from service.jobs.models import Job
from service.orders.models import Order, OrderBed, PlateTimes, ShopSchedule
from service.orders.tasks import keep_orders
from service.workshop.models import Machine, Spool
from tests.service.base import make_workshop, plan_body, signed_in, upload, work
from tests.service.cubes import Cubes

OFFICE = {"hours": [{"days": [0, 1, 2, 3, 4, 5, 6], "begin": "00:00", "end": "23:00"}]}


class Ordered(Cubes):
    """A workshop with one exact plan of a cube, and what is done with orders of it."""

    def order(self, pieces=6, **said):
        body = {"lines": [{"part": self.part, "pieces": pieces}], **said}
        made = self.send("POST", "/api/orders", body, 201)
        work()
        return self.send("GET", f"/api/orders/{made['id']}")

    def line(self, order):
        return self.send("GET", f"/api/orders/{order['id']}")["lines"][0]

    def schedule(self):
        return self.send("GET", "/api/schedule")

    def release(self, slot, status=201):
        body = {name: slot[name] for name in ("line", "plan", "pieces", "spool", "begin")}
        found = self.send("POST", "/api/schedule/release", body, status)
        work()
        return found

    def commit(self, bed):
        """The job of a bed, committed as a person would."""
        version = self.send("GET", f"/api/beds/{bed}")["version"]["id"]
        review = self.send("GET", f"/api/bed-versions/{version}/review")
        ticks = [check["key"] for check in review["checks"] if check["level"] == "look"]
        made = self.send("POST", f"/api/bed-versions/{version}/commit", {"ticked": ticks}, 201)
        return made[0]["id"] if isinstance(made, list) else made["id"]

    def told(self, job, states):
        """End a job, with what came of its copies."""
        Job.objects.filter(pk=job).update(state=Job.State.DONE, ended=timezone.now())
        said = [{"number": k + 1, "state": state} for k, state in enumerate(states) if state]
        if said:
            self.send("POST", f"/api/jobs/{job}/copies", {"copies": said})


class Orders(Ordered):
    def test_taken_scheduled_and_promised(self):
        due = (timezone.now() + timedelta(days=3)).isoformat()
        order = self.order(6, customer="Lighthouse", reference="A-17", due=due)
        self.assertEqual(order["title"], "Lighthouse, A-17")
        (line,) = order["lines"]
        (plan,) = line["plans"]
        self.assertEqual((line["wanted"], line["left"], line["good"]), (6, 6, 0))
        self.assertEqual((plan["plan"], plan["why"]), (self.plan, ""))
        self.assertGreaterEqual(plan["holds"], 49)
        found = self.schedule()
        self.assertTrue(found["searched"])
        (slot,) = found["beds"]
        self.assertEqual((slot["pieces"], slot["order"]), (6, order["id"]))
        (outlook,) = found["orders"]
        self.assertLess(outlook["late_s"], 0)
        self.assertEqual(outlook["on_time"], 1.0)
        self.assertGreaterEqual(outlook["promise"], outlook["likely"])
        (needed,) = found["needed"]
        self.assertAlmostEqual(needed["needed_g"], slot["grams"], delta=0.2 * slot["grams"])

    def test_looking_starts_nothing_and_asks_as_often_for_many(self):
        self.order(3)
        with CaptureQueriesContext(connection) as one:
            self.schedule()
        self.send("POST", "/api/orders/import", {"table": "part,pieces\n" + "cube,4\n" * 6})
        work()
        with CaptureQueriesContext(connection) as many:
            found = self.schedule()
        self.assertEqual(len(found["orders"]), 7)
        self.assertEqual(len(one), len(many))
        before = ProcrastinateJob.objects.count()
        self.send("GET", "/api/orders")
        self.schedule()
        self.assertEqual(ProcrastinateJob.objects.count(), before)

    def test_a_bed_of_the_schedule_is_made_committed_and_its_good_pieces_count(self):
        order = self.order(6)
        (slot,) = self.schedule()["beds"]
        bed = self.release(slot)["bed"]
        line = self.line(order)
        self.assertEqual((line["on_beds"], line["left"]), (6, 0))
        found = self.schedule()
        self.assertEqual(found["beds"], [])
        (busy,) = found["machines"][0]["busy"]
        self.assertEqual((busy["kind"], busy["id"], busy["order"]), ("bed", bed, order["id"]))
        report = self.send("GET", f"/api/beds/{bed}")["version"]["report"]
        ends = [datetime.fromisoformat(busy[name]) for name in ("begin", "end")]
        self.assertAlmostEqual((ends[1] - ends[0]).total_seconds(), report["total_s"], delta=0.01)
        self.assertEqual(Job.objects.count(), 0, "nothing is sent by itself")
        job = self.commit(bed)
        line = self.line(order)
        self.assertEqual((line["on_beds"], line["under_way"], line["left"]), (0, 6, 0))
        self.told(job, ["good", "good", "good", "failed", "flaws", ""])
        line = self.line(order)
        self.assertEqual([line[name] for name in ("good", "bad", "printed", "left")], [3, 2, 1, 2])
        keep_orders(0)
        work()
        (again,) = self.schedule()["beds"]
        # two are missing, and with so many failures one more is likely to be
        self.assertGreaterEqual(again["pieces"], 2)

    def test_a_failed_or_cancelled_job_gives_its_pieces_back(self):
        order = self.order(4)
        (slot,) = self.schedule()["beds"]
        job = self.commit(self.release(slot)["bed"])
        Job.objects.filter(pk=job).update(state=Job.State.FAILED, ended=timezone.now())
        line = self.line(order)
        self.assertEqual((line["bad"], line["left"]), (4, 4))

    def test_kits_multiply_the_pieces_and_closed_orders_are_not_scheduled(self):
        order = self.order(2, kits=5)
        self.assertEqual(order["lines"][0]["wanted"], 10)
        self.send("POST", f"/api/orders/{order['id']}/close", {"how": "cancelled"})
        self.assertEqual(self.schedule()["beds"], [])
        self.assertEqual(self.send("GET", "/api/orders"), [])
        (closed,) = self.send("GET", "/api/orders?closed=true")
        self.assertEqual(closed["closed"], "cancelled")
        self.send("PATCH", f"/api/orders/{order['id']}", {"kits": 2}, 422)
        self.send("POST", f"/api/orders/{order['id']}/close", {"how": "open"})
        self.assertEqual(len(self.send("GET", "/api/orders")), 1)

    def test_wrong_orders_are_refused_with_a_reason(self):
        late = (timezone.now() - timedelta(hours=1)).isoformat()
        part = self.part
        for body, words in (
            ({}, "at least one part"),
            ({"lines": [{"part": part, "pieces": 1}], "due": late}, "passed already"),
            ({"lines": [{"part": part + 9, "pieces": 1}]}, "no part"),
            ({"lines": [{"part": part, "pieces": 9000}], "kits": 2}, "10000"),
            ({"lines": [{"part": part, "pieces": 1}] * 2}, "listed twice"),
            ({"lines": [{"part": part, "pieces": 1, "plans": [self.plan + 9]}]}, "no plan"),
        ):
            self.assertIn(words, self.send("POST", "/api/orders", body, 422)["detail"])
        self.assertEqual(Order.objects.count(), 0)

    def test_more_than_can_be_scheduled_is_said_and_can_be_put_right(self):
        row = "cube,10000\n"
        found = self.send("POST", "/api/orders/import", {"table": "part,pieces\n" + 3 * row})
        work()
        self.assertIn("pieces", self.send("GET", "/api/schedule", status=422)["detail"])
        self.assertEqual(len(self.send("GET", "/api/orders")), 3)
        for key in found["orders"][1:]:
            self.send("DELETE", f"/api/orders/{key}", status=204)
        self.assertTrue(self.schedule()["beds"])

    def test_an_order_without_an_exact_plan_waits_for_one(self):
        other = upload(self.client, name="peg.stl").json()["id"]
        work()
        made = self.send("POST", "/api/orders", {"lines": [{"part": other, "pieces": 2}]}, 201)
        (outlook,) = self.schedule()["orders"]
        self.assertIn("no plan", outlook["lacking"][0])
        self.send("POST", "/api/plans", plan_body(other, self.workshop), 201)
        work()
        keep_orders(0)
        work()
        self.assertEqual(len(self.schedule()["beds"]), 1)
        (line,) = self.send("GET", f"/api/orders/{made['id']}")["lines"]
        self.assertEqual(line["plans"][0]["why"], "")

    def test_a_newer_version_of_a_plan_is_timed_anew(self):
        self.order(2)
        before = PlateTimes.objects.get()
        body = {"settings": {"body": {"infill_density": 40, "walls": 3}}}
        self.send("PATCH", f"/api/plans/{self.plan}", body)
        work()
        keep_orders(0)
        work()
        self.assertEqual(PlateTimes.objects.count(), 2)
        newer = PlateTimes.objects.exclude(pk=before.pk).get()
        self.assertGreater(newer.seconds[0], before.seconds[0])
        (slot,) = self.schedule()["beds"]
        self.assertAlmostEqual(slot["seconds"], newer.seconds[1], delta=1)

    def test_spools_that_are_too_short_and_nozzles_that_are_not_fitted_are_said(self):
        order = self.order(2)
        machine = self.workshop.machines.get()
        Spool.objects.update(usable_mass=0.01)
        (outlook,) = self.schedule()["orders"]
        self.assertIn("no spool of PLA", outlook["lacking"][0])
        Spool.objects.update(usable_mass=500)
        machine.fitted = machine.nozzles.get(bore=0.8)
        machine.save()
        self.assertIn("0.8 mm is fitted", self.line(order)["plans"][0]["why"])
        Machine.objects.update(fitted=None, held=True)
        self.assertIn("held", self.line(order)["plans"][0]["why"])
        self.assertEqual(self.schedule()["machines"][0]["why"], "the queue of Bench 200 is held")

    def test_hours_move_beds_and_clock_times_of_the_board(self):
        now = timezone.now()
        quiet = (now + timedelta(hours=2)).strftime("%H:00")
        day = [(now.weekday() + k) % 7 for k in (0, 1)]
        # somebody is there for an hour only, some hours from now
        hours = [{"days": sorted(day), "begin": quiet, "end": "24:00"}]
        self.send("PATCH", "/api/workshop", {"house": {"week": {"hours": hours}}})
        self.order(1)
        (slot,) = self.schedule()["beds"]
        self.assertGreater(datetime.fromisoformat(slot["off"]), datetime.fromisoformat(slot["end"]))
        # what is not named stays
        self.send("PATCH", "/api/workshop", {"house": {"rates": {"margin": 40}}})
        self.send("PATCH", "/api/workshop", {"house": {"week": {"zone": "Europe/Oslo"}}})
        kept = self.send("PATCH", "/api/workshop", {"house": {"rates": {"rush": 10}}})["house"]
        self.assertEqual(kept["week"]["hours"], hours)
        self.assertEqual([kept["rates"][key] for key in ("margin", "rush")], [40, 10])
        wrong = {"week": {"hours": [{"begin": "25:00"}]}}
        self.send("PATCH", "/api/workshop", {"house": wrong}, 422)

    def test_a_machine_that_clears_itself_takes_its_time_after_each_bed(self):
        Machine.objects.update(clears_itself=True, bed_change_min=10)
        self.order(1)
        (slot,) = self.schedule()["beds"]
        took = datetime.fromisoformat(slot["end"]) - datetime.fromisoformat(slot["begin"])
        alone = PlateTimes.objects.get().seconds[0]
        self.assertAlmostEqual(took.total_seconds(), alone + 600, delta=0.01)
        # the next bed begins once the one that was made is off
        self.release(slot)
        self.order(1)
        (after,) = self.schedule()["beds"]
        self.assertFalse(after["cleared"])
        gap = datetime.fromisoformat(after["begin"]) - timezone.now()
        self.assertGreater(gap.total_seconds(), alone + 540)

    def test_a_plan_of_which_no_piece_fits_is_said_once_and_tried_again_when_asked(self):
        Machine.objects.update(figures={"size_x": 15, "size_y": 15})
        order = self.order(2)
        self.assertIn("not one copy fits", self.line(order)["plans"][0]["why"])
        keep_orders(0)
        self.assertEqual(PlateTimes.objects.get().state, "failed", "it is not tried by itself")
        (outlook,) = self.schedule()["orders"]
        self.assertEqual(outlook["state"], "impossible")
        self.send("POST", "/api/schedule")
        self.assertEqual(PlateTimes.objects.get().state, "queued")
        Machine.objects.update(figures={"size_x": 200, "size_y": 200})
        keep_orders(0)
        work()
        self.assertEqual(self.line(order)["plans"][0]["why"], "")

    def test_a_spool_that_is_filled_up_changes_the_schedule(self):
        Spool.objects.update(usable_mass=0.01)
        self.order(2)
        self.assertEqual(self.schedule()["beds"], [])
        self.assertTrue(self.schedule()["searched"])
        Spool.objects.update(usable_mass=500)
        self.assertEqual(len(self.schedule()["beds"]), 1)

    def test_a_bed_that_is_wanted_twice_takes_its_machine_twice(self):
        order = self.order(6)
        (slot,) = self.schedule()["beds"]
        bed = self.release(slot)["bed"]
        spec = self.send("GET", f"/api/beds/{bed}")["version"]["spec"]
        self.send("PATCH", f"/api/beds/{bed}", {"spec": {**spec, "times": 2}})
        work()
        self.assertEqual(self.line(order)["on_beds"], 12)
        (busy,) = self.schedule()["machines"][0]["busy"]
        took = datetime.fromisoformat(busy["end"]) - datetime.fromisoformat(busy["begin"])
        report = self.send("GET", f"/api/beds/{bed}")["version"]["report"]
        self.assertAlmostEqual(took.total_seconds(), 2 * report["total_s"], delta=0.1)
        self.commit(bed)
        line = self.line(order)
        self.assertEqual((line["under_way"], line["on_beds"]), (6, 6))

    def test_what_is_on_the_screen_stays_while_nothing_changes(self):
        self.order(2)
        ShopSchedule.objects.all().delete()
        first, again = self.schedule(), self.schedule()
        self.assertFalse(first["searched"])
        self.assertEqual(first["beds"], again["beds"])

    def test_parts_and_plans_of_orders_stay(self):
        order = self.order(2)
        self.assertIn("order", self.send("DELETE", f"/api/plans/{self.plan}", status=409)["detail"])
        self.assertIn("order", self.send("DELETE", f"/api/parts/{self.part}", status=409)["detail"])
        self.send("DELETE", f"/api/orders/{order['id']}", status=204)
        self.send("DELETE", f"/api/plans/{self.plan}", status=204)

    def test_other_workshops_see_and_change_nothing(self):
        order = self.order(2)
        (slot,) = self.schedule()["beds"]
        make_workshop("Other", "other")
        mine, self.client = self.client, signed_in("other")
        for path in ("", "/quote"):
            self.send("GET", f"/api/orders/{order['id']}{path}", status=404)
        body = {name: slot[name] for name in ("line", "plan", "pieces", "spool", "begin")}
        self.send("POST", "/api/schedule/release", body, 404)
        self.assertEqual(self.schedule()["orders"], [])
        self.client = mine

    def test_a_search_can_be_cancelled_and_is_not_begun_again_by_itself(self):
        self.order(2)
        ShopSchedule.objects.all().delete()
        self.assertEqual(self.send("POST", "/api/schedule")["searching"]["state"], "queued")
        self.assertIsNone(self.send("DELETE", "/api/schedule")["searching"])
        work()
        self.assertFalse(self.schedule()["searched"])
        self.assertTrue(self.schedule()["beds"], "the first answer is there all the same")
        keep_orders(0)
        self.assertIsNone(self.schedule()["searching"])
        self.order(3)
        self.assertTrue(self.schedule()["searched"], "something has changed")


class Quotes(Ordered):
    def test_a_quote_adds_up_and_is_kept_with_a_promise(self):
        self.send("PATCH", "/api/workshop", {"labour_rate": 30})
        order = self.order(12, urgency=3)
        quote = self.send("GET", f"/api/orders/{order['id']}/quote")
        (part,) = quote["parts"]
        amounts = [Decimal(term["amount"]) for term in [*part["terms"], *quote["terms"]]]
        self.assertEqual(sum(amounts), Decimal(quote["total"]))
        names = {term["name"] for term in [*part["terms"], *quote["terms"]]}
        self.assertLessEqual({"Machine", "Filament", "Finishing", "Margin", "Rush"}, names)
        self.assertEqual([row["pieces"] for row in part["by_number"]], [1, 10, 50, 200])
        promised = (timezone.now() + timedelta(days=2)).isoformat()
        kept = self.send("POST", f"/api/orders/{order['id']}/promise", {"promised": promised})
        self.assertEqual(kept["price"], quote["total"])
        self.assertEqual(datetime.fromisoformat(kept["promised"]), datetime.fromisoformat(promised))

    def test_results_teach_what_finishing_takes(self):
        order = self.order(6)
        (slot,) = self.schedule()["beds"]
        job = self.commit(self.release(slot)["bed"])
        self.told(job, ["good"] * 6)
        Job.objects.filter(pk=job).update(finishing_min=30)
        quote = self.send("GET", f"/api/orders/{order['id']}/quote")
        (finishing,) = [t for t in quote["parts"][0]["terms"] if t["name"] == "Finishing"]
        self.assertIn("6 × 5 min, from results", finishing["words"])


class Imports(Ordered):
    def read(self, table, status=200):
        return self.send("POST", "/api/orders/import", {"table": table}, status)

    def test_rows_of_one_order_are_one_and_wrong_rows_are_named(self):
        upload(self.client, name="peg.stl")
        work()
        found = self.read(
            "Order;Customer;Part;Pieces;Due;Urgency;Plans\n"
            "K-1;Lighthouse;cube;4;2090-12-24;urgent;1\n"
            "K-1;Lighthouse;peg;2;2090-12-24;urgent;\n"
            "K-2;;cone;2;;;\n"
            "K-3;;cube;many;;;\n"
            "K-4;;cube;2;2001-01-01;;\n"
            "K-5;;cube;2;tomorrow;;\n"
            "K-6;;cube;2;;sometime;\n"
            "K-7;;cube;2;;;88\n"
            "\n"
        )
        self.assertEqual(len(found["orders"]), 1)
        order = Order.objects.get()
        self.assertEqual((order.customer, order.urgency, order.lines.count()), ("Lighthouse", 3, 2))
        self.assertEqual([row["row"] for row in found["wrong"]], [4, 5, 6, 7, 8, 9])
        words = " ".join(row["words"] for row in found["wrong"])
        for said in ("cone", "many", "passed", "tomorrow", "sometime", "no plan 88"):
            self.assertIn(said, words)

    def test_an_order_with_a_wrong_row_is_not_taken_in_part(self):
        found = self.read(
            "order,due,part,pieces\n"
            "K-1,2090-12-24,cube,4\n"
            "K-1,2090-12-24,cone,4\n"
            "K-2,2090-12-24,cube,4\n"
            "K-2,,cube,3\n"
            "K-3,2090-12-24,cube,1\n"
            "K-3,2090-12-25,peg,1\n"
            "K-4,2090-12-24,cube,1\n"
        )
        self.assertEqual([order.reference for order in Order.objects.all()], ["K-4"])
        said = {row["row"]: row["words"] for row in found["wrong"]}
        self.assertEqual(sorted(said), [3, 4, 7])
        self.assertIn("no part 'cone'", said[3])
        self.assertIn("listed twice", said[4])
        self.assertIn("row 6 is of the same order and says something else", said[7])

    def test_what_is_no_table_is_refused(self):
        for table, words in (
            ("", "empty"),
            ("part\ncube", "no column 'pieces'"),
            ("part,pieces,colour\ncube,1,red", "'colour'"),
            ("part,pieces,part\ncube,1,cube", "twice"),
            ('part,pieces\n"cube,1', "no table"),
        ):
            status = 400 if not table else 422
            self.assertIn(words, self.read(table, status)["detail"].replace("blank", "empty"))
        self.read("part,pieces\ncube,1\x00", 400)
        self.assertEqual(Order.objects.count(), 0)
        self.assertEqual(OrderBed.objects.count() + Bed.objects.count(), 0)


class WhatIfs(Ordered):
    def test_another_machine_brings_something(self):
        Spool.objects.update(usable_mass=5000)
        self.order(400)
        machine = self.workshop.machines.get().pk
        found = self.send("POST", "/api/schedule/what-if", {"like": machine})
        self.assertIn("earlier", found["words"])
        (row,) = found["orders"]
        self.assertLess(row["then"], row["now"])
        self.send("POST", "/api/schedule/what-if", {}, 422)
        self.send("POST", "/api/schedule/what-if", {"until": "22:00"}, 422)
        self.send("PATCH", "/api/workshop", {"house": {"week": OFFICE}})
        wrong = self.send("POST", "/api/schedule/what-if", {"until": "99:99"}, 422)
        self.assertIn("99:99", wrong["detail"])

    def test_another_spool_makes_more_pieces_possible(self):
        Spool.objects.update(usable_mass=3)
        self.order(40)
        material = self.workshop.materials.get().pk
        body = {"spool_g": 800, "material": material}
        found = self.send("POST", "/api/schedule/what-if", body)
        self.assertIn("more pieces could be printed", found["words"])


class Archived(Ordered):
    def test_orders_are_in_the_archive(self):
        self.order(5, customer="Lighthouse", kits=2)
        answer = self.client.get("/api/workshop/archive")
        with zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content))) as found:
            (row,) = csv.DictReader(io.StringIO(found.read("orders.csv").decode()))
        self.assertEqual(
            (row["customer"], row["part"], row["pieces"]), ("Lighthouse", "cube", "10")
        )
