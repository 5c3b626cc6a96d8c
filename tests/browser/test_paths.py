"""The toolpath on the desk: patterns tried, beads asked, findings gone to and acknowledged, patches
and supports by hand, recipes.
"""

import re

import manifold3d as m3
from playwright.sync_api import expect

from service.jobs.models import Job
from service.plans.models import PlanVersion
from service.workshop.models import Recipe
from tests.browser.base import BrowserCase
from tests.core.shapes import cube, stl


def with_a_floating_block() -> bytes:
    """A block with a smaller one beside it that starts 6 mm above the bed."""
    return stl(cube(12) + m3.Manifold.cube((6.0, 6.0, 4.0)).translate((18, 0, 6)))


def shelf() -> bytes:
    """A board on one leg, 6 mm above the bed."""
    return stl(
        m3.Manifold.cube((6.0, 12.0, 8.0))
        + m3.Manifold.cube((20.0, 12.0, 2.0)).translate((0, 0, 6))
    )


class Paths(BrowserCase):
    def settled(self, count):
        """Wait until so many versions of the plan are computed and shown."""
        self.exact()
        self.assertEqual(PlanVersion.objects.filter(state="done").count(), count)

    def middle(self):
        """The middle of the stage, where the camera looks."""
        box = self.page.get_by_label("Stage").locator("canvas").bounding_box()
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def test_switch_pattern_inspect_a_layer_acknowledge_and_commit(self):
        page = self.page
        self.plan(with_a_floating_block(), "blocks.stl")

        # every pattern is tried exactly, and one is taken
        self.tab("Paths")
        page.get_by_role("button", name="Try each pattern at 15 %").click()
        expect(page.locator("[data-pattern]")).to_have_count(9)
        expect(page.locator("[data-pattern=lines]")).to_contain_text("this plan")
        grid = page.locator("[data-pattern=triangles]")
        expect(grid.locator("td").nth(2)).to_have_text(re.compile(r"^\d\.\d$"))
        grid.get_by_role("button", name="Take triangles").click()
        expect(page.locator("[data-pattern=triangles]")).to_contain_text("this plan")
        self.settled(2)

        # a finding leads to its place: cursor, camera and words
        self.tab("Findings")
        entry = page.locator("[data-finding=starts-in-air]")
        entry.get_by_role("button", name="6.20 mm").first.click()
        expect(page.get_by_label("Cursor height")).to_have_value("6.2")
        expect(page.locator("[data-callout]")).to_contain_text("laid in mid-air")
        expect(page.locator("[data-mark=starts-in-air]")).to_be_visible()

        # the bead that the camera looks at, in figures
        page.get_by_label("Ask the beads").select_option("how wide")
        expect(page.get_by_label(re.compile("bead width: .* mm"))).to_be_visible()
        page.mouse.click(*self.middle())
        bead = page.locator("[data-bead]")
        expect(bead).to_contain_text("× 0.20 mm")
        expect(bead).to_contain_text("layer 31 at 6.20 mm")
        page.get_by_label("Ask the beads").select_option("why it is solid")
        page.mouse.click(*self.middle())
        expect(bead).to_contain_text("solid because of a bottom at 6.00 mm")

        # what says stop holds the commit back until it is acknowledged with a reason
        page.get_by_role("button", name="Commit job").click()
        dialog = page.get_by_role("dialog")
        expect(dialog.get_by_role("button", name="Commit job")).to_be_disabled()
        dialog.get_by_role("button", name="Not yet").click()
        for code in ("starts-in-air", "empty-layer"):
            found = page.locator(f"[data-finding={code}]")
            if found.count():
                found.get_by_role("button", name="acknowledge").click()
                found.get_by_label("Reason").fill("held by a pin of my own")
                found.get_by_role("button", name="Acknowledge", exact=True).click()
                expect(found).to_contain_text("held by a pin of my own")
        page.get_by_role("button", name="Commit job").click()
        expect(dialog).to_contain_text("Acknowledged: held by a pin of my own")
        page.keyboard.press("Escape")
        self.commit()
        self.assertEqual(Job.objects.get().version, PlanVersion.objects.order_by("-number")[0])

    def test_supports_from_a_finding_and_a_stand_dropped(self):
        page = self.page
        self.plan(shelf(), "shelf.stl")
        self.tab("Findings")
        page.locator("[data-finding=open-bottom]").get_by_role("button").first.click()
        expect(page.get_by_label("Cursor height")).to_have_value("6.2")
        self.tab("Paths")
        page.get_by_label("hold up what leans out").check()
        expect(page.locator("[data-stand]")).to_have_count(1)
        expect(page.locator("[data-stand]")).to_contain_text("touches")
        page.locator("[data-stand]").get_by_role("button", name="drop").click()
        expect(page.locator("[data-stand]")).to_have_count(0)
        page.get_by_role("button", name="take all back").click()
        expect(page.locator("[data-stand]")).to_have_count(1)

    def test_a_patch_is_dropped_and_the_thickness_kept(self):
        page = self.page
        self.plan(stl(cube(14)), "block.stl")
        self.tab("Paths")
        first = page.locator("[data-patch='0']")
        expect(first).to_contain_text("bottom")
        mass = self.figure("mass")
        first.get_by_role("button", name="drop").click()
        expect(page.get_by_label("Solid patches")).to_contain_text("1 by hand")
        self.exact()
        self.assertLess(float(self.figure("mass").split()[0]), float(mass.split()[0]))

        expect(page.locator("[data-figure=walls]")).to_have_text("3 walls, 1.26 mm")
        page.get_by_label("keep the thickness").check()
        inner = page.get_by_label("Inner wall width", exact=True)
        inner.fill("0.8")
        inner.press("Enter")
        # 0.45 + 0.757: two walls come nearest to 1.26 mm
        expect(page.locator("[data-figure=walls]")).to_have_text("2 walls, 1.21 mm")

    def test_what_a_change_did_what_is_at_hand_and_a_recipe(self):
        page = self.page
        self.plan(stl(cube(14)), "block.stl")
        page.get_by_role("button", name="Settings …").click()
        page.get_by_label("Find a setting").fill("infill density")
        row = page.locator("[data-setting='body.infill_density']")
        row.get_by_role("button", name="Keep at hand").click()
        density = page.get_by_label("Infill density", exact=True)
        density.fill("40")
        density.press("Enter")
        expect(page.locator("[data-effect='body.infill_density']")).to_contain_text(
            re.compile(r", \+\d\.\d g, ±0 µm")
        )
        told = page.get_by_label("What the setting does")
        expect(told).to_contain_text(re.compile(r"15 % → 40 %: .*, \+\d\.\d g, ±0 µm"))
        page.get_by_label("Find a setting").fill("")
        page.get_by_role("button", name="at hand", exact=True).click()
        expect(page.locator("[data-setting]")).to_have_count(1)
        page.get_by_role("button", name="differs from the defaults").click()
        expect(page.locator("[data-setting]")).to_have_count(1)

        page.get_by_role("button", name="keep as a recipe").click()
        page.get_by_role("dialog").get_by_label("Name", exact=True).fill("Stiff blocks")
        page.get_by_role("dialog").get_by_role("button", name="Keep it").click()
        expect(page.get_by_label("Settings", exact=True)).to_contain_text("from Stiff blocks")
        self.assertEqual(Recipe.objects.get().settings, {"body": {"infill_density": 40}})
        page.get_by_role("button", name="differs from the recipe").click()
        expect(page.locator("[data-setting]")).to_have_count(0)
        page.get_by_label("Find a setting").fill("infill density")
        density.focus()
        expect(told).to_contain_text("From the recipe 'Stiff blocks'")

        # a new plan starts from it
        page.get_by_role("link", name="Parts").click()
        page.locator("[data-part=block]").get_by_role("button", name="Plan it").click()
        page.get_by_role("dialog").get_by_label("Stiff blocks").check()
        page.get_by_role("dialog").get_by_role("button", name="Plan it").click()
        self.exact()
        expect(page.get_by_label("Height lanes")).to_contain_text("infill 40 %")
