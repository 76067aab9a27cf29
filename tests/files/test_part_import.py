"""Parts of one's own: from CSV and XLSX into the catalogue, with faults named by line and column."""

from pathlib import Path

import pytest

from riktig.catalogue.loader import CatalogueError, find_part, forget_parts, user_catalogue_path
from riktig.files.part_import import add_parts, read_part_file
from support import HEAD, plan_of

HEADINGS = "code,kind,title,width,height,depth,mounting,elements,amps,curve,type,breaking_ka,torque_nm"
ROW = 'own-9,breaker,"Breaker, mine",18,85.5,70,rail,pole 1-2,9,C,IEC 60898-1,10,1.8'


@pytest.fixture
def own(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    path = tmp_path / "parts.toml"
    monkeypatch.setenv("RIKTIG_PARTS", str(path))
    forget_parts()
    yield path  # type: ignore[misc]
    monkeypatch.undo()
    forget_parts()


def write(tmp_path: Path, *rows: str, headings: str = HEADINGS) -> Path:
    path = tmp_path / "parts.csv"
    path.write_text("\n".join([headings, *rows]), encoding="utf-8")
    return path


def test_a_row_becomes_a_part_that_a_job_may_use(tmp_path: Path, own: Path) -> None:
    read = read_part_file(write(tmp_path, ROW))
    assert read.faults == ()
    add_parts(read.families, own)
    assert user_catalogue_path() == own
    plan = plan_of(HEAD + '[device.Q9]\nkind = "breaker"\npart = "own-9"\n')
    part = plan.parts["Q9"]
    assert (part.width, part.height, part.rating("amps"), part.torque_nm) == (18, 85.5, 9, 1.8)


def test_a_spreadsheet_reads_like_its_csv(tmp_path: Path) -> None:
    from openpyxl import Workbook

    book = Workbook()
    book.active.append(HEADINGS.split(","))
    book.active.append(
        ["own-9", "breaker", "Breaker, mine", 18, 85.5, 70, "rail", "pole 1-2", 9, "C", "IEC 60898-1", 10, 1.8]
    )
    book.save(tmp_path / "parts.xlsx")
    assert read_part_file(tmp_path / "parts.xlsx") == read_part_file(write(tmp_path, ROW))


@pytest.mark.parametrize(
    ("row", "line", "column", "words"),
    [
        (ROW.replace("breaker,", "braker,", 1), 2, "kind", "did you mean 'breaker'"),
        (ROW.replace(",18,", ",18 mm,"), 2, "width", "write it without a unit"),
        (ROW.replace(",18,", ",0,"), 2, "width", "more than 0"),
        (ROW.replace(",70,", ",,"), 2, "depth", "the cell is empty"),
        (ROW.replace("rail", "rails"), 2, "mounting", "use rail"),
        (ROW.replace("pole 1-2", "pol 1-2"), 2, "elements", "did you mean 'pole'"),
        (ROW.replace("pole 1-2", "1-2"), 2, "elements", "write its kind and marks"),
        (ROW.replace("own-9", "cb1-c6"), 2, "code", "is there already"),
        (ROW + ",x", 2, "", "quote texts"),
        (f"{ROW}\n{ROW}", 3, "code", "is there already"),
    ],
)
def test_a_bad_row_is_named_with_line_column_and_mend(
    tmp_path: Path, row: str, line: int, column: str, words: str
) -> None:
    faults = read_part_file(write(tmp_path, row)).faults
    assert [(f.line, f.column) for f in faults] == [(line, column)] and words in faults[0].message


def test_missing_headings_empty_and_foreign_files_are_refused(tmp_path: Path) -> None:
    assert "every part has code" in read_part_file(write(tmp_path, headings="code,kind")).faults[0].message
    (tmp_path / "empty.csv").write_text("")
    (tmp_path / "foreign.xlsx").write_bytes(b"no book")
    for name in ("empty.csv", "foreign.xlsx"):
        assert len(read_part_file(tmp_path / name).faults) == 1


def test_nothing_is_added_to_a_file_that_is_no_catalogue(tmp_path: Path, own: Path) -> None:
    own.write_text("[[", encoding="utf-8")
    with pytest.raises(CatalogueError, match="is not TOML"):
        add_parts(read_part_file(write(tmp_path, ROW)).families, own)
    assert own.read_text(encoding="utf-8") == "[["


def test_the_code_of_a_shipped_part_is_not_taken_over(own: Path) -> None:
    own.write_text('[[family]]\nkind = "link"\ncode = "lk-1"\ntitle = "x"\nmounting = "rail"\n'
                   'columns = ["width", "height", "depth"]\nrows = [[1, 1, 1]]\n')  # fmt: skip
    with pytest.raises(CatalogueError, match="give yours another one"):
        find_part("lk-1")
