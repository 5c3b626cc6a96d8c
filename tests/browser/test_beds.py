"""A bed in the browser: made from a plan, filled, one placing put into another and cured, laid in
turn, committed as one job, and what came of its copies.
"""

import re

from django.core.files.storage import default_storage
from django.db import connection
from playwright.sync_api import expect

from service.beds.models import Bed
from service.jobs.models import Job
from service.workshop.models import Machine
from tests.browser.base import BrowserCase
from tests.core.shapes import knob, stl
from tests.standin.process import Background, PrinterProcess


class Beds(BrowserCase):
    def laid(self):
        """Wait until the newest version is exact; its report."""
        expect(self.page.locator("header [data-state=done]")).to_be_visible()
        expect(self.page.get_by_role("button", name="Stop")).to_have_count(0)
        version = Bed.objects.get().latest
        self.assertEqual(version.state, "done")
        return version.report

    def typed(self, what, value):
        self.page.get_by_label(what, exact=True).fill(value)
        self.page.keyboard.press("Enter")

    def test_from_a_plan_to_the_outcome_of_every_copy(self):
        page = self.page
        machine = Machine.objects.get()
        labels = {"object_labels": "M486", "extrusion": "relative"}
        machine.figures = {**machine.figures, **labels}
        machine.save()
        self.plan(stl(knob()), "knob.stl")
        page.get_by_role("button", name="Put on a bed").click()
        expect(page).to_have_url(re.compile(r"/beds/\d+$"))
        self.laid()
        self.fill_and_take_back()
        self.meet_a_clash_and_cure_it()
        self.lay_in_turn()
        self.commit_and_tell()

    def fill_and_take_back(self):
        page, placings = self.page, self.page.locator("[data-placing]")
        page.get_by_role("button", name="Fill the bed").click()
        expect(placings.nth(60)).to_be_visible()
        self.assertEqual(len(self.laid()["placings"]), placings.count())
        page.get_by_role("button", name="Undo").click()
        expect(placings).to_have_count(1)
        self.laid()

    def meet_a_clash_and_cure_it(self):
        page = self.page
        page.get_by_role("button", name="Add one").click()
        expect(page.locator("[data-placing]")).to_have_count(2)
        self.laid()
        # by keyboard: both lie on each other, so the second is moved aside
        stop = page.get_by_role("tab", name=re.compile("Findings 1.*■"))
        expect(stop).to_be_visible()
        expect(page.get_by_role("button", name="Commit")).to_be_disabled()
        stop.click()
        expect(page.locator("[data-finding=too-near]")).to_contain_text("lie on each other")
        page.get_by_role("tab", name="Placings").click()
        second = page.locator("[data-placing='2']")
        second.focus()
        page.keyboard.press("ArrowRight")
        expect(page.get_by_label("x of placing 2", exact=True)).to_have_value("1")
        self.laid()
        # with the mouse: dragged to where nothing is near
        box = second.bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 40, y, steps=4)
        page.mouse.move(x + 190, y + 3, steps=6)
        page.mouse.up()
        expect(page.get_by_role("tab", name="Findings", exact=True)).to_be_visible()
        self.assertEqual(self.laid()["findings"], [])
        self.assertGreater(Bed.objects.get().latest.spec["placings"][1]["x"], 40)

    def lay_in_turn(self):
        page = self.page
        self.typed("x of placing 2", "75")
        self.laid()
        page.get_by_role("tab", name="Ways").click()
        ways = page.get_by_role("table", name="Ways to lay the bed")
        for way in ("together", "in-turn", "one-by-one"):
            expect(ways.locator(f"[data-way={way}]")).to_be_visible()
        ways.locator("[data-way=in-turn]").get_by_role("button", name="take it").click()
        expect(ways.locator("[data-way=in-turn]")).to_contain_text("as it is now")
        report = self.laid()
        self.assertEqual(report["ways"][0]["way"], "in-turn")
        bars = page.locator("[data-course]").first.get_by_title(re.compile("copy 1: .* to "))
        expect(bars).to_have_count(1)

    def commit_and_tell(self):
        page = self.page
        printer = PrinterProcess(factor=0)
        self.addCleanup(printer.stop)
        machine = Machine.objects.get()
        machine.connection = {"kind": "printer", "address": printer.address}
        machine.clears_itself = True
        machine.save()
        page.get_by_role("button", name="Commit …").click()
        dialog = page.get_by_role("dialog")
        expect(dialog.locator("[data-clock]")).to_be_visible()
        expect(dialog).to_contain_text("2 placings")
        for box in dialog.get_by_role("checkbox").all():
            box.check()
        dialog.get_by_role("button", name="Commit job").click()
        expect(page.get_by_role("heading", name="Jobs")).to_be_visible()
        Background(["manage.py", "mind"], connection, default_storage, self)
        self.give_one_up(printer)
        ended = page.locator("[data-copies]")
        expect(ended).to_be_visible()
        ended.locator("summary").click()
        job = Job.objects.get()
        self.assertEqual(job.state, "done")
        expect(page.get_by_label(f"Copy 2 of job {job.number}", exact=True)).to_have_value(
            "given-up"
        )
        page.get_by_label(f"Copy 1 of job {job.number}", exact=True).select_option("failed")
        expect(page.get_by_label(f"Copy 1 of job {job.number}", exact=True)).to_have_value("failed")
        job.refresh_from_db()
        self.assertEqual([copy["state"] for copy in job.copies], ["failed", "given-up"])
        # what was not laid was not taken off the spool
        self.assertLess(job.booked_mm, 0.6 * job.figures["length_mm"])

    def give_one_up(self, printer):
        """The second copy, while the machine heats up."""
        page = self.page
        running = page.locator("[data-give-up]")
        expect(running).to_be_visible()
        running.locator("summary").click()
        page.once("dialog", lambda dialog: dialog.accept())
        running.get_by_role("button", name=re.compile("Give up copy 2 of job")).click()
        expect(running).to_contain_text("given up")
        printer.ask("POST", "/factor", {"factor": 3e4})

    def test_a_place_on_the_plate_is_kept_free_by_drawing_it(self):
        page = self.page
        self.sign_in()
        page.get_by_role("link", name="Workshop", exact=True).click()
        plate = page.get_by_role("img", name="The plate from above")
        expect(plate).to_be_visible()
        box = plate.bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        page.mouse.move(x + 20, y + 20)
        page.mouse.down()
        page.mouse.move(x + 50, y + 45, steps=4)
        expect(page.get_by_text(re.compile(r"^\d+ × \d+ mm at x "))).to_be_visible()
        page.mouse.up()
        # it stands in the figures below, where it is typed and removed
        expect(page.get_by_label("Keep-out places 1, wide")).to_be_visible()
        expect(plate).to_contain_text("Place 1")
        (place,) = Machine.objects.get().figures["keep_out"]
        self.assertGreater(place["x"], 0)
        self.assertLess(place["y"], 0)
        page.get_by_role("button", name="Remove Keep-out places 1").click()
        expect(plate).not_to_contain_text("Place 1")
