"""Owns reading the rows of a CSV or XLSX file with their line numbers, whatever is in it. Must not know what they mean."""

import csv
import io
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from riktig.files.motor_list import ListFault
from riktig.job.plain import shown
from riktig.refusal import Refusal

Rows = list[tuple[int, tuple[str, ...]]]
"""Line from 1 and the cells of each row, as text."""
_Row = tuple[int, tuple[str, ...], float]
"""Line, cells, and which share of the file lies before the row."""
MOST_BYTES, MOST_ROWS, MOST_CELLS, MOST_CELL = 64 << 20, 200_000, 500, 2_000
"""The largest file, unpacked, the most rows, cells of a row, and letters of a cell: what is larger is no list of a panel."""
WORKBOOKS = frozenset({".xlsx", ".xlsm"})
FORMULA_STARTS = ("=", "+", "-", "@")
"""With these begins what a spreadsheet would compute; in a CSV of ours a single quote stands before them."""
_MARKS = ("\t", ";", ",")
_ROWS_BETWEEN = 500
_GUESSED_ROWS = 50_000
"""So many more are reckoned with in a workbook that does not say how many rows it has."""


OnShare = Callable[[float], None]
"""Is told now and then which share has been read, 0 to 1; what it raises ends the reading."""


def no_share(_: float) -> None:
    """Tell nobody."""


class ListError(Refusal):
    """A list that cannot be read; each of its faults in a line."""

    def __init__(self, name: str, faults: tuple[ListFault, ...]) -> None:
        self.faults = faults
        super().__init__("\n".join(f"{name}, {fault.text()}" for fault in faults))


def read_rows(path: Path, on_share: OnShare = no_share) -> Rows:
    """Return the rows of a file; of a workbook its first sheet.

    Args:
        path: the file.
        on_share: is told which share of the rows has been read.

    Raises:
        ListError: it cannot be read, or is larger than any list.
    """
    try:
        if path.stat().st_size > MOST_BYTES:
            raise _error(path.name, 0, f"is larger than {MOST_BYTES >> 20} MB: no list is, part it")
        rows = _xlsx_rows(path) if path.suffix.lower() in WORKBOOKS else _csv_rows(path.read_bytes(), path.name)
        return list(_limited(rows, path.name, on_share))
    except OSError as error:
        raise _error(path.name, 0, f"cannot be read: {error.strerror or error}") from error


def _error(name: str, line: int, message: str) -> ListError:
    return ListError(name, (ListFault(line=line, column="", message=message),))


def _limited(rows: Iterator[_Row], name: str, on_share: OnShare) -> Iterator[tuple[int, tuple[str, ...]]]:
    for count, (line, cells, share) in enumerate(rows, start=1):
        if count % _ROWS_BETWEEN == 0:
            on_share(share)
        if count > MOST_ROWS:
            raise _error(name, line, f"there are more than {MOST_ROWS} rows: part the list")
        if len(cells) > MOST_CELLS:
            raise _error(name, line, f"this row has {len(cells)} cells: a list has {MOST_CELLS} columns at most")
        long = next((cell for cell in cells if len(cell) > MOST_CELL), None)
        if long is not None:
            raise _error(name, line, f"the cell '{shown(long)}' has {len(long)} letters: shorten it to {MOST_CELL}")
        yield line, cells


def _csv_rows(raw: bytes, name: str) -> Iterator[_Row]:
    """Yield the rows of a text; UTF-8 and UTF-16 are told by what stands first, what is neither is Western European."""
    text = _decoded(raw)
    if "\0" in text:
        raise _error(name, text[: text.index("\0")].count("\n") + 1, "this is no text: save the list as .csv or .xlsx")
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    head = text.partition("\n")[0]
    reader = csv.reader(io.StringIO(text), delimiter=max(_MARKS, key=head.count), strict=True)
    line, lines = 1, text.count("\n") + 1
    try:
        for row in reader:
            yield reader.line_num, tuple(map(_unquoted, row)), reader.line_num / lines
            line = reader.line_num + 1
    except csv.Error as error:
        raise _error(
            name, line, f"a quote is left open or stands inside a text ({error}): close or double it"
        ) from error


def _unquoted(cell: str) -> str:
    cell = cell.strip()
    return cell[1:] if cell[:1] == "'" and cell[1:].startswith(FORMULA_STARTS) else cell


def _decoded(raw: bytes) -> str:
    if raw.startswith((b"\xff\xfe", b"\xfe\xff")):
        return raw.decode("utf-16", errors="replace")
    try:
        return raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        return raw.decode("cp1252", errors="replace")


def _xlsx_rows(path: Path) -> Iterator[_Row]:
    """Yield the rows of the first sheet; formulas are never computed, what they came to last is read."""
    import openpyxl

    _refuse_bomb(path)
    try:
        book = openpyxl.load_workbook(path, read_only=True, data_only=True)
        sheet = book.worksheets[0]
        lines = sheet.max_row  # None where the workbook does not say
        for line, row in enumerate(sheet.iter_rows(values_only=True), start=1):
            yield line, tuple(_text(cell) for cell in row), min(line / (lines or line + _GUESSED_ROWS), 1.0)
        book.close()
    except (GeneratorExit, ListError):
        raise
    except Exception as error:  # noqa: BLE001 a broken workbook makes the library raise whatever its zip, XML and cells raise
        raise _error(path.name, 0, "is no sound XLSX workbook: save it anew as .xlsx or .csv") from error


def _refuse_bomb(path: Path) -> None:
    """Refuse a workbook that unpacks to more than any list, before it is unpacked."""
    try:
        with zipfile.ZipFile(path) as packed:
            size = sum(member.file_size for member in packed.infolist())
    except (zipfile.BadZipFile, ValueError, NotImplementedError) as error:
        raise _error(path.name, 0, "is no XLSX workbook: save it as .xlsx or .csv") from error
    if size > 4 * MOST_BYTES:
        raise _error(path.name, 0, f"unpacks to {size >> 20} MB: no list does, save its first sheet as .csv")


def _text(cell: Any) -> str:
    if cell is None:
        return ""
    return str(int(cell)) if isinstance(cell, float) and cell.is_integer() else str(cell).strip()
