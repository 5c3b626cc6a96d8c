"""Layer heights shaped by a hand over the lanes, and calm, with what both cost."""

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserCase
from tests.core.shapes import knob, stl


class Strokes(BrowserCase):
    def test_a_stroke_shapes_the_heights_and_says_what_it_costs(self):
        page = self.page
        self.plan(stl(knob()), "knob.stl")
        page.get_by_role("button", name="stroke", exact=True).click()
        brush = page.get_by_role("group", name="Brush")
        expect(brush).to_contain_text("Brush over the lanes")
        box = page.get_by_role("slider", name="Cursor along the height").bounding_box()
        before = brush.get_by_label("Width of the stroke").input_value()
        page.mouse.move(box["x"] + 500, box["y"] + 90)
        page.mouse.wheel(0, 100)
        expect(brush.get_by_label("Width of the stroke")).not_to_have_value(before)
        page.mouse.down()
        page.mouse.move(box["x"] + 620, box["y"] + 90, steps=4)
        # ≈ while it is drawn
        expect(page.locator("dl[data-state=quick]")).to_be_visible()
        expect(page.locator("[data-came]")).to_contain_text(re.compile(r"\+.*min|\+.*s"))
        (stroke,) = self.saved(page.mouse.up, "strokes")["surface"]["strokes"]
        self.assertEqual((stroke["kind"], stroke["by"]), ("change", -30))
        self.assertGreater(stroke["to_mm"], stroke["from_mm"])
        expect(page.locator("[data-strokes='1']")).to_be_attached()
        expect(page.locator("[data-rule=by-hand]").first).to_be_visible()
        # by keys alone, and taller
        brush.get_by_role("button", name="taller").press("Enter")
        kept = self.saved(
            lambda: brush.get_by_role("button", name="stroke at the cursor").press("Enter")
        )
        self.assertEqual([one["by"] for one in kept["surface"]["strokes"]], [-30, 30])
        kept = self.saved(brush.get_by_role("button", name="without the last").click)
        self.assertEqual(len(kept["surface"]["strokes"]), 1)
        kept = self.saved(page.get_by_role("button", name="Undo").click)
        self.assertEqual(len(kept["surface"]["strokes"]), 2)

    def test_calm_is_bought_with_time(self):
        page = self.page
        self.plan(stl(knob()), "knob.stl")
        self.saved(page.get_by_role("button", name="adaptive").click)
        field = page.get_by_label("Calm", exact=True)
        expect(field).to_have_value("0.5")

        def type_it():
            field.fill("8")
            field.press("Enter")

        self.assertEqual(self.saved(type_it)["surface"]["calm"], 8)
        expect(page.get_by_title(re.compile(r"turn \d+ times .* that costs \+"))).to_be_visible()
