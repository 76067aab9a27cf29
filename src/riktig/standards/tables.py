"""Owns reading of the CSV tables, shipped or a shop's own, and how a source is cited. Must not know what a table means."""

import csv
import hashlib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from pathlib import Path

from riktig.refusal import Refusal
from riktig.standards.shelf import from_shelf, own_path

OWN_TABLES_VARIABLE = "RIKTIG_TABLES"


class TableError(Refusal):
    """A shop's own table that cannot be used; the sentence names the file and the mend."""


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnTable:
    """A shop's own copy of a table: its `title` is the first line of the file, `digest` tells one copy from another."""

    name: str
    title: str
    digest: str
    rows: tuple[dict[str, str], ...]


@dataclass(frozen=True, slots=True)
class Source:
    """What a value is taken from: standard, edition and clause, and the names of the tables it was read from."""

    words: str
    tables: tuple[str, ...] = ()

    def __str__(self) -> str:
        own = own_tables()
        replaced = [own[name] for name in self.tables if name in own]
        said = "; ".join(f"the shop's own table: {table.title}" for table in replaced)
        is_shipped = len(replaced) < len(self.tables) or not self.tables
        return ", ".join(text for text in (self.words, "from memory" if is_shipped else "", said) if text)


def own_digests() -> tuple[str, ...]:
    """Return what tells one set of own tables from another; a cache of anything read from tables has it in its key."""
    return tuple(table.digest for table in own_tables().values())


def own_tables_folder() -> Path:
    """Return where a shop's own tables stand: `$RIKTIG_TABLES`, or `tables` in the user's data folder."""
    return own_path(OWN_TABLES_VARIABLE, "tables")


@cache
def shipped_table(name: str) -> tuple[dict[str, str], ...]:
    """Return the rows of the table that Riktig ships, as mappings from heading to text; `#` lines are left out."""
    text = files("riktig.standards").joinpath("data", f"{name}.csv").read_text(encoding="utf-8")
    return tuple(csv.DictReader(_lines_of(text)))


def shipped_names() -> tuple[str, ...]:
    """Return the names of all tables that Riktig ships."""
    entries = files("riktig.standards").joinpath("data").iterdir()
    return tuple(sorted(entry.name.removesuffix(".csv") for entry in entries if entry.name.endswith(".csv")))


@from_shelf
def own_tables() -> Mapping[str, OwnTable]:
    """Return the shop's own tables by name; each takes the place of a shipped one.

    Raises:
        TableError: a file has another name, other headings, a row too short or a text where a number belongs.
    """
    folder = own_tables_folder()
    if not folder.is_dir():
        return {}
    return {path.stem: _read_own(path) for path in sorted(folder.glob("*.csv"))}


def _read_own(path: Path) -> OwnTable:
    if path.stem not in shipped_names():
        raise TableError(f"{path.name} replaces no table: name it after one of {', '.join(shipped_names())}")
    shipped = shipped_table(path.stem)
    try:
        text = path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise TableError(f"cannot read {path}: {error}; save it as CSV in UTF-8, or move it away") from error
    first = text.partition("\n")[0].strip()
    if not first.startswith("#") or len(first) < 3:
        raise TableError(f"{path.name}, line 1: begin with # and say what the copy was checked against")
    rows = tuple(csv.DictReader(_lines_of(text)))
    wanted = [name for name in shipped[0] if name != "conf"]
    if not rows:
        raise TableError(f"{path.name} has no row below its headings: write {', '.join(wanted)}")
    missing = [name for name in wanted if name not in rows[0]]
    if missing:
        raise TableError(f"{path.name}: the heading '{missing[0]}' is missing: write {', '.join(wanted)}")
    for place, row in enumerate(rows, start=1):
        _check_row(path.name, place, row, shipped, wanted)
    digest = hashlib.sha256(text.encode()).hexdigest()[:12]
    return OwnTable(name=path.stem, title=first.lstrip("# ").strip(), digest=digest, rows=rows)


def _check_row(
    name: str, place: int, row: Mapping[str, str | None], shipped: tuple[dict[str, str], ...], wanted: list[str]
) -> None:
    """Complain of a cell that is missing, or that is a text in a column of numbers."""
    for column in wanted:
        cell = row[column]
        if cell is None:
            raise TableError(f"{name}, row {place}: '{column}' is missing; write every column, an empty one as ,,")
        if cell and not _is_number(cell) and all(_is_number(r[column]) for r in shipped if r[column]):
            raise TableError(f"{name}, row {place}, column '{column}': '{cell}' is no number")


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def _lines_of(text: str) -> list[str]:
    return [line for line in text.splitlines() if line.strip() and not line.startswith("#")]


@from_shelf
def read_table(name: str) -> tuple[dict[str, str], ...]:
    """Return the rows of a table, the shop's own copy first, as mappings from heading to text.

    Raises:
        TableError: one of the shop's own tables cannot be used.
    """
    own = own_tables().get(name)
    return own.rows if own is not None else shipped_table(name)


@from_shelf
def read_columns(name: str, key: str, value: str) -> tuple[tuple[float, float], ...]:
    """Return (key, value) pairs of two numeric columns in table order; rows with a blank are left out."""
    rows = read_table(name)
    return tuple((float(row[key]), float(row[value])) for row in rows if row[key] and row[value])


def step_up(pairs: tuple[tuple[float, float], ...], x: float) -> float | None:
    """Return the value of the first row whose key is at least x, None beyond the last."""
    return next((value for key, value in pairs if x <= key + 1e-9), None)


def interpolate(pairs: tuple[tuple[float, float], ...], x: float) -> float | None:
    """Return the value at x, linear between neighbours, or None outside of the table."""
    for (x0, y0), (x1, y1) in zip(pairs, pairs[1:], strict=False):
        if x0 <= x <= x1:
            return y0 + (y1 - y0) * (x - x0) / (x1 - x0)
    return None


def forget_tables() -> None:
    """Read the tables again when they are next asked for."""
    for read in (own_tables, read_table, read_columns):
        read.forget()
