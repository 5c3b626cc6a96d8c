"""Jobs on the screen: told what came of them, seen in the machine's estimates, taken back."""

from playwright.sync_api import expect

from service.jobs.models import Job
from service.workshop.models import Machine
from tests.browser.base import BrowserCase
from tests.core.shapes import cube, stl


class Jobs(BrowserCase):
    def test_a_job_told_and_its_machine_corrected(self):
        page = self.page
        self.plan(stl(cube(10)), "block.stl")
        page.get_by_role("button", name="Commit job").click()
        page.get_by_role("dialog").get_by_role("button", name="Commit job").click()
        expect(page.get_by_role("link", name="Download").first).to_be_visible()
        first = Job.objects.get()
        for number in (2, 3):  # the same file on two more days
            Job.objects.create(workshop=first.workshop, version=first.version, number=number, file_name=first.file_name, file_key=first.file_key,
                               title=first.title, figures=first.figures, outcome="good", actual_s=1.06 * first.figures["time_s"])
        row = page.locator("[data-job='1']")
        row.get_by_role("button", name="what came of it").click()
        form = page.get_by_role("form", name="What came of job 1")
        form.get_by_role("button", name="with flaws").click()
        form.get_by_label("Minutes it took").fill(f"{1.06 * first.figures['time_s'] / 60:.3f}")
        form.get_by_label("Note").fill("a blob at the start")
        form.get_by_role("button", name="Keep").click()
        expect(row).to_contain_text("with flaws, took")
        expect(row).to_contain_text("+6 %")
        page.get_by_role("link", name="Workshop", exact=True).click()
        learnt = page.locator("[data-learnt='Bench 200']")
        expect(learnt).to_contain_text("corrected from 3 jobs")
        expect(learnt).to_contain_text("% short")
        learnt.get_by_role("button", name="take back").click()
        expect(page.get_by_text("as it states itself")).to_be_visible()
        self.assertIsNone(Machine.objects.get().learnt)
