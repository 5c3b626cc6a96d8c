"""One dial from precise to quick, and its ends kept with material and machine."""

import re

from playwright.sync_api import expect

from service.plans.models import Plan
from service.workshop.models import Material
from tests.browser.base import BrowserCase
from tests.core.shapes import cube, stl


class Dial(BrowserCase):
    def test_dial_and_its_ends(self):
        page = self.page
        self.plan(stl(cube(20)), "cube.stl")
        page.get_by_role("button", name="set up", exact=True).click()
        page.get_by_role("tab", name="Pace").click()
        kept = self.saved(lambda: page.get_by_role("button", name="one dial").click())
        self.assertEqual(kept["pace"]["dial"], 50)
        slow = Plan.objects.get().latest.report["time_s"]["total"]
        dial = page.get_by_role("slider", name="Dial from precise to quick")
        dial.focus()
        kept = self.saved(lambda: dial.press("End"))
        self.assertEqual(kept["pace"]["dial"], 100)
        self.assertLess(Plan.objects.get().latest.report["time_s"]["total"], slow)
        expect(page.locator("[data-dial]")).to_contain_text(
            re.compile(r"−.* since it was taken up: .*wall −")
        )
        end = page.get_by_label("outer wall at the quick end")
        end.fill("40")
        self.saved(lambda: end.press("Enter"), "settings")
        machine = Plan.objects.get().latest.nozzle.machine.name
        (own,) = Material.objects.get(pk=Plan.objects.get().latest.material_id).figures["quick"]
        self.assertEqual((own["machine"], own["outer_wall_speed"]), (machine, 40))
        row = page.locator("[data-row='outer wall']")
        expect(row.get_by_label("Speed of outer wall")).to_have_value("40")
