"""What a maker waits for at the desk, in headless Chromium.

    python -m bench.desk --address http://127.0.0.1:8000 [--shop]

against a running `./start` with the sample workshop; ``--shop`` looks at the lists of the shop
that `python -m bench.shop --keep` leaves instead. Milliseconds from the press to what it shows,
with what the driver itself takes (about 20 ms).
"""

from __future__ import annotations

import argparse
import time
from collections.abc import Callable
from functools import partial

import numpy as np
from playwright.sync_api import Page, expect, sync_playwright

from bench.shop import NAME, PASSWORD
from tests.browser.chromium import launch, open_tab

#: Parts the first figures are waited for, about 20,000 triangles each.
PARTS = ("dome-cap", "anemometer-cup")
TIMES = 5
NEXT_FRAME = "new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))"


#: Notes in the page itself when figures, lanes and points of the trade-off stand.
FIRST = """() => {
  const wanted = ["dl[data-state=quick], dl[data-state=exact]",
    "[aria-label='Cursor along the height']", "[data-curve]"];
  let begun = performance.now();
  document.addEventListener("click", () => { begun = performance.now(); },
    { capture: true, once: true });
  const seen = new MutationObserver(() => {
    if (!wanted.every(one => document.querySelector(one))) return;
    window.first = performance.now() - begun;
    seen.disconnect();
  });
  seen.observe(document, { subtree: true, childList: true, attributes: true });
}"""


def main() -> None:
    parser = argparse.ArgumentParser(prog="bench.desk", description=__doc__)
    parser.add_argument("--address", default="http://127.0.0.1:8000")
    parser.add_argument("--shop", action="store_true")
    options = parser.parse_args()
    expect.set_options(timeout=120_000)
    with sync_playwright() as playwright:
        browser = launch(playwright)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.set_default_timeout(120_000)
        name, password = (NAME, PASSWORD) if options.shop else ("tern", "tern-point")
        page.goto(options.address)
        page.get_by_label("Name").fill(name)
        page.get_by_label("Password").fill(password)
        page.get_by_role("button", name="Sign in").click()
        page.locator("[data-part]").first.wait_for()
        (lists if options.shop else desk)(page)
        browser.close()


def said(words: str, seconds: list[float]) -> None:
    """A line with the median and the longest."""
    print(
        f"{words:44} {1000 * float(np.median(seconds)):6.0f} ms, longest {1000 * max(seconds):.0f}",
        flush=True,
    )


def until_shown(page: Page, act: Callable[[], None]) -> float:
    """Seconds from an act until its ≈ figures came and were drawn."""
    begun = time.perf_counter()
    with page.expect_response(lambda answer: answer.url.endswith("/quick")):
        act()
    page.evaluate(NEXT_FRAME)
    return time.perf_counter() - begun


def at_rest(page: Page) -> None:
    """Nothing is computed any more, the frontier included."""
    page.locator("dl[data-state=exact]").wait_for()
    page.locator("[data-curve=frontier]").wait_for()


def at_rest_there(page: Page) -> None:
    """Nothing is on its way any more."""
    page.wait_for_load_state("networkidle")


def desk(page: Page) -> None:
    """First figures, a stroke, the dial and the bar."""
    for part in PARTS:
        seconds = []
        for _ in range(TIMES):
            page.get_by_role("link", name="Parts", exact=True).click()
            page.locator(f"[data-part={part}]").get_by_role("button", name="Plan it").click()
            dialog = page.get_by_role("dialog")
            expect(dialog.locator("[data-ahead]").first).to_contain_text(":")
            page.evaluate(FIRST)
            dialog.get_by_role("button", name="Plan it").click()
            at_rest(page)
            seconds.append(page.evaluate("window.first / 1000"))
        said(f"first figures, lanes and points, {part}", seconds)
    page.get_by_role("button", name="best fit", exact=True).click()
    page.locator("dl[data-state=exact][data-version='2']").wait_for()
    at_rest(page)
    strokes(page)
    dial(page)
    bar(page)


def strokes(page: Page) -> None:
    """A stroke's ≈ figures while it is drawn."""
    page.get_by_role("button", name="stroke", exact=True).click()
    box = page.get_by_role("slider", name="Cursor along the height").bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 300, box["y"] + 90)
    page.mouse.down()
    page.mouse.move(box["x"] + 340, box["y"] + 90)
    page.locator("[data-came]").wait_for()
    seconds = []
    for k in range(12):
        x = box["x"] + 380 + 40 * k
        seconds.append(until_shown(page, lambda x=x: page.mouse.move(x, box["y"] + 90)))
    page.mouse.up()
    said("a stroke's figures while it is drawn", seconds)
    at_rest(page)
    page.get_by_role("button", name="stroke", exact=True).click()


def dial(page: Page) -> None:
    """The dial's ≈ time."""
    open_tab(page, "Pace")
    with page.expect_response(lambda answer: answer.request.method == "PATCH"):
        page.get_by_role("button", name="one dial").click()
    page.locator("dl[data-state=exact]").wait_for()
    slider = page.get_by_role("slider", name="Dial from precise to quick")
    slider.focus()
    seconds = []
    for _ in range(8):
        seconds.append(until_shown(page, lambda: slider.press("ArrowRight")))
        page.locator("dl[data-state=exact]").wait_for()
        at_rest_there(page)
    said("a step of the dial", seconds)


def bar(page: Page) -> None:
    """The effect of a command before Enter."""
    page.locator("h1").first.click()
    page.keyboard.press("/")
    field = page.get_by_role("combobox", name="What to do")
    seconds = []
    for words in ("dome", "layer 12", "infill", "plans", "pace", "31.4"):
        begun = time.perf_counter()
        field.fill(words)
        page.get_by_role("option").first.wait_for()
        page.evaluate(NEXT_FRAME)
        seconds.append(time.perf_counter() - begun)
    said("the bar finds what is typed", seconds)
    seconds = []
    for value in (20, 30, 40, 50):
        begun = time.perf_counter()
        field.fill(f"infill density {value}")
        page.locator("[data-effect]").filter(has_text="≈").wait_for()
        seconds.append(time.perf_counter() - begun)
        field.fill("")
    said("the effect of a setting typed into the bar", seconds)


def lists(page: Page) -> None:
    """Opening, searching and sorting the lists of a shop."""
    for name, row, words in (
        ("Parts", "[data-part]", ("bracket 12", "lid 07", "vane")),
        ("Plans", "tbody tr", ("clamp bench 2", "finer petg", "1234")),
    ):
        seconds = []
        for _ in range(TIMES):
            page.goto("about:blank")
            page.go_back()
            page.get_by_role("link", name="Jobs", exact=True).click()
            page.get_by_role("heading", name="Jobs").wait_for()
            begun = time.perf_counter()
            page.get_by_role("link", name=name, exact=True).click()
            page.locator(row).nth(20).wait_for()
            seconds.append(time.perf_counter() - begun)
        said(f"{name} open", seconds)
        field = page.get_by_label(f"Search {name.lower()}")
        found = page.get_by_role("search").get_by_role("status")
        seconds = []
        for word in words:
            seconds.append(until_listed(page, partial(field.fill, word)))
            expect(found).to_contain_text("found")
        said(f"{name} search", seconds)
    seconds = []
    for column in ("time h:min", "P95 µm", "last printed", "came out well", "on"):
        head = page.get_by_role("button", name=column, exact=True)
        seconds.append(until_listed(page, head.click))
    said("Plans sorted by a column", seconds)


def until_listed(page: Page, act: Callable[[], None]) -> float:
    """Seconds from an act until another page of a list came and was drawn."""
    begun = time.perf_counter()
    with page.expect_response(lambda answer: "offset=0" in answer.url):
        act()
    page.evaluate(NEXT_FRAME)
    return time.perf_counter() - begun


if __name__ == "__main__":
    main()
