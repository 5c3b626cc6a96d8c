"""Several people: invited, each with a role, and two at one plan."""

import re

from playwright.sync_api import expect

from service.accounts.models import Member
from service.plans.models import Plan
from service.plans.rules import merging, presence
from service.plans.rules.versions import Author, choice_of
from tests.browser.base import BrowserCase
from tests.core.shapes import cube, stl


class People(BrowserCase):
    def test_an_operator_is_invited_and_may_not_change_machines(self):
        self.sign_in()
        self.page.goto(f"{self.live_server_url}/workshop?page=people")
        self.page.get_by_label("Who the invitation is for").fill("Dunlin")
        self.page.get_by_role("button", name="Make a link").click()
        link = self.page.get_by_label("Link of the invitation").input_value()
        expect(self.page.get_by_text("Dunlin, as operator")).to_be_visible()
        expect(self.page.get_by_role("row", name=re.compile("invited a person"))).to_be_visible()

        context = self._browser.new_context(viewport={"width": 1280, "height": 800})
        self.addCleanup(context.close)
        page = context.new_page()
        page.goto(link)
        page.get_by_label("Your name, as others see it").fill("Dunlin")
        page.get_by_label("Name to sign in with").fill("dunlin")
        page.get_by_label("Password").fill("short")
        page.get_by_role("button", name="Join").click()
        expect(page.get_by_role("alert")).to_contain_text("at least 10 characters")
        page.get_by_label("Password").fill("long-shore-bird")
        page.get_by_role("button", name="Join").click()
        expect(page.get_by_role("link", name="Dunlin operator")).to_be_visible()

        page.goto(f"{self.live_server_url}/workshop?page=machines")
        page.get_by_role("button", name="+ machine").click()
        page.get_by_label("Name of the new machine").fill("Mine")
        page.get_by_role("button", name="Make it").click()
        expect(page.get_by_role("alert")).to_contain_text("this is for owners; ask Maker")

        # what the link was is gone, and so is the person once removed
        page.get_by_role("button", name="Sign out").click()
        expect(page.get_by_label("Password")).to_be_visible()
        page.goto(link)
        expect(page.get_by_text("this invitation was used")).to_be_visible()
        self.page.reload()
        self.page.get_by_label("Role of Dunlin").select_option("planner")
        expect(self.page.get_by_role("row", name=re.compile("changed a person"))).to_be_visible()
        self.page.get_by_role("button", name="Remove Dunlin …").click()
        self.page.get_by_role("button", name="Remove Dunlin", exact=True).click()
        expect(self.page.get_by_label("Role of Dunlin")).to_have_count(0)
        self.assertEqual(Member.objects.filter(workshop=self.workshop, left=None).count(), 1)


class TwoDesks(BrowserCase):
    def elsewhere(self, group: str, key: str, value: object) -> None:
        """Somebody changes the plan on another screen."""
        plan = Plan.objects.get()
        choice = choice_of(plan.latest)
        settings = {**choice.settings, group: {**choice.settings.get(group, {}), key: value}}
        author = Author("another", "Dunlin")
        merging.change(plan, choice._replace(settings=settings), author, plan.latest.number)

    def test_what_another_changes_is_kept_and_shown_and_a_clash_asks(self):
        page = self.page
        self.plan(stl(cube(8)), "block.stl")
        presence.others(Plan.objects.get(), Author("another", "Dunlin"))
        expect(page.get_by_text("also here: Dunlin")).to_be_visible()
        self.elsewhere("body", "infill_density", 35)
        page.get_by_role("button", name="Settings …").click()
        page.get_by_role("button", name="Body").click()
        expect(page.get_by_label("Infill density", exact=True)).to_have_value("35")

        # from now on this screen does not hear of the other one
        page.route("**/others", lambda route: route.abort())
        self.elsewhere("body", "infill_density", 40)
        field = page.get_by_label("Infill density", exact=True)
        field.fill("20")
        field.press("Enter")
        told = page.get_by_role("alert").filter(has_text="Changed elsewhere")
        expect(told).to_contain_text("Dunlin set Infill density to 40 %, and here it is 20 %")
        told.get_by_role("button", name="Take what is there").click()
        expect(field).to_have_value("40")
        self.elsewhere("body", "infill_density", 45)
        field.fill("25")
        field.press("Enter")
        told.get_by_role("button", name="Keep what is here").click()
        expect(told).to_have_count(0)
        self.wait_for(lambda: Plan.objects.get().latest.settings["body"]["infill_density"] == 25)
