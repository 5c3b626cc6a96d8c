"""Plans side by side as a table."""

from __future__ import annotations

import csv
import io
from typing import Any

from northpace.export.export import Export


def write(found: dict[str, Any]) -> bytes:
    """A row a figure or setting, a column a plan. ``found`` is of `northpace.plan.compare`; its
    plans are named by "title" where they have one.
    """
    sink = io.StringIO()
    out = csv.writer(sink)
    titles = [plan["title"] for plan in found.get("plans", ())]
    if not titles and found["totals"]:
        titles = [f"plan {k + 1}" for k in range(len(found["totals"][0]["values"]))]
    out.writerow(["what", "unit", *titles])
    for row in found["totals"]:
        out.writerow([row["label"], row["unit"], *row["values"]])
    for row in found["features"]:
        out.writerow([f"time, {row['feature']}", "s", *row["seconds"]])
        out.writerow([f"filament, {row['feature']}", "g", *row["grams"]])
    for row in found["heights"]:
        stretch = f"{row['from_mm']:.2f} to {row['to_mm']:.2f} mm"
        out.writerow([f"time, {stretch}", "s", *row["seconds"]])
    for row in found["settings"]:
        label = f"{row['group']}: {row['label']}" if "label" in row else row["name"]
        out.writerow([label, row.get("unit", ""), *row["values"]])
    for row in found["findings"]:
        out.writerow([f"finding {row['code']}", "", *(text or "" for text in row["messages"])])
    return sink.getvalue().encode()


EXPORT = Export(
    "comparison", "csv", "text/csv", "Plans side by side as a table, for a spreadsheet.", write
)
