"""Room on the desk for a whole day: dense settings, instruments that take more of it, keys of one's
own, a dim theme, first figures before anything is laid, and no rule of access broken.
"""

import json
import re
from pathlib import Path

from playwright.sync_api import expect

from service.plans.models import Plan
from tests.browser.base import BrowserCase
from tests.core.shapes import cube, stl

AXE = Path(__file__).resolve().parents[2] / "web/node_modules/axe-core/axe.min.js"
#: The success criteria that are held: WCAG 2.2, levels A and AA.
LEVELS = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
LOOK = """levels => axe.run(document, {runOnly: {type: "tag", values: levels}}).then(found =>
    found.violations.map(rule => [rule.id, ...rule.nodes.map(node => node.html.slice(0, 200))]))"""


class Room(BrowserCase):
    def keep(self, **values):
        """Set what this browser keeps, before any page of it loads."""
        self.context.add_init_script(
            "".join(
                f"if (!localStorage.getItem('northpace.{key}'))"
                f" localStorage.setItem('northpace.{key}', {json.dumps(json.dumps(value))});"
                for key, value in values.items()
            )
        )

    def test_first_figures_before_anything_is_laid(self):
        page = self.page
        self.sign_in()
        self.drop(stl(cube(20)), "cube.stl")
        page.locator("[data-part=cube]").get_by_role("button", name="Plan it").click()
        dialog = page.get_by_role("dialog")
        expect(dialog.locator("[data-ahead='0']").first).to_have_text(re.compile(r"^\d+:\d\d$"))
        ahead = dialog.locator("[data-ahead='1']").first.inner_text()
        # the exact plan is kept away: what stands on the desk is there without it
        page.route("**/progress", lambda route: route.abort())
        dialog.get_by_role("button", name="Plan it").click()
        expect(page.locator("dl[data-state=quick]")).to_be_visible()
        self.assertEqual(self.figure("mass"), f"≈ {ahead} g")
        expect(page.get_by_label("Cursor along the height")).to_be_visible()
        expect(page.get_by_role("group", name="Trade-off: print time")).to_be_visible()
        page.unroute("**/progress")
        self.exact()

    def test_dense_settings_and_instruments_that_take_room(self):
        page = self.page
        self.plan(stl(cube(20)), "cube.stl")
        stage = page.get_by_label("The part on the bed")
        page.keyboard.press("s")
        drawer = page.get_by_label("Settings", exact=True)
        drawer.get_by_role("button", name="Pace").click()
        rows = drawer.locator("[data-setting]")
        low = drawer.get_by_label("What the setting does").bounding_box()["y"]
        whole = [row for row in rows.all() if row.bounding_box()["y"] + 24 <= low]
        self.assertGreaterEqual(len(whole), 12)
        self.assertGreater(stage.bounding_box()["width"], 250)
        drawer.get_by_label("Infill", exact=True).focus()
        expect(drawer.get_by_label("What the setting does")).to_contain_text("1 to 1000 mm/s")
        page.get_by_role("tab", name="Trade-off").click()
        page.keyboard.press("s")
        expect(drawer).to_have_count(0)
        panel = page.get_by_role("tabpanel")
        before = panel.bounding_box()["width"]
        page.keyboard.press("l")
        expect(page.get_by_role("button", name="smaller")).to_be_visible()
        self.assertGreater(panel.bounding_box()["width"], 1.4 * before)
        page.keyboard.press("l")
        # a wide screen holds two beside each other, a narrow one goes on with one
        page.set_viewport_size({"width": 1920, "height": 1080})
        page.get_by_role("button", name="+ beside").click()
        expect(page.get_by_role("tabpanel")).to_have_count(2)
        expect(page.get_by_text("flow floor")).to_be_visible()
        page.set_viewport_size({"width": 900, "height": 800})
        expect(page.get_by_role("tabpanel")).to_have_count(1)
        self.assertEqual(page.evaluate("document.documentElement.scrollWidth"), 900)

    def test_shortcuts_are_changed_and_stay(self):
        page = self.page
        self.plan(stl(cube(10)), "cube.stl")
        page.keyboard.press("?")
        sheet = page.get_by_role("dialog", name="Shortcuts")
        keys = sheet.get_by_role("button", name="f: Findings")
        keys.click()
        expect(sheet.get_by_text("press keys …")).to_be_visible()
        page.keyboard.press("t")
        # who had the key gets the other one
        expect(sheet.get_by_role("button", name="t: Findings")).to_be_visible()
        expect(sheet.get_by_role("button", name="f: Trade-off")).to_be_visible()
        page.keyboard.press("Escape")
        expect(sheet).to_have_count(0)
        page.keyboard.press("t")
        expect(page.get_by_role("tab", name="Findings", selected=True)).to_be_visible()
        page.reload()
        self.exact()
        page.keyboard.press("t")
        expect(page.get_by_role("tab", name="Findings", selected=True)).to_be_visible()

    def broken_rules(self, where):
        """Rules of access that the page breaks as it stands."""
        return [[where, *rule] for rule in self.page.evaluate(LOOK, LEVELS)]

    def looked_at(self, theme):
        """Every main view once in a theme; what is broken on any of them."""
        page = self.page
        self.keep(theme=theme)
        self.plan(stl(cube(20)), "cube.stl")
        plan = Plan.objects.get().pk
        self.context.add_init_script(AXE.read_text())
        page.reload()
        self.exact()
        expect(page.get_by_role("group", name="Trade-off: print time")).to_be_visible()
        self.assertEqual(page.locator("html").get_attribute("data-theme"), theme)
        found = self.broken_rules("desk")
        for kind in ("account", "set up"):
            page.get_by_role("button", name=kind, exact=True).click()
            for tab in page.get_by_role("tab").all():
                tab.click()
                found += self.broken_rules(tab.inner_text())
        page.keyboard.press("s")
        found += self.broken_rules("settings")
        page.keyboard.press("s")
        for key in ("?", "j"):
            page.keyboard.press(key)
            expect(page.get_by_role("dialog")).to_be_visible()
            found += self.broken_rules(f"sheet {key}")
            page.keyboard.press("Escape")
            expect(page.get_by_role("dialog")).to_have_count(0)
        for address in (
            *("plans", "plans/1/ways", "compare?plans=1", "beds", "jobs"),
            *("workshop", "workshop?page=you", "parts"),
        ):
            page.goto(f"{self.live_server_url}/{address}".replace("plans/1", f"plans/{plan}"))
            expect(page.get_by_role("heading").first).to_be_visible()
            found += self.broken_rules(address)
        page.get_by_role("button", name="Plan it").click()
        expect(page.get_by_role("dialog").locator("[data-ahead]").first).to_be_visible()
        return [*found, *self.broken_rules("planning")]

    def test_no_rule_of_access_is_broken_on_paper(self):
        self.assertEqual(self.looked_at("paper"), [])

    def test_nor_in_a_dim_room(self):
        self.assertEqual(self.looked_at("dim"), [])
