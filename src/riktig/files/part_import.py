"""Owns bringing parts of one's own into the catalogue from CSV or XLSX. Every fault names its line, column and mend.

A row is a part. Known columns have the names of `Family`; of the others, numbers become ratings and words traits.
"""

import json
from collections import Counter
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from riktig.catalogue.family import DEVICE_KINDS, Family
from riktig.catalogue.holes import read_holes, read_outline
from riktig.catalogue.loader import CatalogueError, find_part, forget_parts, parse_parts
from riktig.catalogue.model import ElementKind, Mounting
from riktig.files.rows_in import ListError, OnShare, Rows, no_share, read_rows
from riktig.files.writing import fill_text, write_whole
from riktig.job.faults import did_you_mean
from riktig.job.plain import MOST_NUMBER, find_unfit

_ROWS_BETWEEN = 500
"""How many rows are read before it is told again how far it is."""
NEEDED = ("code", "kind", "title", "width", "height", "depth", "mounting")
LISTS = ("elements", "blocks", "coils", "all_bottom")
NUMBERS = ("width", "height", "depth", "losses_w", "torque_nm", "mm2_min", "mm2_max", "strip_mm", "clearance")


@dataclass(frozen=True, slots=True, kw_only=True)
class PartFault:
    """One thing to mend: line from 1 (the headings are line 1), column heading, sentence."""

    line: int
    column: str
    message: str

    def text(self, name: str) -> str:
        """Return it as one line for people."""
        where = f"{name}:{self.line}" + (f": {self.column}" if self.column else "")
        return f"{where}: {self.message}"


@dataclass(frozen=True, slots=True, kw_only=True)
class PartImport:
    """The families of a file, a part each, and what is wrong with the rows that made none."""

    families: tuple[Family, ...]
    faults: tuple[PartFault, ...]


def read_part_file(path: Path, on_share: OnShare = no_share) -> PartImport:
    """Return the parts of a CSV or XLSX file.

    Args:
        path: the file.
        on_share: is told now and then which share of the rows has been read, 0 to 1.

    Raises:
        OSError: the file cannot be read.
    """
    try:
        rows = read_rows(path, lambda share: on_share(share / 2))
    except ListError as error:
        faults = tuple(PartFault(line=max(f.line, 1), column="", message=f.message) for f in error.faults)
        return PartImport(families=(), faults=faults)
    if not rows:
        message = f"the file is empty: its first line has the headings {', '.join(NEEDED)}"
        return PartImport(families=(), faults=(PartFault(line=1, column="", message=message),))
    return _read_rows(rows, on_share)


def _read_rows(rows: Rows, on_share: OnShare) -> PartImport:
    headings = [heading.lower() for heading in rows[0][1]]
    missing = [name for name in NEEDED if name not in headings]
    if missing:
        near = did_you_mean(missing[0], headings)
        message = f"the column is missing: every part has {', '.join(NEEDED)}{near}"
        return PartImport(families=(), faults=(PartFault(line=1, column=missing[0], message=message),))
    families: list[Family] = []
    faults: list[PartFault] = []
    codes: set[str] = set()
    for place, (line, row) in enumerate(rows[1:]):
        if place % _ROWS_BETWEEN == 0:
            on_share(0.5 + place / len(rows) / 2)
        if any(row):
            family = _read_row(line, row, headings, codes, faults)
            if family is not None:
                families.append(family)
                codes.add(family.code)
    return PartImport(families=tuple(families), faults=tuple(faults))


def _read_row(
    line: int, row: tuple[str, ...], headings: list[str], codes: set[str], faults: list[PartFault]
) -> Family | None:
    before = len(faults)

    def fault(column: str, message: str) -> None:
        faults.append(PartFault(line=line, column=column, message=message))

    if len(row) > len(headings):
        fault("", f"{len(row)} cells for {len(headings)} headings: quote texts that hold the separator")
        return None
    values = {name: cell for name, cell in zip(headings, row, strict=False) if name and cell}
    for name, cell in values.items():
        if unfit := find_unfit(name) or find_unfit(cell):
            fault(name, unfit)
            return None
    for name in NEEDED:
        if name not in values:
            fault(name, "the cell is empty: every part has one")
    code, kind = values.get("code", ""), values.get("kind", "")
    if code in codes or (code and find_part(code) is not None):
        fault("code", f"'{code}' is there already: give this part another code")
    if kind and kind not in (*DEVICE_KINDS, "block"):
        fault("kind", f"no device kind '{kind}'{did_you_mean(kind, DEVICE_KINDS) or ': see docs/brief-format.md'}")
    mountings = [m.value for m in Mounting]
    if values.get("mounting", "rail") not in mountings:
        fault("mounting", f"'{values['mounting']}' is not known here: use {', '.join(mountings)}")
    numbers = {name: number for name in NUMBERS if (number := _number(name, values, fault)) is not None}
    _check_elements(values.get("elements", ""), fault)
    if len(faults) > before:
        return None
    return _make_family(values, numbers, fault)


def _number(name: str, values: dict[str, str], fault: Any) -> float | None:
    text = values.get(name)
    if text is None:
        return None
    try:
        number = float(text.replace(",", "."))
    except ValueError:
        fault(name, f"'{text}' is no number: write it without a unit, lengths in mm")
        return None
    if not 0 <= number <= MOST_NUMBER or (number == 0 and name in NEEDED):
        fault(name, f"{text} is out of range: give more than 0, and at most {MOST_NUMBER:g}")
        return None
    return number


def _parts_of(text: str) -> list[str]:
    return [part.strip() for part in text.replace("|", ";").split(";") if part.strip()]


def _check_elements(text: str, fault: Any) -> None:
    kinds = [kind.value for kind in ElementKind]
    for element in _parts_of(text):
        words = element.split()
        if len(words) != 2:
            fault("elements", f"'{element}' is no element: write its kind and marks, such as no 13-14")
        elif words[0] not in kinds:
            fault("elements", f"no element '{words[0]}'{did_you_mean(words[0], kinds)}: use one of {', '.join(kinds)}")


def _make_family(values: dict[str, str], numbers: dict[str, float], fault: Any) -> Family | None:
    known = {*NEEDED, *LISTS, *NUMBERS, "capacity", "clamp"}
    others = {name: cell for name, cell in values.items() if name not in known}
    ratings, traits = {}, {}
    for name, cell in others.items():
        try:
            number = float(cell.replace(",", "."))
        except ValueError:
            traits[name] = cell
            continue
        if unfit := find_unfit(number):
            fault(name, unfit)
            return None
        ratings[name] = number
    columns = tuple(numbers)
    for column, read in (("holes", read_holes), ("outline", read_outline)):
        try:
            read(values.get(column, ""), numbers["width"], numbers["height"])
        except ValueError as error:
            fault(column, str(error))
            return None
    try:
        return Family.model_validate(
            {
                "kind": values["kind"], "code": values["code"], "title": values["title"],
                "mounting": values["mounting"], "columns": columns, "rows": (tuple(numbers.values()),),
                "ratings": ratings, "traits": traits,
                **{name: tuple(_parts_of(values[name])) for name in LISTS if name in values},
                **({"capacity": values["capacity"]} if "capacity" in values else {}),
                **({"clamp": {"clamp": values["clamp"]}} if "clamp" in values else {}),
            }
        )  # fmt: skip
    except ValidationError as error:
        for item in error.errors():
            column = str(item["loc"][0]) if item["loc"] else ""
            message = str(item.get("ctx", {}).get("error") or item["msg"])
            fault(column, f"{message[:1].lower()}{message[1:]}")
        return None


def add_parts(families: tuple[Family, ...], path: Path) -> None:
    """Add families to a catalogue file of one's own, whole or not at all; what stands in it stays as written.

    Raises:
        CatalogueError: the file there is no catalogue, or would not be one any more.
        OSError: it cannot be written.
    """
    before = path.read_text(encoding="utf-8") if path.is_file() else ""
    text = f"{before.rstrip()}\n\n" if before.strip() else ""
    text += "\n".join(_family_text(family) for family in families)
    codes = [part.code for part in parse_parts(text, path.name)]
    twice = next((code for code, count in Counter(codes).items() if count > 1), None)
    if twice is not None:
        raise CatalogueError(f"{path.name} has '{twice}' already: give this part another code")
    path.parent.mkdir(parents=True, exist_ok=True)
    write_whole(path, lambda fresh: fill_text(fresh, text))
    forget_parts()


def _family_text(family: Family) -> str:
    """Return a family as a TOML table, a line a key; a style-keeping writer would take minutes for a supplier's whole list."""
    table = family.model_dump(mode="json", exclude_defaults=True)
    lines = [f"{key} = {_toml(value)}\n" for key, value in table.items() if value not in ({}, [], None)]
    return f"[[family]]\n{''.join(lines)}"


def _toml(value: Any) -> str:
    """Return a plain value as TOML writes it on one line."""
    if isinstance(value, dict):
        inside = (f"{_toml(key)} = {_toml(entry)}" for key, entry in value.items() if entry is not None)
        return f"{{ {', '.join(inside)} }}"
    if isinstance(value, list):
        return f"[{', '.join(map(_toml, value))}]"
    return json.dumps(value, ensure_ascii=False)
