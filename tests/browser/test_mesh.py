"""A broken file: its faults seen with their places, a choice that recomputes, a body moved and left
out, thinned, made parts of their own, and cut in two.
"""

import re

import manifold3d as m3
from playwright.sync_api import expect

from service.parts.models import Part
from service.plans.models import Plan
from tests.browser.base import BrowserCase
from tests.core.shapes import arrays
from tests.intake.shapes import both, moved, open_box, stl_of, turned_in

BALL = arrays(m3.Manifold.sphere(8, 48))
#: A ball with a smaller one in it that faces inwards, a cube without a lid, and a splinter.
TORN = both(
    moved(BALL, 0, 0, 8),
    turned_in(moved((0.5 * BALL[0], BALL[1]), 0, 0, 8)),
    moved(open_box(12), 20, -6, 0),
    moved((0.01 * BALL[0], BALL[1]), 15, 12, 0.08),
)


class Mesh(BrowserCase):
    def settled(self):
        """What the panel says is of the version that is kept."""
        expect(self.page.get_by_text("Looking at the mesh")).to_have_count(0)
        expect(self.page.locator("[aria-busy=true]")).to_have_count(0)

    def mesh(self):
        return Plan.objects.get().latest.settings.get("mesh", {})

    def test_a_broken_file_is_mended_as_it_is_meant(self):
        page = self.page
        self.plan(stl_of(TORN), "torn.stl")
        self.tab("Mesh")
        expect(page.locator("[data-fault=open]")).to_contain_text("in 1 place, the widest 16.97 mm")
        expect(page.locator("[data-fault=cavity]")).to_contain_text("1 shell inside another")
        expect(page.locator("[data-fault=splinter]")).to_contain_text("1 stray splinter")
        expect(page.get_by_text("kept 1 cavity inside")).to_be_visible()
        # where it is, before and after
        page.get_by_role("button", name=re.compile("Show where: open edges")).click()
        expect(page.locator("[data-callout]")).to_contain_text("open edges in 1 place")
        legend = page.get_by_role("figure", name="The mesh before and after mending")
        expect(legend).to_contain_text("added 144 mm²")
        legend.get_by_role("button", name="as it came").click()
        expect(legend).to_contain_text("dropped 0 mm²")
        # closed by guessing: it stops until it was looked at, and how many do leads to them
        page.locator("[data-figure=findings]").get_by_role("button", name="■").click()
        expect(page.get_by_text(re.compile("The widest opening was 17.0 mm"))).to_be_visible()
        self.tab("Mesh")
        page.get_by_label("I looked, it is meant so").check()
        self.exact()
        self.tab(re.compile("Findings"))
        expect(
            page.get_by_text(re.compile("The file was mended: closed 1 opening"))
        ).to_be_visible()
        expect(page.get_by_text(re.compile("The widest opening was"))).to_have_count(0)
        # the other meaning
        self.tab("Mesh")
        page.get_by_label("filled").check()
        expect(page.get_by_text("filled 1 cavity inside")).to_be_visible()
        page.get_by_role("radiogroup", name="Splinters").get_by_label("dropped").check()
        expect(page.get_by_text("dropped 1 splinter")).to_be_visible()
        self.exact()
        self.assertEqual(self.mesh(), {"looked_at": True, "cavities": "solid", "splinters": "drop"})
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_text("dropped 1 splinter")).to_have_count(0)

    def test_bodies_are_moved_left_out_and_made_parts(self):
        page = self.page
        self.plan(stl_of(both(moved(BALL, 0, 0, 8), moved(open_box(12), 30, -6, 0))), "two.stl")
        self.tab("Mesh")
        page.get_by_role("button", name="Move or turn body 2").click()
        field = page.get_by_label("Move body 2 along x")
        field.fill("-10")
        field.press("Enter")
        self.exact()
        self.assertEqual(self.mesh()["bodies"], [{"name": "body 2", "shift_x": -10}])
        self.assertAlmostEqual(self.wide(), 40, 1)
        page.get_by_label("Lay body 2").uncheck()
        self.exact()
        self.assertAlmostEqual(self.wide(), 16, 1)
        page.get_by_role("button", name="back where it was drawn").click()
        self.exact()
        self.assertEqual(self.mesh(), {})
        field = page.get_by_label("Thin out to")
        field.fill("100")
        field.press("Enter")
        expect(page.locator("[data-thinned]")).to_contain_text("moved, as measured")
        page.get_by_role("button", name="every body a part of its own").click()
        expect(page.get_by_text("two body 1, two body 2: now among the parts")).to_be_visible()
        field = page.get_by_label("Cut at")
        field.fill("5")
        field.press("Enter")
        page.get_by_role("button", name="Cut into two parts").click()
        expect(page.get_by_text("two lower half, two upper half: now among the")).to_be_visible()
        self.assertEqual(Part.objects.count(), 5)

    def test_a_body_is_dragged_on_the_stage_and_takes_its_marks_along(self):
        page = self.page
        balls = both(moved(BALL, 0, 0, 8), moved(BALL, 30, 0, 8))
        self.plan(stl_of(balls), "two.stl")
        size = (46, 16, 16)
        # seen on top of the second
        page.get_by_role("button", name="attention", exact=True).click()
        expect(page.get_by_text(re.compile("Fetching the part.s shape"))).to_have_count(0)
        made = self.saved(lambda: page.mouse.click(*self.on_stage((15, 0, 16), size)))
        (mark,) = made["surface"]["marks"]
        self.assertAlmostEqual(mark["x"], 30, delta=1)
        self.tab("Mesh")
        page.get_by_role("button", name="drag them on the stage").click()
        expect(page.get_by_text("Drag a body along the bed")).to_be_visible()
        # 10 mm back along y at the height it is held at
        ends = [self.on_stage((15, y, 16), size) for y in (0, 10)]
        settings = self.saved(lambda: self.drag(*ends))
        (body,) = settings["mesh"]["bodies"]
        self.assertEqual(body["name"], "body 2")
        self.assertAlmostEqual(body["shift_y"], 10, delta=0.7)
        (went,) = settings["surface"]["marks"]
        self.assertAlmostEqual(went["y"] - mark["y"], body["shift_y"], 2)
        self.assertAlmostEqual(went["x"] - mark["x"], body.get("shift_x", 0), 2)
        settings = self.saved(page.get_by_role("button", name="Undo").click)
        self.assertEqual((settings["surface"]["marks"], "mesh" in settings), ([mark], False))

    def wide(self):
        """Millimetres along x of the newest exact plan."""
        return Plan.objects.get().latest.report["part"]["size_mm"][0]
