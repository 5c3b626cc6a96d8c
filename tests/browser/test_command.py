"""Everything by typing: a height, a setting with its effect, an instrument, another screen."""

import re

from playwright.sync_api import expect

from tests.browser.base import BrowserCase
from tests.core.shapes import cube, stl


class Commands(BrowserCase):
    def say(self, words):
        page = self.page
        page.keyboard.press("/")
        field = page.get_by_role("combobox", name="What to do")
        field.fill(words)
        return field

    def test_what_is_typed_is_done(self):
        page = self.page
        self.plan(stl(cube(20)), "cube.stl")
        page.locator("h1, main").first.click(position={"x": 2, "y": 2})
        field = self.say("12.4")
        expect(page.locator("[data-command=height]")).to_contain_text("of 20.00 mm, layer 62")
        field.press("Enter")
        expect(page.get_by_label("Cursor height")).to_have_value("12.4")
        field = self.say("infill density 40")
        expect(page.locator("[data-effect]")).to_contain_text(re.compile(r"≈ \+.* g"))
        kept = self.saved(lambda: field.press("Enter"))
        self.assertEqual(kept["body"]["infill_density"], 40)
        field = self.say("supports on")
        kept = self.saved(lambda: field.press("Enter"))
        self.assertTrue(kept["supports"]["enabled"])
        # no value outside of what is allowed, and a word when nothing is meant
        field = self.say("infill density 4000")
        refusal = page.get_by_role("option").filter(has_text="4000 is not allowed, 0 to 100 % is")
        expect(refusal).to_be_visible()
        field.press("Enter")
        expect(field).to_be_visible()
        field.fill("21")
        expect(page.locator("[data-command=height]")).to_contain_text("the part ends at 20.00 mm")
        field.fill("no such thing at all")
        expect(page.get_by_text("Nothing here is called so")).to_be_visible()
        field.fill("placement")
        field.press("Enter")
        expect(page.get_by_label("Turn about z", exact=True)).to_be_visible()
        self.say("plans").press("Enter")
        expect(page.get_by_role("heading", name="Plans")).to_be_visible()
        self.say("cube plan 1")
        expect(page.get_by_role("option").filter(has_text="cube, plan 1")).to_be_visible()
        page.keyboard.press("Enter")
        self.exact()
        self.say("part cube")
        page.get_by_role("option").filter(has_text=re.compile("^cubepart$")).click()
        expect(page.get_by_label("Search parts")).to_have_value("cube")
        expect(page.locator("[data-part]")).to_have_count(1)
