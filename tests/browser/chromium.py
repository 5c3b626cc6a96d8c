"""Debian's Chromium, headless."""

from __future__ import annotations

import shutil

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
