"""A from-to list from outside: bad rows get line, column and mend, and nothing is taken."""

from pathlib import Path

import openpyxl
import pytest

from riktig.files.from_to import read_from_to
from riktig.files.rows_in import ListError

GOOD = "number,from,to\n1,K1:A1,S1:14\n"


@pytest.mark.parametrize(
    ("text", "fault"),
    [
        ("", "line 1: the list is empty"),
        ("number,from,to\n", "line 1: there is no row below the headings"),
        ("number,from\n1,K1:A1\n", "line 1: the heading 'to' is missing"),
        ("no,von,nach\n1,a,b\n", "line 1: the heading 'from' is missing"),
        ("number,from,to,no\n1,K1:A1,S1:14,1\n", "line 1, no: a second column for 'number'"),
        (GOOD + ",K1:A2,S1:13\n", "line 3, number: the wire number is missing"),
        (GOOD + "2 a,K1:A2,S1:13\n", "line 3, number: '2 a' has blanks"),
        (GOOD + "2,,S1:13\n", "line 3, from: the terminal is missing"),
        (GOOD + "2,K1:A2\n", "line 3, to: the terminal is missing"),
        (GOOD + "2,K1,S1:13\n", "line 3, from: 'K1' is no terminal: write TAG:MARK"),
        (GOOD + "2,K1:A2,:13\n", "line 3, to: ':13' is no terminal"),
        (GOOD + "2,K1:A2,k1:a2\n", "line 3, to: k1:a2 is both ends of the wire"),
        (GOOD + "1,S1:14,k1:a1\n", "line 3: the same wire stands in line 2 already"),
    ],
)
def test_a_bad_row_is_named_with_line_column_and_mend(tmp_path: Path, text: str, fault: str) -> None:
    path = tmp_path / "old.csv"
    path.write_text(text)
    with pytest.raises(ListError) as error:
        read_from_to(path)
    assert f"old.csv, {fault}" in str(error.value)


def test_all_faults_are_told_at_once(tmp_path: Path) -> None:
    path = tmp_path / "old.csv"
    path.write_text(GOOD + ",K1,\n2,K9:1,K9:1\n")
    with pytest.raises(ListError) as error:
        read_from_to(path)
    assert [(f.line, f.column) for f in error.value.faults] == [(3, "number"), (3, "from"), (3, "to"), (4, "to")]


@pytest.mark.parametrize("mark", [",", ";", "\t"])
def test_tables_come_with_any_usual_mark_and_other_columns_are_left_alone(tmp_path: Path, mark: str) -> None:
    path = tmp_path / "old.csv"
    path.write_bytes(
        "\ufeff".encode()
        + mark.join(("Wire number", "From", "To", "Note")).encode()
        + f"\n7{mark}K1:A1{mark}X1:3{mark}ö\n".encode()
    )
    (row,) = read_from_to(path)
    assert (row.line, row.number, row.a, row.b) == (2, "7", "K1:A1", "X1:3")


def test_a_workbook_is_read_and_a_foreign_file_refused(tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    book.active.append(["number", "from", "to"])  # type: ignore[union-attr]
    book.active.append([7, "K1:A1", "X1:3"])  # type: ignore[union-attr]
    book.save(tmp_path / "old.xlsx")
    assert read_from_to(tmp_path / "old.xlsx")[0].number == "7"
    (tmp_path / "bad.xlsx").write_text("no workbook")
    with pytest.raises(ListError, match="is no XLSX workbook"):
        read_from_to(tmp_path / "bad.xlsx")
    with pytest.raises(ListError, match="cannot be read"):
        read_from_to(tmp_path / "none.csv")
