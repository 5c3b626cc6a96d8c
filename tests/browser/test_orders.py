"""Orders in the browser: hours of the workshop, orders from a table, a quote that is promised, what
one more machine would bring, a bed that is made with fewer pieces and committed, results that
leave pieces to be printed, and an order that is closed.
"""

import re

from django.utils import timezone
from playwright.sync_api import expect

from service.jobs.models import Job
from service.orders.models import Order, OrderBed
from service.workshop.models import Spool
from tests.browser.base import BrowserCase
from tests.core.shapes import knob, stl

TABLE = """order,customer,due,part,pieces
A-17,Harbour office,2090-01-15,knob,8
B-2,Ridge station,,unknown,3
"""


class Orders(BrowserCase):
    def test_from_a_table_to_good_pieces(self):
        Spool.objects.update(usable_mass=5000)
        self.plan(stl(knob()), "knob.stl")
        self.say_hours()
        self.read_a_table()
        self.quote_and_promise()
        self.try_another_machine()
        self.make_a_bed_with_fewer_pieces()
        self.tell_results()
        self.close_it()

    def say_hours(self):
        page = self.page
        page.get_by_role("link", name="Workshop").click()
        page.get_by_role("button", name="Hours and quotes").click()
        page.get_by_role("button", name="Add hours").click()
        until = page.get_by_label("Until, entry 1")
        until.fill("25:00")
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("25:00")
        until.fill("24:00")
        page.keyboard.press("Enter")
        expect(until).to_have_value("24:00")
        for day in ("Sat", "Sun"):
            page.get_by_role("button", name=day, exact=True).click()
            expect(page.get_by_role("button", name=day, exact=True)).to_have_attribute(
                "aria-pressed", "true"
            )
        page.get_by_label("Hour of work").fill("30")
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_have_count(0)

    def read_a_table(self):
        page = self.page
        page.get_by_role("link", name="Orders").click()
        expect(page.get_by_text("No open orders.")).to_be_visible()
        page.get_by_role("button", name="From a table").click()
        page.get_by_label("Table", exact=True).fill(TABLE)
        page.get_by_role("button", name="Take these orders").click()
        expect(page.get_by_role("status")).to_contain_text("1 order taken; these rows are wrong")
        expect(page.get_by_text("row 3: part: there is no part 'unknown'")).to_be_visible()
        page.get_by_role("button", name="Close", exact=True).click()
        row = page.get_by_role("row").filter(has_text="Harbour office, A-17")
        expect(row).to_contain_text("0 of 8 good")
        expect(row).to_contain_text("to spare")
        expect(row).to_contain_text("on time with 100 %")
        expect(page.get_by_text("Searched for")).to_be_visible()

    def quote_and_promise(self):
        page = self.page
        page.get_by_role("button", name="Quote").click()
        sheet = page.get_by_role("dialog")
        expect(sheet).to_contain_text("8 × knob")
        expect(sheet.get_by_role("row").filter(has_text="Margin")).to_be_visible()
        sheet.get_by_role("button", name="Keep this as promised").click()
        expect(sheet.get_by_role("status")).to_contain_text("Promised to the customer")
        order = Order.objects.get()
        self.assertIsNotNone(order.promised)
        expect(sheet).to_contain_text(f"Promised to the customer: {order.quote['total']} €")
        page.keyboard.press("Escape")

    def try_another_machine(self):
        page = self.page
        what_if = page.get_by_role("region", name="What if")
        what_if.get_by_label("One more machine like").select_option(label="Bench 200")
        what_if.get_by_role("button", name="Try it").click()
        expect(what_if.get_by_role("status")).to_contain_text("Harbour office")

    def make_a_bed_with_fewer_pieces(self):
        page = self.page
        clock = page.get_by_role("region", name="Machines along the clock")
        clock.get_by_role("button", name=re.compile(r"^8 × knob on Bench 200")).click()
        beds = page.get_by_role("region", name="Next beds")
        beds.get_by_label("Pieces on this bed").fill("5")
        page.keyboard.press("Enter")
        beds.get_by_role("button", name="Make this bed").click()
        expect(page).to_have_url(re.compile(r"/beds/\d+$"))
        expect(page.locator("header [data-state=done]")).to_be_visible()
        expect(page.locator("[data-placing]")).to_have_count(5)
        made = OrderBed.objects.get()
        # the time between those of 4 and of 8 pieces
        self.assertAlmostEqual(made.bed.latest.report["total_s"], made.seconds, delta=5)
        self.assertEqual(Job.objects.count(), 0)
        page.get_by_role("link", name="Orders").click()
        row = page.get_by_role("row").filter(has_text="Harbour office, A-17")
        expect(row).to_contain_text("5 on beds to be committed · 3 to be printed")

    def tell_results(self):
        page = self.page
        page.get_by_role("link", name="5 × knob").click()
        page.get_by_role("button", name="Commit …").click()
        sheet = page.get_by_role("dialog")
        expect(sheet.locator("[data-clock]")).to_be_visible()
        for box in sheet.get_by_role("checkbox").all():
            box.check()
        sheet.get_by_role("button", name="Commit job").click()
        expect(page.get_by_role("heading", name="Jobs")).to_be_visible()
        job = Job.objects.get()
        copies = [
            {**copy, "state": "good" if copy["number"] < 5 else "failed"} for copy in job.copies
        ]
        Job.objects.update(state="done", ended=timezone.now(), copies=copies)
        page.goto(f"{self.live_server_url}/orders")
        row = page.get_by_role("row").filter(has_text="Harbour office, A-17")
        expect(row).to_contain_text("4 of 8 good")
        expect(row).to_contain_text("1 not good · 4 to be printed")

    def close_it(self):
        page = self.page
        page.get_by_role("button", name="Close", exact=True).click()
        sheet = page.get_by_role("dialog")
        expect(sheet).to_contain_text("Not all of its pieces are known to be good")
        sheet.get_by_role("button", name="Delivered").click()
        expect(page.get_by_text("No open orders.")).to_be_visible()
        page.goto(f"{self.live_server_url}/orders/closed")
        expect(page.get_by_role("row").filter(has_text="Harbour office")).to_contain_text(
            "4 of 8 good"
        )
