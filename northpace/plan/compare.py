"""Plans side by side: what differs in settings, time, grams, money and surface, by feature, band
and height, and in findings.

The first plan is the baseline. Everything comes from the reports, so a difference is one of sums
over moves.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

import numpy as np

from northpace.figures import Report
from northpace.spec import GROUP_TITLES, settings

#: Stretches of height that are told apart, from the bed to the top of the tallest plan.
STRETCHES = 24
#: Figures by their path in a report, with label and unit.
TOTALS = (
    ("time_s", "total", "time", "s"),
    ("filament", "mass_g", "filament", "g"),
    ("filament", "cost", "cost", "€"),
    ("surface", "mean_um", "step error, mean", "µm"),
    ("surface", "p95_um", "step error, P95", "µm"),
    ("surface", "max_um", "step error, highest", "µm"),
    ("layers", "count", "layers", ""),
    ("paths", "wall_thickness_mm", "wall thickness", "mm"),
    ("paths", "travel_mm", "travel", "mm"),
    ("paths", "seams", "seams", ""),
    ("strength", "mean_stiffness", "stiffness proxy, mean", ""),
    ("strength", "least_stiffness", "stiffness proxy, least", ""),
    ("time_s", "flow_floor", "flow floor", "s"),
)


def compare(reports: list[Report], specs: list[dict[str, Any]]) -> dict[str, Any]:
    """What differs between plans, each given by its report and its spec as plain data; rows have
    one value a plan, the baseline's first.
    """
    edges = np.linspace(
        0.0, max(float(report["layers"]["tops_mm"][-1]) for report in reports), STRETCHES + 1
    )
    seconds, grams = (
        [_spread(report, "seconds", edges) for report in reports],
        [_spread(report, "mass_g", edges) for report in reports],
    )
    return {
        "settings": differing(specs),
        "totals": [
            {
                "key": f"{group}.{key}",
                "label": label,
                "unit": unit,
                "values": [_figure(report, group, key) for report in reports],
            }
            for group, key, label, unit in TOTALS
        ],
        "features": _features(reports),
        "bands": _bands(reports),
        "heights": [
            {
                "from_mm": float(edges[k]),
                "to_mm": float(edges[k + 1]),
                "seconds": [float(row[k]) for row in seconds],
                "grams": [float(row[k]) for row in grams],
            }
            for k in range(STRETCHES)
        ],
        "findings": _findings(reports),
    }


def differing(specs: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """Settings that are not the same in all specs, with label, group and unit; values that are
    lists are told by how many they are.
    """
    rows = []
    for entry in settings():
        values = [spec[entry["group"]][entry["key"]] for spec in specs]
        if any(value != values[0] for value in values[1:]):
            rows.append(
                {
                    "name": entry["name"],
                    "label": entry["label"],
                    "group": GROUP_TITLES[entry["group"]],
                    "unit": entry["unit"],
                    "type": entry["type"],
                    "values": values
                    if entry["type"] != "list"
                    else [f"{len(value)} of them" for value in values],
                }
            )
    return rows


def _figure(report: Report, group: str, key: str) -> float:
    """A figure by its name; `TOTALS` lists them."""
    whole: Mapping[str, Any] = report
    return float(whole[group][key])


def _features(reports: list[Report]) -> list[dict[str, Any]]:
    found: dict[str, dict[str, list[float]]] = {}
    for k, report in enumerate(reports):
        for entry in report["ledger"]["features"]:
            row = found.setdefault(
                entry["feature"],
                {key: [0.0] * len(reports) for key in ("seconds", "grams", "cost")},
            )
            row["seconds"][k], row["grams"][k] = entry["seconds"], entry["grams"]
            row["cost"][k] = entry["cost"]
    order = sorted(
        found,
        key=lambda name: (
            -max(abs(value - found[name]["seconds"][0]) for value in found[name]["seconds"])
        ),
    )
    return [{"feature": name, **found[name]} for name in order]


def _bands(reports: list[Report]) -> list[dict[str, Any]]:
    """Bands by their name; a plan without one of them has None there."""
    names = list(
        dict.fromkeys(band["name"] for report in reports for band in report["ledger"]["bands"])
    )
    rows = []
    for name in names:
        mine = [
            next((band for band in report["ledger"]["bands"] if band["name"] == name), None)
            for report in reports
        ]
        rows.append(
            {
                "name": name,
                **{
                    key: [band[key] if band else None for band in mine]
                    for key in ("seconds", "grams")
                },
            }
        )
    return rows


def _spread(report: Report, key: Literal["seconds", "mass_g"], edges: np.ndarray) -> np.ndarray:
    """(K,) what the layers of a plan have of something in stretches of height; a layer over an edge
    gives each its share.
    """
    layers = report["layers"]
    tops = np.array(layers["tops_mm"])
    whole = np.r_[0.0, np.cumsum(layers[key])]
    return np.diff(np.interp(edges, np.r_[0.0, tops], whole))


def _findings(reports: list[Report]) -> list[dict[str, Any]]:
    """Findings that are not the same everywhere: code, severity, and what each plan says (None
    where it does not).
    """
    codes = list(
        dict.fromkeys(finding["code"] for report in reports for finding in report["findings"])
    )
    rows = []
    for code in codes:
        mine = [
            next((finding for finding in report["findings"] if finding["code"] == code), None)
            for report in reports
        ]
        said = [finding["message"] if finding else None for finding in mine]
        if any(text != said[0] for text in said[1:]):
            first = next(finding for finding in mine if finding)
            rows.append(
                {
                    "code": code,
                    "severity": first["severity"],
                    "messages": said,
                    "z_mm": [finding["z_mm"] if finding else None for finding in mine],
                }
            )
    return rows


def lanes_of(report: Report) -> dict[str, list[float]]:
    """What the overlaid lanes draw of a plan: tops (mm), minutes a millimetre, step error (µm),
    layer height (mm) of every layer.
    """
    layers = report["layers"]
    heights = np.array(layers["heights_mm"])
    pace = np.array(layers["seconds"]) / 60 / np.maximum(heights, 1e-9)
    return {
        "tops_mm": layers["tops_mm"],
        "min_per_mm": [round(float(v), 4) for v in pace],
        "error_um": layers["error_um"],
        "heights_mm": layers["heights_mm"],
    }
