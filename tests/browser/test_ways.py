"""From a part that lies badly to one that stands: ways up, one taken; then support painted from
below, and erased.
"""

import re

import manifold3d as m3
import numpy as np
from playwright.sync_api import expect

from service.plans.models import Plan
from tests.browser.base import BrowserCase
from tests.core.shapes import stl
from tests.ways.shapes import HOLE

#: A board of 60 × 60 mm on a post in its middle.
BOARD = m3.Manifold.cube((60, 60, 3)).translate((0, 0, 12)) + m3.Manifold.cube(
    (6, 6, 12)
).translate((27, 27, 0))


class Ways(BrowserCase):
    def test_a_way_up_is_chosen_by_what_it_costs(self):
        page = self.page
        self.plan(stl(HOLE), "block.stl")
        self.tab("Placement")
        page.get_by_role("link", name=re.compile("Ways up")).click()
        expect(page.locator("[data-ways=done]")).to_be_visible()
        cards = page.locator("[data-way]")
        first = cards.first
        expect(first).to_contain_text("none needed")
        expect(page.locator("[data-way='0']")).to_contain_text("as it stands now")
        expect(page.locator("[data-way='0']").get_by_role("img")).to_have_attribute(
            "alt", re.compile("hatched where supports touch it")
        )
        # what counts is typed, and the order follows
        order = [card.get_attribute("data-way") for card in cards.all()]
        page.get_by_label("Weight of step error", exact=True).fill("0")
        page.keyboard.press("Enter")
        page.get_by_label("Weight of scars", exact=True).fill("0")
        page.keyboard.press("Enter")
        expect(page.get_by_label("step error", exact=True)).to_have_value("0")
        self.assertEqual(len(order), 9)
        # a load along the hole makes that direction count
        page.get_by_label("Load along y", exact=True).fill("1")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="count it").click()
        expect(page.get_by_label("Weight of load along the layers", exact=True)).to_be_visible()
        expect(page.locator("[data-ways=done]")).to_be_visible()
        expect(first).to_contain_text("to the layers")
        page.get_by_role("button", name="no load").click()
        page.get_by_label("Weight of step error", exact=True).fill("1")
        page.keyboard.press("Enter")
        expect(page.locator("[data-ways=done]")).to_be_visible()
        expect(first).to_contain_text("none needed")
        first.get_by_role("button", name="Stand it so").click()
        expect(page).to_have_url(re.compile(r"/plans/\d+$"))
        self.exact()
        place = Plan.objects.get().latest.settings["place"]
        self.assertAlmostEqual(abs(place["down_y"]), 1)

    def test_it_stands_on_the_face_that_is_clicked(self):
        page = self.page
        self.plan(stl(m3.Manifold.cube((30, 20, 10)).rotate((0, 0, 15))), "slab.stl")
        self.tab("Placement")
        page.get_by_role("button", name="click it on the stage").click()
        expect(page.get_by_text("Click the face it shall stand on")).to_be_visible()
        expect(page.get_by_text(re.compile("Fetching the part.s shape"))).to_have_count(0)
        # the middle of the stage shows the upper face
        page.mouse.click(*self.middle())
        expect(page.get_by_text("Click the face it shall stand on")).to_have_count(0)
        self.exact()
        place = Plan.objects.get().latest.settings["place"]
        self.assertEqual((place["down_x"], place["down_y"], place["down_z"]), (0, 0, 1))

    def test_it_is_turned_on_the_stage_while_what_leans_out_is_said(self):
        page = self.page
        self.plan(stl(BOARD), "board.stl")
        self.tab("Placement")
        page.get_by_role("button", name="by a handle on the stage").click()
        said = page.locator("[data-leans-out]")
        # all of the board but its post
        expect(said).to_have_text("3564 mm² lean out beyond 50°")
        page.get_by_role("button", name="Turn by 15° about x").click()
        self.exact()
        page.get_by_role("button", name="Turn by 15° about y").click()
        self.exact()
        expect(said).not_to_have_text(re.compile("^3564 mm²"))
        page.get_by_role("button", name="1°", exact=True).click()
        page.get_by_role("button", name="Turn by −1° about z").click()
        self.exact()
        self.assertAlmostEqual(Plan.objects.get().latest.settings["place"]["turn_z"], -1, 3)
        turned = page.get_by_label("Turn about z", exact=True)
        expect(turned).to_have_value("-1")
        page.get_by_role("button", name="Undo").click()
        expect(turned).to_have_value("0")
        self.exact()
        place = Plan.objects.get().latest.settings["place"]
        self.assertAlmostEqual(place["turn_x"], 15, 3)
        self.assertAlmostEqual(place["turn_y"], 15, 3)
        self.assertAlmostEqual(place["turn_z"], 0, 3)

    def test_a_ring_is_dragged(self):
        page = self.page
        self.plan(stl(m3.Manifold.cube((30, 20, 10))), "slab.stl")
        self.tab("Placement")
        page.get_by_role("button", name="by a handle on the stage").click()
        expect(page.locator("[data-leans-out]")).to_be_visible()
        size = (30, 20, 10)
        reach = 0.55 * np.hypot(np.hypot(*size[:2]), size[2])
        around = [
            (reach * np.cos(a), reach * np.sin(a), size[2] / 2) for a in np.radians([-60, -32])
        ]
        self.drag(*(self.on_stage(at, size) for at in around))
        expect(page.locator("[data-leans-out]")).to_contain_text("about z: 30°")
        self.exact()
        self.assertAlmostEqual(Plan.objects.get().latest.settings["place"]["turn_z"], 30, 3)

    def test_support_is_painted_from_below_and_erased(self):
        page = self.page
        self.plan(stl(BOARD), "board.stl")
        page.get_by_role("button", name="supports", exact=True).click()
        page.get_by_role("button", name="brush", exact=True).click()
        expect(page.get_by_label("leans out: 50 to 90 °")).to_be_visible()
        self.look_from_below()
        self.stroke()
        tool = page.get_by_role("group", name="Supports by hand")
        expect(tool).to_contain_text("a stroke")
        self.exact()
        version = Plan.objects.get().latest
        self.assertEqual({s["why"] for s in version.report["stands"]}, {"asked for by hand"})
        (mark,) = version.settings["supports"]["marks"]
        self.assertGreater(len(mark["along"]), 2)
        self.assertTrue(all(abs(point[2] - 12) < 0.1 for point in mark["along"]))
        tool.get_by_role("button", name="erase", exact=True).click()
        page.get_by_label("Reach of the brush").fill("9")
        page.keyboard.press("Enter")
        self.stroke()
        expect(tool).to_contain_text("erased")
        self.exact()
        self.assertEqual(Plan.objects.get().latest.report["stands"], [])

    def middle(self):
        box = self.page.locator("canvas").first.bounding_box()
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def look_from_below(self):
        x, y = self.middle()
        mouse = self.page.mouse
        mouse.move(x + 230, y + 140)
        mouse.down()
        mouse.move(x + 230, y - 160, steps=8)
        mouse.up()

    def stroke(self):
        x, y = self.middle()
        mouse = self.page.mouse
        mouse.move(x + 30, y - 30)
        mouse.down()
        mouse.move(x + 70, y + 30, steps=12)
        mouse.up()
