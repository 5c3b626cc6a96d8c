"""Debian's Chromium, headless."""

from __future__ import annotations

import re
import shutil

from playwright.sync_api import Page

#: WebGL in software, and none of the browser's own traffic.
FLAGS = [
    "--no-sandbox",
    "--use-gl=angle",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
    "--disable-quic",
    "--disable-gpu-compositing",
    "--disable-gpu-rasterization",
]


def launch(playwright):
    """Debian's Chromium."""
    return playwright.chromium.launch(
        executable_path=shutil.which("chromium") or "/usr/bin/chromium", args=FLAGS
    )


#: Instruments by their kind.
KINDS = {
    "decide": ("Trade-off", "Next", "Compare"),
    "account": ("Time ledger", "Findings"),
    "set up": ("Placement", "Mesh", "Paths", "Pace", "Places"),
}


def open_tab(page: Page, name: str | re.Pattern[str]) -> None:
    """Open an instrument beside the stage."""
    word = name.pattern if isinstance(name, re.Pattern) else name
    kind = next(kind for kind, names in KINDS.items() if any(word in one for one in names))
    page.get_by_role("button", name=kind, exact=True).click()
    page.get_by_role("tab", name=re.compile(name)).click()
