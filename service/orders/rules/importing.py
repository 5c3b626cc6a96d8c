"""Orders from a table. An order is taken if all of its rows are right; for every other order it is
said which rows are wrong, and why.
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
from service.orders.rules.searching import see_to
from service.orders.rules.taking import LineWish, enter
from service.parts.models import Part
from service.plans.models import Plan
from service.workshop.models import Workshop
from service.workshop.rules.house import house_of

#: Columns of the table; those that are needed come first.
NEEDED, OTHERS = ("part", "pieces"), ("order", "customer", "due", "urgency", "plans", "note")
#: Columns that say something of the whole order.
OF_ORDER = ("customer", "due", "urgency", "note")
#: Most rows and most characters of a table.
MOST_ROWS, MOST_CHARACTERS = 5000, 2_000_000
URGENCY = {"": 2, "1": 1, "2": 2, "3": 3, "low": 1, "normal": 2, "urgent": 3}


@dataclass(frozen=True)
class Wrong:
    """A row that was not taken: its number in the file, of which the first row is 1, and why."""

    row: int
    words: str


@dataclass
class Imported:
    """Orders that were taken, and rows that were not."""

    orders: list[Order] = field(default_factory=list)
    wrong: list[Wrong] = field(default_factory=list)


@dataclass
class _Draft:
    """An order while its rows are read."""

    #: number and values of its first row
    first: int
    values: dict[str, str]
    lines: list[LineWish] = field(default_factory=list)
    wrong: list[Wrong] = field(default_factory=list)


def read_in(workshop: Workshop, text: str) -> Imported:
    """Take orders from a table. Its columns are `NEEDED` and, where they are there, `OTHERS`. Rows
    with the same reference in the column order are one order. Raises `InputError` if the text is no
    such table.
    """
    reader = _Reader(workshop)
    drafts: dict[str, _Draft] = {}
    for number, row in _rows(text):
        draft = drafts.setdefault(row["order"] or f"row {number}", _Draft(number, row))
        try:
            _agree(row, draft)
            draft.lines.append(reader.line(row))
        except InputError as error:
            draft.wrong.append(Wrong(number, str(error)))
    found = Imported()
    for draft in drafts.values():
        _take(workshop, reader, draft, found)
    found.wrong.sort(key=lambda one: one.row)
    see_to(workshop)
    return found


def _agree(row: dict[str, str], draft: _Draft) -> None:
    """Raise `InputError` if a row says something else of its order than the first one does. It may
    leave out what the first one says.
    """
    for name in OF_ORDER:
        if row[name] and row[name] != draft.values[name]:
            raise InputError(
                f"row {draft.first} is of the same order and says something else", name
            )


def _take(workshop: Workshop, reader: _Reader, draft: _Draft, found: Imported) -> None:
    """Take an order if all its rows are right."""
    if draft.wrong:
        found.wrong += draft.wrong
        return
    try:
        found.orders.append(enter(workshop, draft.lines, **reader.said(draft.values)))
    except InputError as error:
        found.wrong.append(Wrong(draft.first, str(error)))


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
            "; ".join(wrong or ["a column is there twice"])
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
        """When it is due. A day without a time means its end; times are in the workshop's zone."""
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
