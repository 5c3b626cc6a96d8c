"""Whole journeys of a maker."""

import contextlib
import io
import json
import re
from unittest import mock

from playwright.sync_api import Error, expect

from demo.shapes import sample_stl
from northpace.cli import main
from service.plans.models import PlanVersion
from tests.browser.base import BrowserCase
from tests.core.shapes import cube, stl


class Journeys(BrowserCase):
    def plan(self, data, name):
        """From a dropped file to the desk with exact figures."""
        self.sign_in()
        self.drop(data, name)
        card = self.page.locator(f"[data-part={name.rsplit('.', 1)[0]}]")
        card.get_by_role("button", name="Plan it").click()
        self.page.get_by_role("dialog").get_by_role("button", name="Plan it").click()
        self.exact()

    def set_layer_height(self, value):
        field = self.page.get_by_label("Layer height", exact=True)
        field.fill(value)
        field.press("Enter")

    def open_settings(self):
        self.page.get_by_role("button", name="Settings …").click()

    def test_from_a_dropped_file_to_a_checked_gcode_file(self):
        page = self.page
        self.sign_in()
        self.drop(sample_stl("mast-clamp"), "mast-clamp.stl")
        card = page.locator("[data-part=mast-clamp]")
        expect(card).to_contain_text("55.0 × 38.0 × 22.0 mm")
        expect(card).to_contain_text("closed as it came")
        card.get_by_role("button", name="Plan it").click()
        page.get_by_role("dialog").get_by_role("button", name="Plan it").click()
        self.exact()
        before = {name: self.figure(name) for name in ("time", "mass", "layers")}
        self.assertRegex(before["time"], r"^\d+:\d\d h$")
        self.assertEqual(before["layers"], "110")

        # one setting changed: the quick figures stand at once, every figure changes, nothing has to
        # be pressed
        self.open_settings()
        self.set_layer_height("0.12")
        expect(page.locator("dl[data-state=quick]")).to_be_visible()
        self.assertTrue(self.figure("time").startswith("≈"))
        self.exact()
        after = {name: self.figure(name) for name in before}
        for name in before:
            self.assertNotEqual(before[name], after[name], name)

        page.get_by_role("button", name="Commit job").click()
        dialog = page.get_by_role("dialog")
        expect(dialog.locator("[data-file-name]")).to_have_text(
            re.compile(r"^\dh\d\d_mast-clamp_pla_p1\.gcode$")
        )
        name = dialog.locator("[data-file-name]").inner_text()
        page.keyboard.press("Escape")
        self.commit()
        with page.expect_download() as waiting:
            page.get_by_role("link", name="Download").click()
        self.assertEqual(waiting.value.suggested_filename, name)
        out = io.StringIO()
        with mock.patch("sys.stdout", out):
            self.assertEqual(main(["check-gcode", str(waiting.value.path())]), 0)
        read = json.loads(out.getvalue())
        minutes = round(read["time_s"]["total"] / 60)
        self.assertEqual(after["time"], f"{minutes // 60}:{minutes % 60:02d} h")
        self.assertEqual(after["mass"], f"{read['filament']['mass_g']:.1f} g")
        self.assertEqual(after["layers"], str(read["layers"]))

    def test_out_of_range_contradiction_and_undo(self):
        page = self.page
        self.plan(stl(cube()), "block.stl")
        before = self.figure("time")
        self.open_settings()
        page.get_by_label("Layer height", exact=True).fill("9")
        expect(page.get_by_role("alert")).to_contain_text("0.01 to 2 mm")
        page.keyboard.press("Escape")
        self.set_layer_height("0.5")
        expect(page.get_by_role("alert").first).to_contain_text(
            "Layer height: 0.5 mm is outside what Bench 200 lays with its 0.4 mm nozzle: "
            "0.08 to 0.3 mm"
        )
        expect(page.get_by_role("button", name="Commit job")).to_be_disabled()
        page.get_by_role("button", name="Undo the change").click()
        self.exact()
        self.assertEqual(self.figure("time"), before)
        self.set_layer_height("0.1")
        self.exact()
        self.assertNotEqual(self.figure("time"), before)
        page.get_by_role("button", name="Undo", exact=True).click()
        self.exact()
        expect(page.locator("[data-figure=time]")).to_have_text(before)

    def test_cursor_by_keyboard_typing_and_play(self):
        page = self.page
        self.plan(stl(cube()), "block.stl")
        slider = page.get_by_role("slider", name="Cursor along the height")
        slider.focus()
        page.keyboard.press("Home")
        expect(slider).to_have_attribute("aria-valuenow", "1")
        page.keyboard.press("ArrowUp")
        page.keyboard.press("PageUp")
        expect(slider).to_have_attribute("aria-valuenow", "12")
        page.get_by_label("Cursor height").fill("10")
        page.keyboard.press("Enter")
        expect(slider).to_have_attribute("aria-valuetext", "layer 50, 10.00 mm")
        page.get_by_label("Cursor layer").fill("7")
        page.keyboard.press("Enter")
        expect(slider).to_have_attribute("aria-valuenow", "7")
        slider.hover()
        page.mouse.wheel(0, -100)
        expect(slider).to_have_attribute("aria-valuenow", "8")
        page.get_by_role("button", name="Play the print").click()
        expect(slider).not_to_have_attribute("aria-valuenow", "8")
        page.get_by_role("button", name="Pause").click()
        page.get_by_role("button", name="Table …", exact=True).click()
        expect(page.get_by_role("dialog")).to_contain_text("100 layers")

    def test_a_file_dropped_while_the_list_of_parts_is_still_on_its_way(self):
        held = []

        def hold(route):
            # what the service says now, kept back until the file has been taken in
            if route.request.method == "GET" and not held:
                held.append((route, route.fetch()))
            else:
                route.continue_()

        self.page.route(re.compile(r"/api/parts(\?|$)"), hold)
        self.sign_in()
        with self.page.expect_response(
            lambda answer: answer.request.method == "POST" and answer.url.endswith("/api/parts")
        ):
            self.drop(stl(cube(6)), "early.stl")
        ((route, answer),) = held
        with contextlib.suppress(Error):  # the page may no longer want it
            route.fulfill(response=answer)
        expect(
            self.page.locator("[data-part=early]").get_by_role("button", name="Plan it")
        ).to_be_visible()

    def test_a_faulty_file_and_a_wrong_one(self):
        page = self.page
        self.sign_in()
        whole = stl(cube())
        opened = whole[:80] + (11).to_bytes(4, "little") + whole[84:-50]
        self.drop(opened, "opened.stl")
        expect(page.locator("[data-part=opened]")).to_contain_text("closed 1 opening")
        self.drop(whole[:-20], "cut.stl")
        expect(page.locator("[data-part=cut]")).to_contain_text("cut short")
        self.drop(b"", "empty.stl")
        expect(page.get_by_role("alert").first).to_contain_text("empty")

    def test_machine_material_placement_and_stop(self):
        page = self.page
        self.plan(stl(cube()), "block.stl")
        page.get_by_role("button", name="Nozzle: 0.4 nozzle").click()
        page.get_by_role("button", name="0.8 mm").click()
        expect(page.locator("[data-figure=layers]")).to_have_text("50")
        self.exact()
        page.get_by_role("button", name="Undo", exact=True).click()
        expect(page.locator("[data-figure=layers]")).to_have_text("100")
        self.exact()
        self.tab("Placement")
        page.get_by_label("Size z").fill("40")
        page.keyboard.press("Enter")
        expect(page.locator("[data-figure=layers]")).to_have_text("200")
        self.exact()
        page.get_by_label("Size x").fill("5000")
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert").first).to_contain_text(
            "times what Bench 200 builds; is its unit right?"
        )
        self.assertFalse(PlanVersion.objects.filter(state="failed").exists())

    def test_a_wrong_password(self):
        self.page.goto(self.live_server_url)
        self.page.get_by_label("Name").fill("maker")
        self.page.get_by_label("Password").fill("wrong")
        self.page.get_by_role("button", name="Sign in").click()
        expect(self.page.get_by_role("alert")).to_have_text(
            "name and password do not belong together"
        )

    def test_nothing_comes_from_another_host(self):
        hosts = set()
        self.page.on(
            "request",
            lambda request: (
                hosts.add(request.url.split("/")[2]) if request.url.startswith("http") else None
            ),
        )
        self.plan(stl(cube()), "block.stl")
        self.assertEqual(hosts, {self.live_server_url.split("/")[2]})

    def test_the_service_is_away_and_comes_back(self):
        page = self.page
        self.plan(stl(cube(10)), "cube.stl")
        self.open_settings()
        page.route("**/api/**", lambda route: route.abort())
        self.set_layer_height("0.16")
        away = page.locator("[data-away]")
        expect(away).to_contain_text("Nothing is lost")
        field = page.get_by_label("Layer height", exact=True)
        expect(field).to_have_value("0.16")
        page.unroute("**/api/**")
        expect(away).to_be_hidden()
        # what was typed meanwhile is kept without a further press
        self.exact()
        expect(page.locator("[data-figure=layers]")).to_have_text("62")
        self.wait_for(lambda: PlanVersion.objects.filter(number=2, state="done").exists())
        self.assertEqual(
            PlanVersion.objects.get(number=2).settings["surface"]["layer_height"], 0.16
        )
