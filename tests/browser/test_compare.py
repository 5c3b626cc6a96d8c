"""Three plans compared, two proposals taken and one undone, a deadline met, one recipe for several
parts, a changed mesh.
"""

import re
from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import expect

from service.plans.models import Plan, PlanVersion
from service.workshop.models import Machine, Nozzle, Recipe
from tests.browser.base import BrowserCase
from tests.core.shapes import cube, knob, stl


class Compare(BrowserCase):
    def test_three_plans_two_proposals_one_undone_and_a_deadline(self):
        self.plan(stl(knob()), "knob.stl")
        self.take_two_proposals_and_undo_one()
        self.see_three_plans_side_by_side()
        self.meet_a_deadline()
        self.share_it_between_machines()

    def take_two_proposals_and_undo_one(self):
        page = self.page
        self.tab("Next")
        expect(page.get_by_text("Nothing searched yet")).to_be_visible()
        page.get_by_label("Must not change").select_option("pace.outer_wall_speed")
        page.get_by_role("button", name="Find changes").click()
        expect(page.locator("[data-search=done]")).to_be_visible(timeout=120_000)
        expect(page.locator("[data-chain]")).to_contain_text("% less")
        # an arrow on the trade-off for each
        self.tab("Trade-off")
        expect(page.locator("[data-arrow]").first).to_be_visible()
        self.tab("Next")
        before = self.total()
        proposals = page.locator("[data-proposal]")
        families = list(
            dict.fromkeys(one.get_attribute("data-proposal") for one in proposals.all())
        )
        self.assertGreaterEqual(len(families), 2)
        said = page.request.get(
            f"{self.live_server_url}/api/plans/{Plan.objects.get().pk}/proposals"
        ).json()[0]["result"]["singles"]
        page.locator(f"[data-proposal={families[0]}]").first.get_by_role(
            "button", name="take"
        ).click()
        self.version(2)
        first = next(one for one in said if one["family"] == families[0])
        self.assertAlmostEqual(self.total(), first["after"]["time_s"], delta=0.5)
        expect(page.get_by_text("Found for an earlier version")).to_be_visible()
        page.locator(f"[data-proposal={families[1]}]").first.get_by_role(
            "button", name="take"
        ).click()
        self.version(3)
        self.assertLess(self.total(), first["after"]["time_s"])
        page.get_by_role("button", name="Undo").click()
        self.version(4)
        self.assertAlmostEqual(self.total(), first["after"]["time_s"], delta=0.01)
        self.assertLess(self.total(), before)

    def see_three_plans_side_by_side(self):
        """What differs from the baseline, and three plans beside each other."""
        page = self.page
        self.tab("Trade-off")
        page.get_by_role("button", name="keep as a plan").click()
        expect(page.get_by_text("kept as plan 2")).to_be_visible()
        page.get_by_role("button", name="Redo").click()
        self.version(5)
        self.tab("Compare")
        expect(page.get_by_label("Instruments")).to_be_visible()
        expect(page.get_by_role("table", name="Settings that differ")).to_contain_text(
            "the defaults"
        )
        page.get_by_role("link", name=re.compile("3 plans side by side")).click()
        expect(page.get_by_role("heading", name="3 plans side by side")).to_be_visible()
        expect(page.locator("[data-compared]")).to_have_count(3)
        expect(
            page.get_by_role("table", name="Figures", exact=True).locator(
                "[data-row='time_s.total']"
            )
        ).to_contain_text("−")
        lanes = page.get_by_role("slider", name="Height in the lanes of all plans")
        expect(lanes.locator("[data-lane=min_per_mm] path")).to_have_count(3)
        lanes.focus()
        at = float(lanes.get_attribute("aria-valuenow"))
        page.keyboard.press("ArrowRight")
        expect(lanes).to_have_attribute("aria-valuenow", re.compile(rf"^{at + 0.2:.1f}"))
        expect(page.get_by_label("Stages").locator("canvas")).to_have_count(2)
        verdict = page.get_by_label("Verdict on plan 2")
        verdict.fill("quick, looks well")
        page.keyboard.press("Enter")
        expect(verdict).to_have_value("quick, looks well")
        with page.expect_download() as waiting:
            page.get_by_role("link", name="CSV").click()
        self.assertEqual(waiting.value.suggested_filename, "compared.csv")
        page.get_by_role("button", name=re.compile("^Hide plan 2")).click()
        expect(page.locator("[data-compared]")).to_have_count(2)

    def meet_a_deadline(self):
        page = self.page
        page.get_by_role("link", name="Plans", exact=True).click()
        expect(page.get_by_text("quick, looks well")).to_be_visible()
        page.get_by_label("Tick plan 1").check()
        page.get_by_label("Tick plan 2").check()
        expect(page.get_by_role("link", name="Compare 2 plans")).to_be_visible()
        page.get_by_role("link", name="knob", exact=True).last.click()
        self.exact()
        self.tab("Next")
        page.get_by_label("Free until").fill("half past")
        expect(page.get_by_text("a time such as 06:30")).to_be_visible()
        page.get_by_label("Free until").fill("2030-01-01 06:30")
        page.get_by_label("Copies by then").fill("2")
        page.get_by_role("button", name="What fits?").click()
        expect(page.locator("[data-deadline=fits]")).to_contain_text(
            "2 copies on Bench 200: the plan as it is"
        )
        expect(page.locator("[data-deadline=fits]")).to_contain_text("pieces a day")

    def share_it_between_machines(self):
        """With a second machine the copies are done earlier, each machine by a plan of its own;
        what cannot be had says what would be needed.
        """
        page = self.page
        machine = Machine.objects.create(
            workshop=self.workshop, name="Bench B", figures={"size_x": 200, "size_y": 200}
        )
        Nozzle.objects.create(machine=machine, bore=0.4, flow=20, least_height=0.08)
        page.get_by_role("button", name="What fits?").click()
        share = page.locator("[data-share='Bench B']")
        expect(share).to_contain_text("1 on Bench B: the plan as it is")
        expect(page.locator("[data-share='Bench 200']")).to_contain_text(
            "1 on Bench 200, this plan"
        )
        share.get_by_role("button", name="make its plan").click()
        share.get_by_role("link").click()
        expect(page.get_by_role("button", name="Machine: Bench B")).to_be_visible()
        self.exact()
        self.tab("Next")
        soon = timezone.now() + timedelta(minutes=2)
        page.get_by_label("Free until").fill(f"{soon:%Y-%m-%d %H:%M}")
        page.get_by_label("Copies by then").fill("9")
        page.get_by_role("button", name="What fits?").click()
        expect(page.locator("[data-deadline=refused]")).to_contain_text(
            "9 copies do not fit before then"
        )
        expect(page.locator("[data-needed]")).to_contain_text("more time:")

    def total(self):
        return (
            PlanVersion.objects.filter(plan__number=1, state="done")
            .order_by("-number")
            .first()
            .report["time_s"]["total"]
        )

    def version(self, number):
        expect(self.page.locator(f"dl[data-version='{number}'][data-state=exact]")).to_be_visible()

    def test_one_recipe_for_several_parts_and_a_changed_mesh(self):
        page = self.page
        Recipe.objects.create(
            workshop=self.workshop, name="Thin", bore=0.4, settings={"body": {"walls": 2}}
        )
        self.sign_in()
        for size in (6, 8):
            self.drop(stl(cube(size)), f"cube{size}.stl")
            expect(
                page.locator(f"[data-part=cube{size}]").get_by_role("button", name="Plan it")
            ).to_be_visible()
        page.get_by_role("button", name="One recipe for several").click()
        for name in ("cube6", "cube8"):
            page.get_by_role("dialog").get_by_label(name).check()
        page.get_by_role("dialog").get_by_role("button", name="Plan 2 parts").click()
        expect(page.get_by_role("heading", name="Plans")).to_be_visible()
        expect(page.get_by_role("cell", name="exact")).to_have_count(2)
        self.assertEqual(
            {plan.latest.settings["body"]["walls"] for plan in Plan.objects.all()}, {2}
        )
        page.get_by_role("link", name="cube8").click()
        self.exact()
        self.tab("Placement")
        page.get_by_label("Another part under this plan").select_option(label="cube6")
        expect(page.locator("[data-mesh]")).to_contain_text("Everything still makes sense on cube6")
        self.version(2)
        page.get_by_role("link", name="Compare old and new").click()
        expect(page.locator("[data-compared]")).to_have_count(2)
        expect(page.get_by_text("No setting differs.")).to_be_visible()
