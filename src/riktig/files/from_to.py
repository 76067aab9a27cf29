"""Owns reading a from-to list of existing wires, CSV or XLSX. Every fault names its line, its column and the mend."""

import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from riktig.files.motor_list import ListFault
from riktig.files.rows_in import ListError, OnShare, no_share, read_rows
from riktig.job.faults import did_you_mean
from riktig.plan.answers.reconcile import FromTo

COLUMNS = {
    "number": ("number", "no", "nr", "wire", "wire number", "potential"),
    "from": ("from", "from terminal", "a", "end 1"),
    "to": ("to", "to terminal", "b", "end 2"),
}
_TERMINAL = re.compile(r"^[^\s:]+:[^\s:]+$")


@dataclass(frozen=True, slots=True)
class _Row:
    line: int
    cells: tuple[str, ...]


def read_from_to(path: Path, on_share: OnShare = no_share) -> tuple[FromTo, ...]:
    """Return the rows of a from-to list; `on_share` is told how far it is.

    Raises:
        ListError: it cannot be read, a column is missing, or rows do not fit; nothing is taken.
    """
    return parse_from_to(read_rows(path, on_share), path.name)


def parse_from_to(rows: "Iterable[tuple[int, tuple[str, ...]]]", name: str = "list") -> tuple[FromTo, ...]:
    """Return the rows of a list given as (line, cells), the headings first.

    Raises:
        ListError: as `read_from_to`.
    """
    made = [_Row(line, cells) for line, cells in rows if any(cells)]
    if not made:
        raise ListError(
            name, (ListFault(line=1, column="", message="the list is empty: write number, from, to and a row a wire"),)
        )
    places, faults = _places(made[0])
    found: list[FromTo] = []
    seen: dict[frozenset[str], int] = {}
    for row in made[1:] if not faults else ():
        one = _read_row(row, places, seen, faults)
        if one is not None:
            found.append(one)
    if not faults and not found:
        faults.append(
            ListFault(line=made[0].line, column="", message="there is no row below the headings: write one a wire")
        )
    if faults:
        raise ListError(name, tuple(faults))
    return tuple(found)


def _places(head: _Row) -> tuple[dict[str, int], list[ListFault]]:
    """Return at which place each column stands, and what is wrong with the headings; other columns are left alone."""
    aliases = {alias: key for key, words in COLUMNS.items() for alias in words}
    places: dict[str, int] = {}
    faults = []
    for place, cell in enumerate(head.cells):
        key = aliases.get(cell.lower().replace("_", " "))
        if key is not None and key in places:
            faults.append(
                ListFault(line=head.line, column=cell, message=f"a second column for '{key}': keep one of them")
            )
        elif key is not None:
            places[key] = place
    known = [cell.lower() for cell in head.cells if cell]
    faults.extend(
        ListFault(line=head.line, column="", message=f"the heading '{key}' is missing{did_you_mean(key, known)}: write number, from, to")
        for key in COLUMNS if key not in places
    )  # fmt: skip
    return places, faults


def _read_row(
    row: _Row, places: dict[str, int], seen: dict[frozenset[str], int], faults: list[ListFault]
) -> FromTo | None:
    cells = {key: row.cells[place] if place < len(row.cells) else "" for key, place in places.items()}
    before = len(faults)

    def say(column: str, message: str) -> None:
        faults.append(ListFault(line=row.line, column=column, message=message))

    if not cells["number"]:
        say("number", "the wire number is missing: write what is printed on the wire")
    elif len(cells["number"].split()) > 1:
        say("number", f"'{cells['number']}' has blanks: a wire has one number")
    for key in ("from", "to"):
        if not cells[key]:
            say(key, "the terminal is missing: write TAG:MARK, such as K1:A1")
        elif not _TERMINAL.match(cells[key]):
            say(key, f"'{cells[key]}' is no terminal: write TAG:MARK, such as K1:A1")
    if len(faults) == before and cells["from"].upper() == cells["to"].upper():
        say("to", f"{cells['to']} is both ends of the wire: write where the other end is")
    if len(faults) > before:
        return None
    pair = frozenset((cells["from"].upper(), cells["to"].upper(), f"#{cells['number']}"))
    if pair in seen:
        say("", f"the same wire stands in line {seen[pair]} already: take one of them out")
        return None
    seen[pair] = row.line
    return FromTo(line=row.line, number=cells["number"], a=cells["from"], b=cells["to"])
