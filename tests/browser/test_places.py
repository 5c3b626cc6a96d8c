"""Bands, regions and ways of building on the desk: drawn, typed, tied, repeated, merged, placed on
the part and dragged, undone.
"""

import re

import manifold3d as m3
from playwright.sync_api import expect

from demo.shapes import fluted_sleeve
from service.plans.models import Plan
from tests.browser.base import BrowserCase
from tests.core.shapes import cube, stl


def forked() -> bytes:
    """A foot from which two posts rise at 6 mm."""
    return stl(
        m3.Manifold.cube((30.0, 10.0, 6.0))
        + m3.Manifold.cube((8.0, 10.0, 10.0))
        + m3.Manifold.cube((8.0, 10.0, 10.0)).translate((22, 0, 0))
    )


class Places(BrowserCase):
    def type(self, label, text):
        field = self.page.get_by_label(label, exact=True)
        field.fill(text)
        field.press("Enter")

    def report(self):
        return Plan.objects.get().latest.report

    def test_a_band_typed_with_a_ramp_tied_edited_in_its_lane_and_undone(self):
        page = self.page
        self.plan(stl(cube(16)), "block.stl")
        self.tab("Places")
        expect(page.get_by_text("Nothing: everything is as the settings say")).to_be_visible()
        page.get_by_role("button", name="+ band at the cursor").click()
        self.type("From", "4")
        self.type("To", "12")
        page.get_by_label("Change a setting in this band").select_option("body.infill_density")
        row = page.locator("[data-change='body.infill_density']")
        row.get_by_role("button", name="ramp …").click()
        made = self.saved(
            lambda: self.type("Infill density at the upper edge", "60"), '"body.infill_density":60'
        )
        self.assertEqual(
            [
                (b["from_mm"], b["to_mm"], b["changes"], b["ramps"])
                for b in made["surface"]["bands"]
            ],
            [(4, 12, {"body.infill_density": 15}, {"body.infill_density": 60})],
        )
        # the lane appears by itself, and a click in it opens its editor
        lane = page.locator("[data-lane=infill]")
        expect(lane).to_be_visible()
        expect(page.locator("[data-here='body.infill_density']")).to_contain_text("15 %")
        self.assertEqual(
            [self.report()["lanes"]["infill"][k] for k in (10, 20, 59, 70)], [15, 15, 60, 15]
        )
        # its upper edge is tied to a layer, and follows the heights
        page.get_by_label("To is").select_option("layer")
        self.saved(lambda: self.type("To, layer", "50"), '"layer":50')
        expect(page.locator("[data-band-row='0']")).to_contain_text("4.00 → 10.00 mm")
        box = page.get_by_role("slider", name="Cursor along the height").bounding_box()
        at = lane.bounding_box()
        page.mouse.click(box["x"] + 118 + (box["width"] - 132) * 0.35, at["y"] + 8)
        editor = page.get_by_role("group", name="Edit infill density")
        expect(editor).to_contain_text("in the band 4.00 → 10.00 mm")
        made = self.saved(
            lambda: self.type("infill density, in this band", "30"), '"body.infill_density":30'
        )
        self.assertEqual(made["surface"]["bands"][0]["changes"], {"body.infill_density": 30})
        made = self.saved(lambda: editor.get_by_role("button", name="as elsewhere").click())
        self.assertEqual(made["surface"]["bands"][0]["changes"], {})
        made = self.saved(lambda: page.get_by_role("button", name="Undo", exact=True).click())
        self.assertEqual(made["surface"]["bands"][0]["changes"], {"body.infill_density": 30})

    def test_what_is_typed_stands_while_it_is_kept(self):
        page = self.page
        # a busy machine, on which what is put off comes late
        page.add_init_script(
            "const soon = window.setTimeout;"
            "window.setTimeout = (act, ms, ...rest) => soon(act, Math.max(ms ?? 0, 50), ...rest)"
        )
        self.plan(stl(cube(16)), "block.stl")
        self.tab("Places")
        self.saved(lambda: page.get_by_role("button", name="+ band at the cursor").click())
        row = page.locator("[data-band-row='0']")
        expect(row).to_contain_text("10.00 → 14.00 mm")
        row.evaluate(
            """row => {
                window.shown = [];
                new MutationObserver(() => window.shown.push(row.textContent)).observe(
                    row, {subtree: true, childList: true, characterData: true})
            }"""
        )
        self.saved(lambda: self.type("To", "12"))
        shown = page.evaluate("window.shown")
        self.assertGreater(len(shown), 0)
        self.assertEqual([text for text in shown if "10.00 → 12.00 mm" not in text], [])

    def test_a_test_tower_and_its_best_value(self):
        page = self.page
        self.plan(stl(m3.Manifold.cube((12.0, 12.0, 30.0))), "tower.stl")
        self.tab("Places")
        page.get_by_role("button", name="Repeat …").click()
        self.type("First value", "230")
        self.type("Step", "-5")
        expect(page.locator("[data-preview] li")).to_have_text(
            [
                "6.00 to 14.00 mm: nozzle 230 °C",
                "14.00 to 22.00 mm: nozzle 225 °C",
                "22.00 to 30.00 mm: nozzle 220 °C",
            ]
        )
        self.saved(lambda: page.get_by_role("button", name="Add these 3 bands").click())
        expect(page.locator("[data-band]")).to_have_count(3)
        expect(page.locator("[data-lane=nozzle_temp]")).to_be_visible()
        self.assertEqual(
            [self.report()["lanes"]["nozzle_temp"][k] for k in (0, 20, 31, 71, 111)],
            [210, 205, 230, 225, 220],
        )
        page.get_by_role("button", name="nozzle 225").click()
        page.get_by_role("button", name="keep with the material").click()
        expect(page.get_by_text("kept with the material")).to_be_visible()
        self.assertEqual(self.workshop.materials.get().figures["nozzle_temp"], 225)

    def test_overlapping_bands_are_refused_and_merged(self):
        page = self.page
        self.plan(stl(cube(12)), "block.stl")
        self.tab("Places")
        for low, high, name, value in (
            ("2", "8", "body.walls", "1"),
            ("6", "10", "body.infill_density", "40"),
        ):
            page.get_by_role("button", name="+ band at the cursor").click()
            self.type("From", low)
            self.type("To", high)
            page.get_by_label("Change a setting in this band").select_option(name)
            self.type("Walls" if name == "body.walls" else "Infill density", value)
        expect(page.get_by_role("alert").filter(has_text="Not possible")).to_contain_text(
            "overlap from 6 to 8 mm"
        )
        made = self.saved(lambda: page.get_by_role("button", name="Merge them").click())
        self.assertEqual(
            [(b["from_mm"], b["to_mm"], b["changes"]) for b in made["surface"]["bands"]],
            [
                (2, 6, {"body.walls": 1}),
                (6, 8, {"body.walls": 1, "body.infill_density": 40}),
                (8, 10, {"body.infill_density": 40}),
            ],
        )

    def test_regions_on_the_part(self):
        page = self.page
        self.plan(stl(m3.Manifold.cube((30.0, 30.0, 10.0))), "block.stl")
        self.tab("Places")
        page.get_by_label("Cursor along the height").press("End")
        page.get_by_role("button", name="+ region: click on the part …").click()
        panel = page.get_by_role("group", name="Place a region")
        expect(panel).to_contain_text("The part is cut at the cursor")
        box = page.get_by_label("Stage").locator("canvas").bounding_box()
        # the top of the block is in the upper half of the stage, its side below
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] * 0.46
        page.mouse.click(x, box["y"] + box["height"] * 0.68)
        expect(panel).to_contain_text("That face is upright")
        page.mouse.click(x, y)
        expect(page.get_by_role("group", name="Region settings")).to_be_visible()
        page.get_by_label("Change a setting in this region").select_option("body.infill_density")
        self.type("Depth", "5")
        made = self.saved(lambda: self.type("Infill density", "45"), '"body.infill_density":45')
        region = made["body"]["regions"][0]
        self.assertEqual(
            (region["shape"], region["reach"], round(region["z"], 2)), ("under", 5, 10)
        )
        found = self.report()["regions"][0]
        self.assertAlmostEqual(found["from_mm"], 5, delta=0.3)
        self.assertAlmostEqual(found["area_mm2"], 900, delta=1)
        expect(page.locator("[data-region-span='0']")).to_be_visible()
        # a plain solid, dragged by its middle
        page.get_by_role("button", name="regions", exact=True).click()
        page.get_by_role("button", name="ball", exact=True).click()
        before = self.saved(lambda: page.mouse.click(x, y))["body"]["regions"][1]
        expect(page.locator("[data-region-row='1']")).to_contain_text("mm")
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x + 40, y + 6, steps=4)
        after = self.saved(page.mouse.up)["body"]["regions"][1]
        self.assertGreater(abs(after["x"] - before["x"]) + abs(after["y"] - before["y"]), 1)
        self.assertAlmostEqual(after["z"], before["z"], 2)
        # one by numbers, at the cursor, for hands that stay on the keys
        made = self.saved(
            lambda: page.get_by_role("button", name="+ box by numbers").press("Enter")
        )
        self.assertEqual(made["body"]["regions"][2]["shape"], "box")
        made = self.saved(
            lambda: page.get_by_role("button", name="Remove this region").press("Enter")
        )
        page.get_by_role("button", name=re.compile("^2 ball")).click()
        # what differs says which of them holds; the order is the maker's
        made = self.saved(lambda: page.get_by_role("button", name="earlier in the list").click())
        self.assertEqual([r["shape"] for r in made["body"]["regions"]], ["ball", "under"])

    def test_an_outline_drawn_on_the_stage(self):
        page = self.page
        self.plan(stl(m3.Manifold.cube((30.0, 30.0, 10.0))), "block.stl")
        page.get_by_label("Cursor along the height").press("End")
        page.get_by_role("button", name="regions", exact=True).click()
        page.get_by_role("button", name="in a drawn outline").click()
        box = page.get_by_label("Stage").locator("canvas").bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] * 0.46
        for dx, dy in ((-25, 0), (15, -12), (25, 8)):
            page.mouse.click(x + dx, y + dy)
        expect(page.get_by_text("3 corners")).to_be_visible()
        made = self.saved(lambda: page.get_by_role("button", name="Close the outline").click())
        self.assertEqual(len(made["body"]["regions"][0]["points"]), 3)
        self.assertGreater(self.report()["regions"][0]["area_mm2"], 5)

    def test_the_vase_check_and_the_ways_compared(self):
        page = self.page
        self.plan(stl(fluted_sleeve().scale((0.4, 0.4, 0.25))), "sleeve.stl")
        self.tab("Paths")
        expect(page.locator("[data-vase=suits]")).to_contain_text(
            "from its foot at 0.60 mm to its rim at 12.00 mm"
        )
        page.get_by_role("button", name="Compare the ways").click()
        expect(page.locator("[data-way]")).to_have_count(3)
        made = self.saved(lambda: page.get_by_role("button", name="Build as one spiral").click())
        self.assertEqual(made["body"]["build"], "spiral")
        expect(page.locator("[data-aside]")).to_contain_text("Infill density: 15 % nothing inside")
        self.assertEqual(self.report()["spirals"], [[0.6, 12.0]])
        made = self.saved(
            lambda: page.get_by_role("button", name="ordinary", exact=True).first.click()
        )
        self.assertNotIn("build", made.get("body", {}))

    def test_a_part_that_cannot_be_one_spiral_is_one_up_to_its_fork(self):
        page = self.page
        self.plan(forked(), "fork.stl")
        self.tab("Paths")
        check = page.locator("[data-vase=not]")
        expect(check).to_contain_text("at 6.20 mm there are 2 outlines")
        check.get_by_role("button", name="go to 6.20 mm").click()
        expect(page.get_by_role("slider", name="Cursor along the height")).to_have_attribute(
            "aria-valuetext", "layer 31, 6.20 mm"
        )
        self.saved(
            lambda: page.get_by_role(
                "button", name="Spiral up to 6.00 mm, the rest ordinary"
            ).click()
        )
        self.assertEqual(self.report()["spirals"], [[0.6, 6.0]])
        expect(page.locator("[data-band]")).to_have_count(1)
