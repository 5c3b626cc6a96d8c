"""A shelf of many parts: searched, labelled, and a removal taken back."""

from playwright.sync_api import expect

from service.parts.models import Part
from service.plans.models import Plan
from service.plans.rules.versions import create_plan
from service.workshop.models import Recipe
from tests.browser.base import BrowserCase
from tests.core.shapes import cube, stl


class Library(BrowserCase):
    def shelf(self):
        for n in range(120):
            Part.objects.create(
                workshop=self.workshop,
                name=f"{'bracket' if n % 2 else 'lid'} {n:03}",
                filename=f"{n}.stl",
                checksum=f"{n:064}",
                size_bytes=n,
                file_key="x",
                state="refused",
                message="made up",
            )

    def test_search_label_and_undo_of_a_removal(self):
        page = self.page
        self.shelf()
        self.plan(stl(cube(10)), "cube.stl")
        page.get_by_role("link", name="Parts", exact=True).click()
        expect(page.get_by_role("status").filter(has_text="121 parts")).to_be_visible()
        expect(page.locator("[data-part]")).to_have_count(50)
        page.get_by_role("button", name="show more (71 left)").click()
        expect(page.locator("[data-part]")).to_have_count(100)
        page.get_by_label("Search parts").fill("lid 11")
        expect(page.locator("[data-part]")).to_have_count(5)
        page.get_by_role("button", name="Label lid 110").click()
        page.get_by_label("New label of lid 110").fill("boxes")
        page.keyboard.press("Enter")
        expect(page.locator("[data-label=boxes]")).to_be_visible()
        page.get_by_label("Search parts").fill("")
        page.get_by_label("Label", exact=True).select_option("boxes")
        expect(page.locator("[data-part]")).to_have_count(1)
        # taken back, nothing is lost; left alone, it goes
        page.get_by_role("button", name="Remove lid 110").click()
        expect(page.locator("[data-part]")).to_have_count(0)
        page.get_by_role("button", name="Undo").click()
        expect(page.locator("[data-part='lid 110']")).to_be_visible()
        page.get_by_role("button", name="Remove lid 110").click()
        with page.expect_response(lambda answer: answer.request.method == "DELETE"):
            page.get_by_role("link", name="Plans", exact=True).click()
        self.assertFalse(Part.objects.filter(name="lid 110").exists())
        self.assertEqual(Part.objects.count(), 120)
        machine = Plan.objects.get().latest.nozzle.machine.name
        # plans are found by words of part, machine and material
        page.get_by_label("Search plans").fill(f"cube {machine}")
        expect(page.get_by_role("row")).to_have_count(2)
        page.get_by_role("button", name="time h:min").click()
        expect(page.get_by_role("columnheader", name="time h:min ↓")).to_be_visible()
        page.get_by_label("Search plans").fill("cube gannet-of-none")
        expect(page.get_by_text("No plan has all of these words")).to_be_visible()
        self.assertEqual(Plan.objects.count(), 1)

    def test_several_plans_at_once(self):
        page = self.page
        Recipe.objects.create(
            workshop=self.workshop, name="sturdy", settings={"body": {"walls": 5}}, bore=0.4
        )
        self.plan(stl(cube(10)), "cube.stl")
        first = Plan.objects.get()
        for n in (2, 3):
            create_plan(
                self.workshop,
                first.part,
                first.latest.nozzle,
                first.latest.material,
                None,
                {"body": {"infill_density": 10 * n}},
            )
        page.get_by_role("link", name="Plans", exact=True).click()
        page.get_by_label("Tick all that are shown").check()
        expect(page.get_by_text("3 ticked")).to_be_visible()
        page.get_by_label("Tick plan 1").uncheck()
        page.get_by_role("button", name="Change …").click()
        page.get_by_role("dialog").get_by_label("recipe").select_option("sturdy")
        page.get_by_role("button", name="Change 2 plans").click()
        expect(page.get_by_role("dialog")).to_have_count(0)
        walls = [plan.latest.whole_spec.body.walls for plan in Plan.objects.order_by("number")]
        self.assertEqual(walls, [3, 5, 5])
        with page.expect_download() as taken:
            page.get_by_role("button", name="As files").click()
        self.assertEqual(taken.value.suggested_filename, "plans.zip")
        # taken back, nothing is lost; left alone, they go
        page.get_by_role("button", name="Remove", exact=True).click()
        expect(page.get_by_text("2 plans are removed.")).to_be_visible()
        expect(page.get_by_role("row")).to_have_count(2)
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("row")).to_have_count(4)
        page.get_by_label("Tick plan 3").check()
        page.get_by_role("button", name="Remove", exact=True).click()
        with page.expect_response(lambda answer: answer.url.endswith("/several/remove")):
            page.get_by_role("link", name="Parts", exact=True).click()
        self.assertEqual(sorted(Plan.objects.values_list("number", flat=True)), [1, 2])
        # a part whose plans are there still says so
        page.get_by_label("Tick cube").check()
        expect(page.get_by_role("button", name="Remove", exact=True)).to_be_disabled()
        expect(page.get_by_role("button", name="A bed of these 1")).to_be_enabled()
