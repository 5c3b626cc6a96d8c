"""The template language of start and end G-code: fields, sums and conditions in braces, checked
before anything is sent.

``{name}`` puts a figure, ``{name + 5}``, ``{min(a, b)}`` or ``{round(a / 2)}`` a computed one;
``{if a > b} … {else} … {end}`` keeps one of two texts. Nothing else is understood, so nothing else
can happen.
"""

from __future__ import annotations

import ast
import math
import operator
import re
from collections.abc import Callable, Mapping
from typing import Any

from northpace.errors import InputError

#: Fields by name, with what they stand for.
FIELDS = {
    "nozzle_temp": "nozzle in °C: of the first layer at the start, of those above at the end",
    "bed_temp": "bed in °C, likewise",
    "first_nozzle_temp": "nozzle of the first layer in °C",
    "first_bed_temp": "bed of the first layer in °C",
    "later_nozzle_temp": "nozzle above in °C",
    "later_bed_temp": "bed above in °C",
    "nozzle": "bore of the nozzle in mm",
    "size_x": "width of the bed in mm",
    "size_y": "depth of the bed in mm",
    "size_z": "build height in mm",
    "layers": "number of layers",
    "top": "height of the part in mm",
    "first_layer_height": "in mm",
    "material": "kind of material",
    "machine": "name of the machine",
    "low_x": "least x of the part on the machine in mm",
    "low_y": "least y",
    "high_x": "greatest x",
    "high_y": "greatest y",
}
#: What stands for the part where a template is only checked.
EXAMPLE: dict[str, float | str] = {
    **dict.fromkeys(FIELDS, 100.0),
    "material": "PLA",
    "machine": "machine",
}
_FUNCTIONS: dict[str, Callable[..., Any]] = {"min": min, "max": max, "round": round, "abs": abs}
_OPERATORS: dict[type, Callable[[Any, Any], Any]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}
_COMPARES: dict[type, Callable[[Any, Any], Any]] = {
    ast.Gt: operator.gt,
    ast.GtE: operator.ge,
    ast.Lt: operator.lt,
    ast.LtE: operator.le,
    ast.Eq: operator.eq,
    ast.NotEq: operator.ne,
}
_MARK = re.compile(r"\{([^{}]*)\}")
#: A text no sensible template is longer than, and the deepest nesting.
LONGEST, DEEPEST = 20_000, 20


def check(template: str, where: str) -> None:
    """Raise `InputError` with the line and what is allowed for a template that cannot be filled;
    both sides of every condition are looked at.
    """
    _fill(template, EXAMPLE, where, every=True)


#: Numbers of the orders that heat the nozzle, and the bed.
_NOZZLE, _BED = (104, 109), (140, 190)
#: A word of a line: a letter and all that stands before the next one.
_WORD = re.compile(r"([A-Z])\s*([^A-Z\s]*)")
_PLAIN = re.compile(r"\d+(\.\d*)?|\.\d+")
#: Letters of words that may stand beside the order on a line that heats.
_BESIDE = frozenset("NTSRPI")


def check_heat(text: str, nozzle: float, bed: float, where: str) -> None:
    """Raise `InputError` where filled G-code asks for more heat than a machine has (°C), or heats
    in a way that cannot be read.
    """
    for number, line in enumerate(text.split("\n"), 1):
        # fields that are not filled yet are checked when they are; both sides of a condition count
        bare = re.sub(r"\{\s*(if\b[^{}]*|else|end)\s*\}", " ", re.sub(r";.*|\([^)]*\)", "", line))
        words = _WORD.findall(re.sub(r"\{[^{}]*\}", "0", bare).upper())
        heats = {found for letter, value in words if letter == "M" and (found := _heats(value))}
        # some firmware sets heat with the tool, or with the offsets of a tool
        tool = words and (words[0][0] == "T" or words[0] == ("G", "10"))
        if tool and any(letter in "SR" and value for letter, value in words):
            heats.add("nozzle")
        for what in sorted(heats):
            most = nozzle if what == "nozzle" else bed
            _check_line(number, words, what, most, where)


def _heats(value: str) -> str:
    """Which heater an M order sets, "nozzle" or "bed"; "" for an order that heats nothing.
    ``value`` is what stands behind the letter M.
    """
    found = re.fullmatch(r"\D*0*(\d+)(\D.*)?", value)
    order = int(found[1]) if found else 0
    return "nozzle" if order in _NOZZLE else "bed" if order in _BED else ""


def _check_line(
    number: int, words: list[tuple[str, str]], what: str, most: float, where: str
) -> None:
    """Raise `InputError` if a line that heats asks for more than ``most`` °C, or if its numbers
    cannot be read with certainty.
    """
    orders = [(letter, value) for letter, value in words if letter in "MG"]
    others = [word for word in words if word not in orders]
    plain = len(orders) <= 1 and all(_PLAIN.fullmatch(value) for _, value in orders)
    for letter, value in others:
        if letter in "SR" and _PLAIN.fullmatch(value) and float(value) > most:
            raise InputError(
                f"line {number}: asks for {value} °C; the {what} of this machine goes up to "
                f"{most:g} °C",
                where,
            )
        value = value.split("*")[0]
        plain = plain and letter in _BESIDE and (not value or bool(_PLAIN.fullmatch(value)))
    if not plain:
        raise InputError(
            f"line {number}: heats the {what} in a way that cannot be checked; write it as M104 "
            "S210 on a line of its own, with a plain number",
            where,
        )


def fill(template: str, values: Mapping[str, float | str], where: str) -> str:
    """The text with every field, sum and condition worked out."""
    return _fill(template, values, where, every=False)


def _fill(template: str, values: Mapping[str, float | str], where: str, every: bool) -> str:
    if len(template) > LONGEST:
        raise InputError(f"longer than {LONGEST} characters", where)
    out: list[str] = []
    #: conditions that are open: whether this side is kept, whether the other side was, line of the
    #: condition
    kept: list[tuple[bool, bool, int]] = []
    at = 0

    def line() -> int:
        return template.count("\n", 0, at) + 1

    def put(text: str) -> None:
        if "{" in text or "}" in text:
            raise InputError(
                f"line {line()}: braces do not match; write fields as {{nozzle_temp}}", where
            )
        if all(side for side, _, _ in kept):
            out.append(text)

    for mark in _MARK.finditer(template):
        put(template[at : mark.start()])
        at = mark.start()
        words = mark[1].strip()
        first = words.split(None, 1)[0] if words else ""
        live = every or all(side for side, _, _ in kept)
        if first == "if":
            if len(kept) >= DEEPEST:
                raise InputError(
                    f"line {line()}: conditions are nested more than {DEEPEST} deep", where
                )
            true = bool(_work_out(words[2:].strip(), values, where, line())) if live else False
            kept.append((true or every, true, line()))
        elif words == "else":
            if not kept:
                raise InputError(f"line {line()}: {{else}} without an {{if …}} before it", where)
            _, was, begun = kept.pop()
            kept.append((not was or every, was, begun))
        elif words == "end":
            if not kept:
                raise InputError(f"line {line()}: {{end}} without an {{if …}} before it", where)
            kept.pop()
        elif live:
            put(_shown(_work_out(words, values, where, line())))
        at = mark.end()
    put(template[at:])
    if kept:
        raise InputError(f"line {kept[-1][2]}: {{if …}} has no {{end}}", where)
    # a line that held nothing but a condition leaves no empty line behind
    return re.sub(r"\n[ \t]*(?=\n)", "", "".join(out))


def _shown(value: float | str | bool) -> str:
    if isinstance(value, str):
        return " ".join(value.replace(";", " ").split())
    return f"{float(value):.4f}".rstrip("0").rstrip(".")


def _work_out(
    text: str, values: Mapping[str, float | str], where: str, line: int
) -> float | str | bool:
    if not text:
        raise InputError(
            f"line {line}: empty braces; there are " + ", ".join(f"{{{name}}}" for name in FIELDS),
            where,
        )
    try:
        tree = ast.parse(text, mode="eval").body
        found = _value(tree, values)
        if isinstance(found, float) and not math.isfinite(found):
            raise ValueError("no number")
        return found
    except InputError as error:
        raise InputError(f"line {line}: {error.message}", where) from error
    except (
        SyntaxError,
        ValueError,
        TypeError,
        ZeroDivisionError,
        OverflowError,
        RecursionError,
        MemoryError,
    ) as error:
        raise InputError(
            f"line {line}: '{text}' cannot be worked out; allowed are fields, numbers, + - * /, "
            "min, max, round, abs and comparisons",
            where,
        ) from error


def _value(node: ast.expr, values: Mapping[str, float | str]) -> float | str | bool:
    if (
        isinstance(node, ast.Constant)
        and isinstance(node.value, int | float | str)
        and not isinstance(node.value, bool)
    ):
        return node.value
    if isinstance(node, ast.Name):
        if node.id not in FIELDS:
            raise InputError(
                f"unknown field {{{node.id}}}; there are "
                + ", ".join(f"{{{name}}}" for name in FIELDS)
            )
        return values[node.id]
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub):
        return -_number(_value(node.operand, values))
    if isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
        return not _value(node.operand, values)
    if isinstance(node, ast.BinOp) and type(node.op) in _OPERATORS:
        return _OPERATORS[type(node.op)](
            _number(_value(node.left, values)), _number(_value(node.right, values))
        )
    if isinstance(node, ast.BoolOp):
        sides = [bool(_value(side, values)) for side in node.values]
        return all(sides) if isinstance(node.op, ast.And) else any(sides)
    if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in _COMPARES:
        return bool(
            _COMPARES[type(node.ops[0])](
                _value(node.left, values), _value(node.comparators[0], values)
            )
        )
    if (
        isinstance(node, ast.Call)
        and isinstance(node.func, ast.Name)
        and node.func.id in _FUNCTIONS
        and node.args
        and not node.keywords
    ):
        arguments = [_number(_value(argument, values)) for argument in node.args]
        return float(_FUNCTIONS[node.func.id](*arguments))
    raise ValueError("not understood")


def _number(value: float | str | bool) -> float:
    if isinstance(value, str):
        raise TypeError("a text is no number")
    return float(value)
