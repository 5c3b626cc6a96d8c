"""Whose work ships with ours: ``python -m ops.notices`` writes NOTICES.md anew."""

from __future__ import annotations

import json
import re
from importlib.metadata import PackageNotFoundError, metadata
from pathlib import Path

from ops.steps import ROOT

HEAD = """# Third-party notices

North Pace is under the MIT licence (see [LICENSE](LICENSE)). It runs with, and its pages contain,
the work of others, each under its own licence. Made by `python -m ops.notices`; a test fails while
it is stale.
"""


def notices() -> str:
    """The text of NOTICES.md for what is pinned now."""
    return "\n".join(
        [
            HEAD,
            "## Python packages\n",
            _table(_python()),
            "\n## Fonts and scripts in the pages\n",
            _table(_web()),
            "",
        ]
    )


def _table(rows: list[tuple[str, str, str]]) -> str:
    lines = ["| package | version | licence |", "|---|---|---|"]
    return "\n".join(lines + [f"| {name} | {version} | {words} |" for name, version, words in rows])


def _python() -> list[tuple[str, str, str]]:
    rows = []
    for line in (ROOT / "requirements.txt").read_text().splitlines():
        found = re.match(r"([\w.-]+)(?:\[[\w,]+\])?==([\w.]+)", line)
        if found:
            rows.append((found[1], found[2], _licence(found[1])))
    return rows


def _licence(name: str) -> str:
    """The licence a package states, in its newest field or its oldest."""
    try:
        about = metadata(name)
    except PackageNotFoundError:
        return "not installed here"
    kinds = [
        one.rsplit("::", 1)[-1].strip()
        for one in about.get_all("Classifier", [])
        if one.startswith("License ::") and one.count("::") > 1
    ]
    first_line = (about.get("License") or "?").splitlines()[0]
    return str(about.get("License-Expression") or ", ".join(kinds) or first_line[:60])


def _web() -> list[tuple[str, str, str]]:
    locked = json.loads((ROOT / "web" / "package-lock.json").read_text())["packages"]
    rows = {}
    for path, entry in locked.items():
        if not path or entry.get("dev") or entry.get("optional") or entry.get("peer"):
            continue
        name = path.rsplit("node_modules/", 1)[-1]
        stated = entry.get("license") or _of_package(ROOT / "web" / path)
        rows[name, entry["version"]] = str(stated)
    return [(*key, words) for key, words in sorted(rows.items())]


def _of_package(folder: Path) -> str:
    try:
        return str(json.loads((folder / "package.json").read_text()).get("license", "?"))
    except OSError:
        return "?"


if __name__ == "__main__":
    (ROOT / "NOTICES.md").write_text(notices())
