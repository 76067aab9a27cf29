"""Owns reading the rows of a CSV or XLSX file with their line numbers. Must not know what they mean."""

import csv
import io
from pathlib import Path
from typing import Any

from riktig.files.motor_list import ListFault

Rows = list[tuple[int, tuple[str, ...]]]
"""Line from 1 and the cells of each row, as text."""


class ListError(ValueError):
    """A list that cannot be read; each of its faults in a line."""

    def __init__(self, name: str, faults: tuple[ListFault, ...]) -> None:
        self.faults = faults
        super().__init__("\n".join(f"{name}, {fault.text()}" for fault in faults))


def read_rows(path: Path) -> Rows:
    """Return the rows of a file; of a workbook its first sheet.

    Raises:
        ListError: it cannot be read.
    """
    try:
        return _xlsx_rows(path) if path.suffix.lower() in {".xlsx", ".xlsm"} else _csv_rows(path.read_bytes())
    except OSError as error:
        raise ListError(
            path.name, (ListFault(line=0, column="", message=f"cannot be read: {error.strerror}"),)
        ) from error


def _csv_rows(raw: bytes) -> list[tuple[int, tuple[str, ...]]]:
    try:
        text = raw.decode("utf-8-sig")
    except UnicodeDecodeError:
        text = raw.decode("cp1252", errors="replace")
    head = text.partition("\n")[0]
    mark = max(("\t", ";", ","), key=head.count)
    reader = csv.reader(io.StringIO(text), delimiter=mark)
    return [(reader.line_num, tuple(cell.strip() for cell in row)) for row in reader]


def _xlsx_rows(path: Path) -> list[tuple[int, tuple[str, ...]]]:
    from zipfile import BadZipFile

    import openpyxl
    from openpyxl.utils.exceptions import InvalidFileException

    try:
        book = openpyxl.load_workbook(path, read_only=True, data_only=True)
    except (BadZipFile, InvalidFileException, KeyError, ValueError) as error:
        fault = ListFault(line=0, column="", message="is no XLSX workbook: save it as .xlsx or .csv")
        raise ListError(path.name, (fault,)) from error
    sheet = book.worksheets[0]
    rows = [
        (line, tuple(_text(cell) for cell in row))
        for line, row in enumerate(sheet.iter_rows(values_only=True), start=1)
    ]
    book.close()
    return rows


def _text(cell: Any) -> str:
    if cell is None:
        return ""
    return str(int(cell)) if isinstance(cell, float) and cell.is_integer() else str(cell).strip()
