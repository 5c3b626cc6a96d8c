"""Jobs on the screen: a machine is made, a plan kept within its cap, committed, watched on a
simulated printer, and what came of it told.
"""

import re

from django.core.files.storage import default_storage
from django.db import connection
from playwright.sync_api import expect

from service.jobs.models import Job
from service.workshop.models import Machine, Material, Spool
from tests.browser.base import BrowserCase
from tests.core.shapes import cube, knob, stl
from tests.standin.process import Background, PrinterProcess


class Jobs(BrowserCase):
    def minder(self):
        """The process that looks after the machines."""
        return Background(["manage.py", "mind"], connection, default_storage, self)

    def printer(self, **options):
        printer = PrinterProcess(**options)
        self.addCleanup(printer.stop)
        return printer

    def workshop_page(self, name):
        self.page.get_by_role("link", name="Workshop", exact=True).click()
        self.page.get_by_role("button", name=name, exact=True).click()

    def test_from_a_new_machine_to_a_lighter_spool_and_a_corrected_estimate(self):
        printer = self.printer(factor=3e4, reach=0.7, layer_extra=0.4)
        self.minder()
        self.sign_in()
        self.make_a_machine_of_ones_own(printer)
        self.keep_a_plan_within_its_cap()
        total = Machine.objects.get(name="Whimbrel 200").nozzles.get()
        self.watch_three_copies_until_they_are_done()
        self.count_with_what_was_learnt(total)

    def test_another_filament_waits_until_it_is_hung_up(self):
        printer = self.printer(factor=3e4)
        asa = Material.objects.create(workshop=self.workshop, name="ASA")
        there = Spool.objects.create(material=asa, label="A-1", usable_mass=300)
        connection = {"kind": "printer", "address": printer.address}
        Machine.objects.update(loaded=there, connection=connection, clears_itself=True)
        self.minder()
        self.sign_in()
        page = self.page
        self.drop(stl(cube(8)), "block.stl")
        page.locator("[data-part=block]").get_by_role("button", name="Plan it").click()
        page.get_by_role("dialog").get_by_role("button", name="Plan it").click()
        self.exact()
        self.commit_copies(2)
        column = page.locator("[data-machine='Bench 200']")
        change = column.locator("[data-change=spool]")
        expect(change).to_contain_text("needs S-1 (PLA), and A-1 (ASA) hangs there")
        expect(change.get_by_role("listitem")).to_have_count(4)
        expect(change).to_contain_text("Feed it until it runs clean")
        expect(column.locator("[data-unattended]")).to_contain_text("0 of 2 without a hand")
        self.assertFalse(Job.objects.exclude(state="queued").exists())
        page.get_by_role("link", name="Large type").click()
        expect(page.get_by_role("main")).to_contain_text("Hang up S-1 (PLA)")
        page.get_by_role("link", name="Back to the board").click()
        change.get_by_role("button", name="S-1 is hung up").click()
        expect(page.locator("[data-state=done]")).to_have_count(2, timeout=60_000)
        self.assertEqual(there.entries.count(), 0)

    def make_a_machine_of_ones_own(self, printer):
        """A machine, connected to its printer."""
        page = self.page
        self.workshop_page("Machines")
        page.get_by_role("button", name="+ machine").click()
        page.get_by_label("Machines", exact=True).get_by_label("Name of the new machine").fill(
            "Whimbrel 200"
        )
        page.get_by_role("button", name="Make it").click()
        machine = page.get_by_label("Whimbrel 200", exact=True)
        machine.get_by_label("Width", exact=True).fill("200")
        page.keyboard.press("Enter")
        machine.get_by_label("Kind of connection").select_option("printer")
        machine.get_by_label("Address of the printer").fill("localhost")
        machine.get_by_role("button", name="Keep").click()
        expect(machine.get_by_role("alert")).to_contain_text("write http://name:port")
        machine.get_by_label("Address of the printer").fill(printer.address)
        machine.get_by_role("button", name="Keep").click()
        machine.get_by_label("clears its bed by itself").click()
        expect(machine.get_by_label("clears its bed by itself")).to_be_checked()

    def keep_a_plan_within_its_cap(self):
        """A plan over its time cap takes the best fit within it."""
        page = self.page
        self.drop(stl(knob()), "knob.stl")
        page.locator("[data-part=knob]").get_by_role("button", name="Plan it").click()
        page.get_by_role("dialog").locator("select").first.select_option(
            label="Whimbrel 200, 0.4 mm nozzle"
        )
        page.get_by_role("dialog").get_by_role("button", name="Plan it").click()
        self.exact()
        self.tab("Time ledger")
        total = Machine.objects.get(name="Whimbrel 200").nozzles.get()
        minutes = self.report(total)["time_s"]["total"] / 60
        page.get_by_label("Time cap", exact=True).fill(f"{minutes - 1.2:.2f}")
        page.keyboard.press("Enter")
        over = page.locator("[data-over=over-time]")
        expect(over).to_contain_text("min over")
        over.get_by_role("button", name="Take the best fit within it").click()
        expect(over).to_have_count(0)
        self.exact()
        self.assertLess(self.report(total)["time_s"]["total"] / 60, minutes - 1.2 + 0.01)

    def watch_three_copies_until_they_are_done(self):
        page = self.page
        before = Spool.objects.get().usable_mass
        self.commit_copies(3)
        column = page.locator("[data-machine='Whimbrel 200']")
        # of a new machine nobody has said what hangs there
        change = column.locator("[data-change=spool]")
        expect(change).to_contain_text("nobody has said what hangs there")
        change.get_by_role("button", name="S-1 is hung up").click()
        expect(change).to_have_count(0)
        expect(page.locator("[data-state=done]")).to_have_count(3, timeout=60_000)
        jobs = list(Job.objects.all())
        self.assertAlmostEqual(
            before - Spool.objects.get().usable_mass,
            sum(job.figures["mass_g"] for job in jobs),
            delta=0.01,
        )
        self.workshop_page("Materials and spools")
        row = page.locator("[data-spool=S-1]")
        expect(row).to_contain_text(f"{sum(job.figures['mass_g'] for job in jobs):.1f} g taken")
        row.get_by_role("button", name="ledger").click()
        expect(row).to_contain_text("job 3,")
        self.workshop_page("Machines")
        page.get_by_role("button", name=re.compile("^Whimbrel 200")).click()
        expect(page.locator("[data-learnt='Whimbrel 200']")).to_contain_text(
            "% short; corrected from 3 jobs"
        )

    def count_with_what_was_learnt(self, total):
        """The next plan counts with it: the same cap leaves time for fewer layers. Taken back, the
        machine counts as it states itself.
        """
        page = self.page
        before = self.report(total)["layers"]["count"]
        page.get_by_role("link", name="Plans", exact=True).click()
        page.get_by_role("link", name=re.compile("knob")).first.click()
        self.tab("Pace")
        page.get_by_label("Speed of travel").fill("149")
        page.keyboard.press("Enter")
        self.exact()
        expect(page.locator("dl[data-version='4'][data-state=exact]")).to_be_visible()
        self.assertLess(self.report(total)["layers"]["count"], before)
        self.workshop_page("Machines")
        page.get_by_role("button", name=re.compile("^Whimbrel 200")).click()
        page.locator("[data-learnt='Whimbrel 200']").get_by_role("button", name="take back").click()
        expect(page.get_by_text("it does not learn from its jobs")).to_be_visible()
        self.assertIsNone(Machine.objects.get(name="Whimbrel 200").learnt)

    def report(self, nozzle):
        from service.plans.models import PlanVersion

        return (
            PlanVersion.objects.filter(nozzle=nozzle, state="done")
            .order_by("-number")
            .first()
            .report
        )

    def commit_copies(self, copies):
        page = self.page
        page.get_by_role("button", name="Commit job").click()
        dialog = page.get_by_role("dialog")
        dialog.get_by_label("Copies", exact=True).fill(str(copies))
        page.keyboard.press("Enter")
        expect(dialog.locator("[data-clock]")).to_contain_text("the last ends")
        for box in dialog.get_by_role("checkbox").all():
            box.check()
        dialog.get_by_role("button", name=f"Commit {copies} jobs").click()
        expect(page.get_by_role("heading", name="Jobs")).to_be_visible()

    def test_queue_pause_slip_outcome_and_weight(self):
        page = self.page
        printer = self.printer(factor=5.0)
        machine = Machine.objects.get()
        machine.connection = {"kind": "printer", "address": printer.address}
        machine.save()
        self.plan(stl(cube(10)), "block.stl")
        self.commit_copies(3)
        self.minder()
        running = page.locator("[data-job='1'][data-state]")
        expect(running).to_have_attribute("data-state", re.compile("heating|printing"))
        # by button, then by dragging
        queue = page.get_by_label("Queue of Bench 200")
        expect(queue.locator("[data-job]").first).to_have_attribute("data-job", "2")
        page.get_by_role("button", name="Job 3 earlier").click()
        expect(queue.locator("[data-job]").first).to_have_attribute("data-job", "3")
        queue.locator("[data-job='2']").drag_to(queue.locator("[data-job='3']"))
        expect(queue.locator("[data-job]").first).to_have_attribute("data-job", "2")
        running.get_by_role("button", name="Pause").click()
        expect(running).to_have_attribute("data-state", "paused")
        expect(running.locator("[data-reason]")).to_contain_text("paused by hand")
        printer.ask("POST", "/factor", {"factor": 1e5})
        running.get_by_role("button", name="Go on").click()
        expect(page.get_by_label("Ended jobs").locator("[data-job='1']")).to_have_attribute(
            "data-state", "done"
        )
        self.clear_the_bed_and_hold_the_queue()
        self.tell_what_came_of_it()

    def clear_the_bed_and_hold_the_queue(self):
        """The next one waits for a clear bed."""
        page = self.page
        queue = page.get_by_label("Queue of Bench 200")
        expect(page.locator("[data-machine='Bench 200']")).to_contain_text("say when it is clear")
        page.get_by_role("button", name="hold the queue").click()
        expect(page.get_by_role("button", name="queue is held")).to_be_visible()
        page.get_by_role("button", name="Bed is clear").click()
        expect(page.locator("[data-machine='Bench 200']")).to_contain_text("free · nozzle")
        self.assertEqual(Job.objects.get(number=2).state, "queued")
        queue.get_by_role("button", name="Cancel job 3").click()
        expect(page.get_by_label("Ended jobs").locator("[data-job='3']")).to_have_attribute(
            "data-state", "cancelled"
        )

    def tell_what_came_of_it(self):
        """What came of it, with its weight, corrects the flow of the spool; the slip says it."""
        page = self.page
        row = page.get_by_label("Ended jobs").locator("[data-job='1']")
        row.get_by_role("button", name="what came of it").click()
        form = page.get_by_role("form", name="What came of job 1")
        form.get_by_role("button", name="with flaws").click()
        form.get_by_label("Minutes of finishing").fill("12")
        mass = Job.objects.get(number=1).figures["mass_g"]
        form.get_by_label("Weight of the part").fill(f"{1.04 * mass:.4f}")
        form.get_by_role("button", name="+ measure").click()
        form.get_by_label("Measure 1", exact=True).fill("edge")
        form.get_by_label("Measure 1 should be").fill("10")
        form.get_by_label("Measure 1 is").fill("10.05")
        form.get_by_label("Note").fill("a blob at the start")
        form.get_by_role("button", name="Keep").click()
        expect(row).to_contain_text("with flaws, 12 min of finishing")
        row.get_by_role("button", name="change").click()
        form.get_by_role("button", name="correct the flow of S-1").click()
        expect(form).to_contain_text("flow of S-1 is now 96.2 %")
        told = Job.objects.get(number=1)
        self.assertEqual(
            (told.outcome, told.note, told.measures[0]["measured_mm"]),
            ("flaws", "a blob at the start", 10.05),
        )
        self.assertAlmostEqual(Spool.objects.get().figures["flow"], 100 / 1.04, delta=0.02)
        # the slip
        row.get_by_role("link", name="Slip").click()
        slip = page.get_by_role("article")
        expect(slip).to_contain_text("block")
        expect(slip.get_by_alt_text(re.compile("Code that leads to"))).to_be_visible()
        expect(slip).to_contain_text("3 × 0.45 mm walls")
        page.get_by_role("link", name="Back to the board").click()
        page.get_by_role("link", name="Large type").click()
        expect(page.get_by_role("heading", name="Bench 200")).to_be_visible()

    def test_pace_follows_from_limits_and_stays_by_hand(self):
        page = self.page
        self.plan(stl(cube(14)), "block.stl")
        self.tab("Pace")
        table = page.locator("[data-pace=exact]")
        expect(table.locator("[data-first]")).to_be_visible()
        page.get_by_role("button", name="from limits").click()
        outer = page.locator("[data-row='outer wall']")
        expect(outer).to_contain_text("derived")
        expect(page.locator("[data-pace=exact]")).to_be_visible()
        derived = float(page.get_by_label("Speed of infill").input_value())
        page.get_by_label("Aim at share of flow").fill("50")
        page.keyboard.press("Enter")
        expect(page.get_by_label("Speed of infill")).not_to_have_value(f"{derived:g}")
        page.get_by_label("Speed of infill").fill("33")
        page.keyboard.press("Enter")
        infill = page.locator("[data-row='infill']")
        expect(infill.get_by_role("button", name="derive")).to_be_visible()
        expect(page.locator("[data-pace=exact]")).to_be_visible()
        expect(page.get_by_label("Speed of infill")).to_have_value("33")
        infill.get_by_role("button", name="derive").click()
        expect(infill).to_contain_text("derived")
        # a speed that no move reaches is marked with what is reached
        page.get_by_label("Speed of travel").fill("900")
        page.keyboard.press("Enter")
        expect(page.locator("[data-row=travel] [data-held]")).to_contain_text("short moves")

    def test_spool_reach_and_one_more(self):
        page = self.page
        Spool.objects.update(usable_mass=6.0)
        self.plan(stl(cube(14)), "block.stl")
        self.tab("Time ledger")
        panel = page.locator("[data-reach]")
        expect(panel).to_contain_text("of these")
        expect(page.locator("[data-runs-out=S-1]")).to_contain_text("runs out in copy")
        expect(panel).to_contain_text("lighter each and")
        way = panel.locator("[data-way='body.infill_density']")
        if way.count():
            way.get_by_role("button", name="take").click()
            self.exact()
        page.get_by_role("button", name="by height").click()
        page.locator("[data-stretch='20']").click()
        expect(page.get_by_label("Cursor height")).not_to_have_value("")
        page.get_by_role("button", name="by band").click()
        expect(page.get_by_text("The plan has no bands")).to_be_visible()
