"""Owns reading a motor list that was copied from a spreadsheet. Every fault names its line, its column and the mend."""

import csv
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError

from riktig.job.faults import did_you_mean
from riktig.job.model import Starter

COLUMNS = {
    "name": ("name", "tag", "motor", "no", "nr"),
    "title": ("title", "description", "drives", "what"),
    "kw": ("kw", "power", "power kw", "p"),
    "hp": ("hp",),
    "amps": ("amps", "a", "current", "fla"),
    "kind": ("kind", "starter", "start", "type"),
    "control": ("control",),
    "supply": ("supply",),
    "lamps": ("lamps",),
    "motor_at": ("motor_at", "location", "at"),
    "buttons_at": ("buttons_at", "buttons"),
}
_KINDS = {
    "direct": "dol", "direct on line": "dol", "dol": "dol", "star delta": "star-delta", "y/d": "star-delta",
    "vfd": "drive", "vsd": "drive", "inverter": "drive", "soft starter": "soft", "softstarter": "soft",
    "reverse": "reversing", "forward/reverse": "reversing",
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class ListFault:
    """One thing to mend in a pasted list: line from 1, heading of its column ("" for the whole line), sentence."""

    line: int
    column: str
    message: str

    def text(self) -> str:
        """Return it as one line for people."""
        where = f"line {self.line}" + (f", {self.column}" if self.column else "")
        return f"{where}: {self.message}"


@dataclass(frozen=True, slots=True, kw_only=True)
class MotorList:
    """The starters of a pasted list, and what is wrong with the lines that made none."""

    starters: tuple[Starter, ...]
    faults: tuple[ListFault, ...]


def read_motor_list(text: str, *, supply: str, taken: frozenset[str] = frozenset(), is_hp: bool = False) -> MotorList:
    """Return the starters of a list with tabs, semicolons or commas between its cells.

    The first line may have headings; without them the columns are name, title, power, kind.

    Args:
        text: as pasted.
        supply: the control supply of rows that name none.
        taken: names that the job has already.
        is_hp: whether a power without a unit is in hp rather than kW.
    """
    lines = [(number, line) for number, line in enumerate(text.splitlines(), start=1) if line.strip()]
    if not lines:
        fault = ListFault(line=1, column="", message="the list is empty: copy rows with name, title, power and kind")
        return MotorList(starters=(), faults=(fault,))
    rows = [(number, _cells(line)) for number, line in lines]
    headings, rows, faults = _headings(rows, is_hp)
    starters: list[Starter] = []
    names = set(taken)
    for number, cells in rows:
        made = _read_row(number, cells, headings, supply, names, faults, is_hp)
        if made is not None:
            names.add(made.name)
            starters.append(made)
    return MotorList(starters=tuple(starters), faults=tuple(faults))


def _cells(line: str) -> list[str]:
    mark = next((m for m in ("\t", ";") if m in line), ",")
    return [cell.strip() for cell in next(csv.reader([line], delimiter=mark))]


def _headings(
    rows: list[tuple[int, list[str]]], is_hp: bool
) -> tuple[list[str], list[tuple[int, list[str]]], list[ListFault]]:
    """Return the key of each column, the rows below, and what is wrong with the headings."""
    aliases = {alias: key for key, words in COLUMNS.items() for alias in words}
    number, first = rows[0]
    words = [cell.lower().replace("(", "").replace(")", "") for cell in first]
    if sum(word in aliases for word in words) < 2 and words[0] not in COLUMNS["name"]:
        return ["name", "title", "hp" if is_hp else "kw", "kind"], rows, []
    faults = [
        ListFault(
            line=number, column=cell, message=f"no such column{did_you_mean(word, list(aliases))}: it is left out"
        )
        for cell, word in zip(first, words, strict=True)
        if word and word not in aliases
    ]
    return [aliases.get(word, "") for word in words], rows[1:], faults


def _read_row(
    number: int,
    cells: list[str],
    headings: list[str],
    supply: str,
    names: set[str],
    faults: list[ListFault],
    is_hp: bool,
) -> Starter | None:
    if len(cells) > len(headings):
        message = f"{len(cells)} cells for {len(headings)} columns: take the rest out, or give it headings"
        faults.append(ListFault(line=number, column="", message=message))
        return None
    values: dict[str, Any] = {"supply": supply}
    for key, cell in zip(headings, cells, strict=False):
        if key and cell:
            values.update(_read_cell(key, cell, is_hp))
    name = values.get("name")
    if name is None:
        faults.append(ListFault(line=number, column="name", message="the motor has no name: write one such as M1"))
        return None
    if name in names:
        faults.append(ListFault(line=number, column="name", message=f"'{name}' is there already: give it another name"))
        return None
    try:
        return Starter(**values)
    except ValidationError as error:
        for item in error.errors():
            column = str(item["loc"][0]) if item["loc"] else ""
            faults.append(ListFault(line=number, column=column, message=_sentence(dict(item))))
    return None


def _read_cell(key: str, cell: str, is_hp: bool) -> dict[str, Any]:
    if key in {"kw", "hp"}:
        return _read_power("hp" if is_hp and key == "kw" else key, cell)
    if key == "amps":
        return {key: _number(cell.lower().removesuffix("a").strip().replace(",", "."))}
    if key == "kind":
        word = cell.lower()
        return {key: _KINDS.get(word.replace("-", " "), _KINDS.get(word, word))}
    if key in {"lamps", "buttons_at"}:
        return {key: tuple(cell.replace("+", " ").replace("/", " ").replace(",", " ").split())}
    return {key: cell}


def _read_power(key: str, cell: str) -> dict[str, Any]:
    """Return the power under the key of its unit; a comma may stand for the decimal point."""
    text = cell.lower().replace(",", ".")
    for unit in ("kw", "hp"):
        if text.endswith(unit):
            return {unit: _number(text.removesuffix(unit).strip())}
    return {key: _number(text)}


def _number(text: str) -> float | str:
    try:
        return float(text)
    except ValueError:
        return text


def _sentence(error: dict[str, Any]) -> str:
    context, value = error.get("ctx", {}), error.get("input")
    if error["type"] in {"literal_error", "enum"}:
        return f"'{value}' is not known here: use {context['expected']}"
    if "error" in context:
        return str(context["error"])
    if error["type"] == "string_pattern_mismatch":
        return f"'{value}' is no name: begin with a letter, then letters, digits and _"
    return f"'{value}' does not fit: {error['msg'][:1].lower()}{error['msg'][1:]}"
