"""Somebody is invited, joins, and does what their role is for."""

import re

from playwright.sync_api import expect

from service.accounts.models import Member
from tests.browser.base import BrowserCase


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
        self.assertEqual(Member.objects.filter(workshop=self.workshop).count(), 1)
