"""Orders from a table: rows that can be taken become orders, of the others it is said what is
wrong in which row.
"""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass, field
from datetime import date, datetime, time
from zoneinfo import ZoneInfo

from northpace.errors import InputError
from northpace.schedule.problem import MOST_PIECES
from service.orders.models import Order
from service.orders.rules.taking import LineWish, take
from service.parts.models import Part
from service.plans.models import Plan
from service.workshop.models import Workshop
from service.workshop.rules.house import house_of

#: Columns of the table; those that are needed come first.
NEEDED, OTHERS = ("part", "pieces"), ("order", "customer", "due", "urgency", "plans", "note")
#: Most rows and most characters of a table.
MOST_ROWS, MOST_CHARACTERS = 5000, 2_000_000
URGENCY = {"": 2, "1": 1, "2": 2, "3": 3, "low": 1, "normal": 2, "urgent": 3}


@dataclass(frozen=True)
class Wrong:
    """A row that was not taken: its number in the file (the head is 1), and why."""

    row: int
    words: str


@dataclass
class Imported:
    """Orders that were taken, and rows that were not."""

    orders: list[Order] = field(default_factory=list)
    wrong: list[Wrong] = field(default_factory=list)


@dataclass
class _Draft:
    """Rows with the same order, while they are read."""

    said: dict[str, object]
    lines: list[LineWish] = field(default_factory=list)
    rows: list[int] = field(default_factory=list)


def read_in(workshop: Workshop, text: str) -> Imported:
    """Take orders from a table with the columns part and pieces, and order, customer, due, urgency,
    plans and note if they are there. Rows with the same order are one. Raises `InputError` if it
    is no such table.
    """
    rows = _rows(text)
    reader = _Reader(workshop)
    found = Imported()
    drafts: dict[str, _Draft] = {}
    for number, row in rows:
        key = row["order"] or f"row {number}"
        try:
            line = reader.line(row)
            said = reader.said(row)
        except InputError as error:
            found.wrong.append(Wrong(number, str(error)))
            continue
        draft = drafts.setdefault(key, _Draft(said))
        draft.lines.append(line)
        draft.rows.append(number)
    for draft in drafts.values():
        try:
            found.orders.append(take(workshop, draft.lines, **draft.said))
        except InputError as error:
            found.wrong += [Wrong(number, str(error)) for number in draft.rows]
    found.wrong.sort(key=lambda one: one.row)
    return found


def _rows(text: str) -> list[tuple[int, dict[str, str]]]:
    if len(text) > MOST_CHARACTERS:
        raise InputError(f"the table has over {MOST_CHARACTERS / 1e6:g} million characters", "file")
    text = text.removeprefix("\ufeff")
    head = text.splitlines()[0] if text.strip() else ""
    mark = max(",;\t", key=head.count)
    try:
        lines = list(csv.reader(io.StringIO(text, newline=""), delimiter=mark, strict=True))
    except csv.Error as error:
        raise InputError(
            f"this is no table with commas between its columns ({error})", "file"
        ) from error
    if not lines:
        raise InputError("the table is empty; its first row names the columns", "file")
    names = [name.strip().lower() for name in lines[0]]
    known = (*NEEDED, *OTHERS)
    missing = [name for name in NEEDED if name not in names]
    unknown = [name for name in names if name not in known]
    if missing or unknown or len(set(names)) < len(names):
        wrong = [f"there is no column '{name}'" for name in missing]
        wrong += [f"'{name[:40]}' is none of its columns" for name in unknown[:5]]
        raise InputError(
            "; ".join(wrong or ["a column stands there twice"])
            + f". The first row names the columns: {', '.join(known)}; all but "
            + f"{' and '.join(NEEDED)} may be left out",
            "file",
        )
    if len(lines) - 1 > MOST_ROWS:
        raise InputError(f"{len(lines) - 1} rows; at most {MOST_ROWS} are read at once", "file")
    return [
        (
            number,
            dict.fromkeys(known, "") | dict(zip(names, map(str.strip, line), strict=False)),
        )
        for number, line in enumerate(lines[1:], 2)
        if any(value.strip() for value in line)
    ]


class _Reader:
    """Reads the values of rows."""

    def __init__(self, workshop: Workshop) -> None:
        self.workshop = workshop
        self.zone = ZoneInfo(house_of(workshop).week.zone)
        self.parts: dict[str, list[Part]] = {}
        for part in Part.objects.filter(workshop=workshop).defer("picture"):
            self.parts.setdefault(part.name.lower(), []).append(part)

    def line(self, row: dict[str, str]) -> LineWish:
        """The part, its pieces and plans."""
        name = row["part"]
        found = self.parts.get(name.lower(), [])
        if len(found) != 1:
            what = "there is no part" if not found else f"{len(found)} parts are called"
            raise InputError(f"{what} '{name[:60]}'", "part")
        pieces = row["pieces"]
        if not (pieces.isascii() and pieces.isdecimal() and len(pieces) < 9):
            raise InputError(
                f"'{pieces[:20]}' is no number of pieces; 1 to {MOST_PIECES} can be ordered",
                "pieces",
            )
        return LineWish(found[0], int(pieces), self._plans(found[0], row["plans"]))

    def _plans(self, part: Part, text: str) -> list[Plan]:
        numbers = text.replace(";", " ").replace(",", " ").split()
        if not all(
            number.isascii() and number.isdecimal() and len(number) < 9 for number in numbers
        ):
            raise InputError(f"'{text[:40]}' are no numbers of plans, such as 3 7", "plans")
        found = list(
            Plan.objects.filter(
                workshop=self.workshop, part=part, number__in=[int(number) for number in numbers]
            )
        )
        missing = {int(number) for number in numbers} - {plan.number for plan in found}
        if missing:
            raise InputError(f"{part.name} has no plan {min(missing)}", "plans")
        return found

    def said(self, row: dict[str, str]) -> dict[str, object]:
        """What is said of the whole order."""
        urgency = row["urgency"].lower()
        if urgency not in URGENCY:
            raise InputError(f"'{urgency[:20]}' is no urgency; 1, 2 or 3 (urgent)", "urgency")
        for name, most in (("order", 120), ("customer", 120), ("note", 2000)):
            if len(row[name]) > most or "\x00" in row[name]:
                raise InputError(f"at most {most} characters of plain text", name)
        return {
            "reference": row["order"],
            "customer": row["customer"],
            "note": row["note"],
            "urgency": URGENCY[urgency],
            "due": self._due(row["due"]),
        }

    def _due(self, text: str) -> datetime | None:
        """When it is due: a day counts to its end, a time in the workshop's zone."""
        if not text:
            return None
        try:
            if len(text) == 10:
                found = datetime.combine(date.fromisoformat(text), time(23, 59))
            else:
                found = datetime.fromisoformat(text)
        except ValueError as error:
            raise InputError(
                f"'{text[:30]}' is no time; write 2026-12-24 or 2026-12-24 16:00", "due"
            ) from error
        if not 2000 <= found.year < 2200:
            raise InputError(f"the year {found.year} is not one of this or the next century", "due")
        return found if found.tzinfo else found.replace(tzinfo=self.zone)
