"""Take the pictures of docs/screenshots/ from a running ./start with the sample workshop.

    .venv/bin/python docs/make_screenshots.py [http://127.0.0.1:8000 [desk jobs heights ...]]

Names after the address take only these views; some build on plans that the ones before made.
Needs the packages ./test installs (Playwright, Debian's Chromium).
"""

from __future__ import annotations

import re
import sys
from collections.abc import Callable
from datetime import date, timedelta
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

import manifold3d as m3
from playwright.sync_api import Page, expect, sync_playwright

from tests.browser.chromium import launch, open_tab
from tests.core.shapes import arrays, stl
from tests.intake.shapes import both, stl_of, turned_in

OUT = Path(__file__).resolve().parent / "screenshots"


def main(address: str, only: list[str]) -> None:
    expect.set_options(timeout=60_000)
    with sync_playwright() as playwright:
        browser = launch(playwright)
        page = browser.new_page(viewport={"width": 1280, "height": 800})

        def shot(name: str) -> None:
            page.evaluate("document.fonts.ready")
            # the stage draws a frame after its data: wait for two of them
            page.evaluate(
                "new Promise(done => requestAnimationFrame(() => requestAnimationFrame(() => "
                "setTimeout(done, 400))))"
            )
            page.screenshot(path=str(OUT / f"{name}.png"))

        page.set_default_timeout(120_000)
        sign_in(page, address)
        for name, take in VIEWS.items():
            if not only or name in only:
                take(page, shot)
        browser.close()


def sign_in(page: Page, address: str) -> None:
    """Into the sample workshop, whose parts are there."""
    page.goto(address)
    expect(page.get_by_label("Name")).to_be_visible()
    page.get_by_label("Name").fill("tern")
    page.get_by_label("Password").fill("tern-point")
    page.get_by_role("button", name="Sign in").click()
    for name in ("dome-cap", "sensor-case"):
        part = page.locator(f"[data-part={name}]")
        expect(part.get_by_role("button", name="Plan it")).to_be_visible()


def desk(page: Page, shot: Callable[[str], None]) -> None:
    """The desk of the sensor case: settings, paths, findings, a bead asked."""
    page.locator("[data-part=sensor-case]").get_by_role("button", name="Plan it").click()
    page.get_by_role("dialog").get_by_role("button", name="Plan it").click()
    expect(page.locator("dl[data-state=exact]")).to_be_visible()
    page.get_by_label("Cursor height").fill("1.8")
    page.keyboard.press("Enter")
    page.locator("canvas").wait_for()
    shot("desk")
    page.get_by_role("button", name="Settings …").click()
    page.get_by_role("button", name="Body").click()
    shot("desk-settings")
    page.get_by_role("button", name="recipes …").click()
    expect(page.get_by_role("dialog")).to_contain_text("what differs")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Close", exact=True).click()
    open_tab(page, "Paths")
    page.get_by_role("button", name="Try each pattern").click()
    expect(page.locator("[data-pattern=vault]")).to_be_visible()
    page.get_by_label("Ask the beads").select_option("what nears the flow limit")
    shot("desk-paths")
    open_tab(page, "Findings")
    page.get_by_label("Ask the beads").select_option("what it is")
    page.locator("[data-finding=overhang]").get_by_role("button").first.click()
    page.get_by_label("Close the callout").click()
    page.get_by_label("Ask the beads").select_option("how wide")
    box = page.get_by_label("Stage").locator("canvas").bounding_box()
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.move(*middle)
    for _ in range(9):
        page.mouse.wheel(0, -300)
    page.wait_for_function(
        "new Promise(done => requestAnimationFrame(() => requestAnimationFrame(() => done(true))))"
    )
    page.mouse.click(middle[0] - 40, middle[1] - 12)  # beside the mark of the finding
    expect(page.locator("[data-bead]")).to_be_visible()
    page.get_by_role("button", name="whole part").first.click()


def faulty(page: Page, shot: Callable[[str], None]) -> None:
    """A part that would not print as it is: two plates on a neck too thin for any bead."""
    plate = m3.Manifold.cube((20.0, 20.0, 5.0))
    neck = m3.Manifold.cube((0.2, 15.0, 5.2)).translate((9.9, 2.5, 4.9))
    solid = plate + neck + plate.translate((0.0, 0.0, 10.0))
    page.get_by_role("link", name="Parts", exact=True).click()
    page.locator("input[type=file]").first.set_input_files(
        {"name": "neck.stl", "mimeType": "model/stl", "buffer": stl(solid)}
    )
    planned(page, "neck")
    open_tab(page, "Findings")
    found = page.locator("[data-finding=starts-in-air]")
    expect(found).to_contain_text("≈")
    found.get_by_role("button").first.click()
    shot("desk-findings")


def torn(page: Page, shot: Callable[[str], None]) -> None:
    """A housing without one of its sides, with a turned triangle and a ball with a hollow."""
    housing = m3.Manifold.cube((60, 40, 30)) - m3.Manifold.cube((52, 32, 30)).translate((4, 4, 4))
    v, f = arrays(housing)
    f = f[v[f].mean(axis=1)[:, 0] < 59.99]
    first = int((v[f].mean(axis=1)[:, 1] < 0.01).argmax())
    f[first] = f[first][::-1]
    ball = m3.Manifold.sphere(9, 48).translate((30, 20, 8))
    hollow = turned_in(arrays(m3.Manifold.sphere(4, 32).translate((30, 20, 8))))
    lid = m3.Manifold.cylinder(3, 14, 14, 64).translate((90, 20, 0))
    page.get_by_role("link", name="Parts", exact=True).click()
    data = stl_of(both((v, f), arrays(ball), hollow, arrays(lid)))
    page.locator("input[type=file]").first.set_input_files(
        {"name": "torn-housing.stl", "mimeType": "model/stl", "buffer": data}
    )
    planned(page, "torn-housing")
    open_tab(page, "Mesh")
    page.get_by_role("button", name=re.compile("Show where: open edges")).click()
    page.get_by_role("figure", name="The mesh before and after mending").wait_for()
    shot("mesh")


def ways(page: Page, shot: Callable[[str], None]) -> None:
    """How the anemometer's cup may stand, and what each way costs."""
    planned(page, "anemometer-cup")
    open_tab(page, "Placement")
    page.get_by_role("link", name=re.compile("Ways up")).click()
    page.locator("[data-ways=done]").wait_for()
    shot("ways")


def heights(page: Page, shot: Callable[[str], None]) -> None:
    """Surface against time: the dome cap, best fit, a band and a pin by hand."""
    exact = page.locator("dl[data-state=exact]")
    page.get_by_role("link", name="Parts", exact=True).click()
    page.locator("[data-part=dome-cap]").get_by_role("button", name="Plan it").click()
    page.get_by_role("dialog").get_by_role("button", name="Plan it").click()
    expect(exact).to_be_visible()
    target = page.get_by_label("Surface target", exact=True)
    target.fill("110")
    target.press("Enter")
    expect(page.locator("dl[data-version='2'][data-state=exact]")).to_be_visible()
    expect(page.locator("[data-above]").first).to_be_visible()
    page.get_by_role("button", name="steps", exact=True).click()
    page.get_by_label("Cursor height").fill("31.4")
    page.keyboard.press("Enter")
    expect(page.get_by_text("frontier: ")).to_have_count(0)
    shot("trade-off")
    page.get_by_role("button", name="+ band").click()
    page.get_by_role("button", name="take 4 mm around").click()
    for label, value in (
        ("Band from", "20"),
        ("Band to", "26"),
        ("Band not below", "0.1"),
        ("Band not above", "0.14"),
    ):
        if label == "Band not below":
            page.get_by_role("button", name="a range").click()
        page.get_by_label(label, exact=True).fill(value)
        page.keyboard.press("Enter")
    page.get_by_label("Band name").fill("label seat")
    page.get_by_role("button", name="Done").click()
    page.get_by_role("button", name="+ pin").click()
    box = page.get_by_role("slider", name="Cursor along the height").bounding_box()
    page.mouse.click(box["x"] + 380, box["y"] + 92)
    page.get_by_role("button", name="Done").click()
    expect(page.locator("[data-rule=band]").first).to_be_visible()
    expect(exact).to_be_visible()
    page.get_by_role("button", name="ghost").click()
    shot("lanes")


def jobs(page: Page, shot: Callable[[str], None]) -> None:
    """Pace by the dial, ledger, review, the board with three jobs done and one under way."""
    exact = page.locator("dl[data-state=exact]")
    page.get_by_label("Ask the beads").select_option("what it is")
    open_tab(page, "Pace")
    page.get_by_role("button", name="one dial").click()
    expect(page.locator("[data-dial]")).to_contain_text(re.compile("quick ≈"))
    page.locator("[data-pace=exact] [data-row='outer wall']").wait_for()
    shot("pace")
    page.get_by_role("button", name="typed").click()
    open_tab(page, "Time ledger")
    page.get_by_label("Time cap", exact=True).fill("60")
    page.keyboard.press("Enter")
    expect(page.locator("[data-over=over-time]")).to_be_visible()
    page.get_by_role("button", name="by height").click()
    expect(exact).to_be_visible()
    shot("ledger")
    page.get_by_role("button", name="Commit job").click()
    expect(page.locator("[data-file-name]")).to_contain_text("gcode")
    page.get_by_label("Copies", exact=True).fill("4")
    page.keyboard.press("Enter")
    expect(page.locator("[data-clock=now]")).to_contain_text("the last ends")
    page.locator("[data-check='own 0']").get_by_role("checkbox").check()
    shot("review")
    for box in page.get_by_role("dialog").get_by_role("checkbox").all():
        box.check()
    page.get_by_role("dialog").get_by_role("button", name="Commit 4 jobs").click()
    skua = page.locator("[data-machine='Skua 220']")
    for number in (1, 2, 3):
        expect(page.locator(f"[data-job='{number}'][data-state=done]")).to_be_visible(
            timeout=180_000
        )
        skua.get_by_role("button", name="Bed is clear").click()
    expect(page.get_by_text(re.compile(r"layer \d\d+ of"))).to_be_visible(timeout=180_000)
    commit_in_another_filament(page)
    expect(page.locator("[data-machine='Gannet 350']")).to_contain_text("Hang up")
    shot("jobs")


def commit_in_another_filament(page: Page) -> None:
    """A job on the second machine, of a filament that does not hang there: it is held."""
    ask = asking(page)
    latest = computed(page, "mast-clamp", "Gannet 350", "PLA")
    checks = ask(f"versions/{latest['id']}/review")["checks"]
    ask("jobs", {"version": latest["id"], "ticked": [check["key"] for check in checks]})


def asking(page: Page) -> Callable[..., Any]:
    """Asks the API as the page would."""
    address = re.sub(r"(https?://[^/]+).*", r"\1", page.url)
    token = next(
        found["value"] for found in page.context.cookies() if found.get("name") == "csrftoken"
    )

    def ask(path: str, body: dict[str, Any] | None = None) -> Any:
        answer = page.request.fetch(
            f"{address}/api/{path}",
            method="GET" if body is None else "POST",
            headers={"X-CSRFToken": token or "", "Referer": address},
            data=body,
        )
        assert answer.ok, answer.text()
        return answer.json()

    return ask


def computed(page: Page, part: str, machine: str, material: str) -> Any:
    """The exact version of a new plan of a part, from the first spool of a material."""

    def named(rows: list[dict[str, Any]], name: str) -> dict[str, Any]:
        return next(found for found in rows if found["name"] == name)

    ask = asking(page)
    of = named(ask("materials"), material)
    plan = ask(
        "plans",
        {
            "part": named(ask("parts"), part)["id"],
            "nozzle": named(ask("machines"), machine)["nozzles"][0]["id"],
            "material": of["id"],
            "spool": of["spools"][0]["id"],
        },
    )
    while (latest := ask(f"plans/{plan['id']}")["latest"])["state"] != "done":
        page.wait_for_timeout(500)
    return latest


def orders(page: Page, shot: Callable[[str], None]) -> None:
    """Three orders along the clock, the next bed opened."""
    for made in (
        ("anemometer-cup", "Skua 220", "PETG"),
        ("anemometer-cup", "Gannet 350", "PETG"),
        ("mast-clamp", "Gannet 350", "PETG"),
        ("dome-cap", "Petrel R", "PLA"),
    ):
        computed(page, *made)
    soon, later = (date.today() + timedelta(days=days) for days in (2, 6))
    rows = (
        "order,customer,due,urgency,part,pieces",
        f"A-17,Harbour office,{later},2,anemometer-cup,40",
        f"A-17,Harbour office,{later},2,mast-clamp,6",
        f"B-3,Ridge station,{soon},3,anemometer-cup,9",
        "C-9,School project,,1,dome-cap,12",
    )
    asking(page)("orders/import", {"table": "\n".join(rows)})
    page.get_by_role("link", name="Orders", exact=True).click()
    expect(page.get_by_text("Searched for")).to_be_visible(timeout=600_000)
    page.get_by_role("region", name="Next beds").get_by_role("button").first.click()
    shot("orders")


def proposals(page: Page, shot: Callable[[str], None]) -> None:
    """Proposals of a plan, a deadline, and three plans side by side."""
    exact = page.locator("dl[data-state=exact]")
    planned(page, "dome-cap")
    open_tab(page, "Next")
    page.get_by_role("button", name="Find changes").click()
    expect(page.locator("[data-search=done]")).to_be_visible(timeout=180_000)
    page.locator("[data-chain]").scroll_into_view_if_needed()
    shot("next")
    page.locator("[data-proposal=heights]").get_by_role("button", name="take").first.click()
    expect(page.locator("dl[data-version='2'][data-state=exact]")).to_be_visible()
    open_tab(page, "Trade-off")
    page.get_by_role("button", name="keep as a plan").click()
    expect(page.get_by_text("kept as plan")).to_be_visible()
    open_tab(page, "Next")
    page.locator("[data-chain]").get_by_role("button", name="take all").click()
    expect(page.locator("dl[data-version='3'][data-state=exact]")).to_be_visible()
    page.get_by_label("Free until").fill("06:30")
    page.get_by_label("Copies by then").fill("80")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="What fits?").click()
    expect(page.locator("[data-deadline]")).to_be_visible()
    expect(exact).to_be_visible()
    open_tab(page, "Compare")
    page.get_by_role("link", name="plans side by side").click()
    page.get_by_label("Stages").locator("canvas").first.wait_for()
    shot("compare")


def beds(page: Page, shot: Callable[[str], None]) -> None:
    """Two plans of one machine on a plate, laid in turn."""
    page.get_by_role("link", name="Plans", exact=True).click()
    for part in ("dome-cap", "mast-clamp"):
        row = page.get_by_role("row").filter(has_text=part).filter(has_text="Skua 220")
        row.filter(has_text="exact").last.get_by_role("checkbox").check()
    page.get_by_role("button", name="Put on a bed").click()
    page.locator("[data-placing='2']").wait_for()
    page.locator("header [data-state=done]").wait_for()
    page.get_by_role("tab", name="How it is laid").click()
    page.get_by_role("combobox", name="Laid").select_option("in-turn")
    page.get_by_role("tab", name="Placings").click()
    page.get_by_role("button", name="Fill the bed").click()
    page.locator("[data-placing='4']").wait_for()
    page.get_by_role("tab", name="Ways").click()
    page.locator("[data-way='in-turn']").get_by_text("as it is now").wait_for()
    page.locator("header [data-state=done]").wait_for()
    page.locator("[data-placing='2']").focus()
    shot("bed")


def people(page: Page, shot: Callable[[str], None]) -> None:
    """Who works here."""
    page.get_by_role("button", name="People").click()
    page.get_by_label("Who the invitation is for").fill("Dunlin, evenings")
    page.get_by_role("button", name="Make a link").click()
    expect(page.get_by_label("Link of the invitation")).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("invited a person"))).to_be_visible()
    shot("people")


def planned(page: Page, part: str) -> None:
    """Plan a part of the sample workshop and wait for its exact figures."""
    page.get_by_role("link", name="Parts", exact=True).click()
    page.locator(f"[data-part={part}]").get_by_role("button", name="Plan it").click()
    page.get_by_role("dialog").get_by_role("button", name="Plan it").click()
    expect(page.locator("dl[data-state=exact]")).to_be_visible()


def places(page: Page, shot: Callable[[str], None]) -> None:
    """Bands, regions and the vase check."""
    exact = page.locator("dl[data-state=exact]")

    def typed(label: str, value: str) -> None:
        page.get_by_label(label, exact=True).fill(value)
        page.keyboard.press("Enter")

    planned(page, "mast-clamp")
    open_tab(page, "Places")
    infill = ("body.infill_density", "Infill density")
    for low, high, changes in (
        ("2", "8", ((*infill, "40"),)),
        ("10", "20", ((*infill, "10"), ("air.fan", "Fan", "90"))),
    ):
        page.get_by_role("button", name="+ band at the cursor").click()
        typed("From", low)
        typed("To", high)
        for name, label, value in changes:
            page.get_by_label("Change a setting in this band").select_option(name)
            typed(label, value)
    page.locator("[data-change='body.infill_density']").get_by_role("button", name="ramp").click()
    typed("Infill density at the upper edge", "50")
    page.get_by_label("Name of the band").fill("ears")
    page.keyboard.press("Tab")
    expect(page.locator("[data-lane=fan]")).to_be_visible()
    expect(exact).to_be_visible()
    planned(page, "gauge-body")
    open_tab(page, "Places")
    page.get_by_role("button", name="+ region: click on the part").click()
    page.get_by_label("Cursor height").fill("40")
    page.keyboard.press("Enter")
    box = page.get_by_label("Stage").locator("canvas").bounding_box()
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] * 0.46)
    page.get_by_label("Change a setting in this region").select_option("body.infill_density")
    typed("Infill density", "35")
    page.get_by_role("button", name="regions", exact=True).click()
    page.get_by_role("button", name="cylinder", exact=True).click()
    page.mouse.click(box["x"] + box["width"] * 0.42, box["y"] + box["height"] * 0.6)
    expect(page.locator("[data-region-row='1']")).to_contain_text("mm")
    expect(exact).to_be_visible()
    page.get_by_role("button", name="shape", exact=True).click()
    planned(page, "fluted-sleeve")
    open_tab(page, "Paths")
    page.get_by_role("button", name="one spiral", exact=True).click()
    expect(page.locator("dl[data-version='2'][data-state=exact]")).to_be_visible()
    page.get_by_role("button", name="Compare the ways").click()
    expect(page.locator("[data-way=open-vessel]")).to_be_visible()
    page.locator("[data-way=open-vessel]").scroll_into_view_if_needed()


def parts(_: Page, shot: Callable[[str], None]) -> None:
    """The first screen."""
    shot("parts")


def workshop(page: Page, shot: Callable[[str], None]) -> None:
    """Machines, and what they learnt."""
    page.get_by_role("link", name="Workshop", exact=True).click()
    expect(page.get_by_role("heading", name="Machines")).to_be_visible()
    page.locator("[data-learnt='Skua 220']").wait_for()
    shot("workshop")


#: In the order they are taken.
VIEWS: dict[str, Callable[[Page, Callable[[str], None]], None]] = {
    view.__name__: view
    for view in (
        *(parts, desk, jobs, heights, places, proposals, faulty, torn, ways, beds),
        *(orders, workshop, people),
    )
}

if __name__ == "__main__":
    main(sys.argv[1] if len(sys.argv) > 1 else "http://127.0.0.1:8000", sys.argv[2:])
