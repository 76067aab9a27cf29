"""Parts of one's own: from CSV and XLSX into the catalogue, with faults named by line and column."""

from pathlib import Path

import pytest

from riktig.catalogue.loader import CatalogueError, find_part, forget_parts, user_catalogue_path
from riktig.drawings.display import Line
from riktig.drawings.plate import draw_plate, plate_origin
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


SCREWED = "code,kind,title,width,height,depth,mounting,elements,holes"
TRAFO = '"own-t",resistor,"Brake resistor, mine",120,90,60,plate,load 1-2,{}'


def test_a_part_of_ones_own_brings_its_holes(tmp_path: Path, own: Path) -> None:
    """By hand: two M4 feet at 10 and 110 mm on the middle line, one M8 ear at the top."""
    read = read_part_file(write(tmp_path, TRAFO.format("10 45 M4; 110 45 M4;60 90 M8"), headings=SCREWED))
    assert read.faults == ()
    add_parts(read.families, own)
    text = HEAD + '[device.R9]\nkind = "resistor"\nat = "plate"\npart = "own-t"\n[[feeder]]\npath = "L1 > R9 > N"\n'
    for fixing, fixes in (
        ("tapped", [("tap M4", 3.3), ("tap M4", 3.3), ("tap M8", 6.8)]),
        ("self-drilling", [("self-drilling ST4.2, pilot", 3.0), ("self-drilling ST4.2, pilot", 3.0), ("tap M8", 6.8)]),
    ):
        plan = plan_of(text.replace("[supply]", f'[practice]\nfixing = "{fixing}"\n[supply]'))
        box = plan.plate.boxes["R9"]
        found = [h for h in plan.holes if h.target == "R9"]
        assert [(round(h.x - box.x, 1), round(h.y - box.y, 1)) for h in found] == [(10, 45), (110, 45), (60, 90)]
        assert [(h.fix, h.diameter) for h in found] == fixes


OUTLINED = SCREWED.replace("holes", "outline")


def test_a_part_of_ones_own_brings_its_outline(tmp_path: Path, own: Path) -> None:
    """By hand: a house of 120 x 90 mm with its gable in the middle."""
    for text, words in (
        ("0 0; 10 0", "at least 3 corners"),
        ("0 0; 10 0; 130 5", "beyond 120 x 90"),
        ("0 0; 1", "write `X Y`"),
    ):
        faults = read_part_file(write(tmp_path, TRAFO.format(text), headings=OUTLINED)).faults
        assert [(f.line, f.column) for f in faults] == [(2, "outline")] and words in faults[0].message
    add_parts(
        read_part_file(
            write(tmp_path, TRAFO.format("0 0; 100% 0; -0.5 60; 50% 100%; 0 60"), headings=OUTLINED)
        ).families,
        own,
    )
    part = find_part("own-t")
    assert part is not None and part.outline == ((0, 0), (120, 0), (119.5, 60), (60, 90), (0, 60))
    plan = plan_of(
        HEAD + '[device.R9]\nkind = "resistor"\nat = "plate"\npart = "own-t"\n[[feeder]]\npath = "L1 > R9 > N"\n'
    )
    box, (ox, oy) = plan.plate.boxes["R9"], plate_origin(plan)
    drawn = {item.points for item in draw_plate(plan).items if isinstance(item, Line) and item.ref == "R9"}
    assert ((ox + box.x, oy + box.y), (ox + box.x + 120, oy + box.y)) in {points[:2] for points in drawn}


def test_a_hole_may_count_from_the_other_edges_and_leave_its_thread_to_the_panel(tmp_path: Path, own: Path) -> None:
    """By hand on an outline of 120 x 90 mm: 10 from the right and 8 from the top; the middle of the lower third."""
    add_parts(read_part_file(write(tmp_path, TRAFO.format("-10 -8; 50% 33.3333%"), headings=SCREWED)).families, own)
    text = HEAD + '[device.R9]\nkind = "resistor"\nat = "plate"\npart = "own-t"\n[[feeder]]\npath = "L1 > R9 > N"\n'
    plan = plan_of(text)
    box = plan.plate.boxes["R9"]
    found = [(round(h.x - box.x, 1), round(h.y - box.y, 1), h.fix) for h in plan.holes if h.target == "R9"]
    assert found == [(110, 82, "tap M5"), (60, 30, "tap M5")]


@pytest.mark.parametrize(
    ("holes", "words"),
    [
        ("10 45 M5 M6", "write `X Y THREAD`"),
        ("-130 45", "beyond the outline"),
        ("half 45", "write"),
        ("10 45 M7", "no thread 'M7'"),
        ("130 45 M5", "beyond the outline"),
        ("12", "write"),
    ],
)
def test_a_bad_hole_is_named_with_its_mend(tmp_path: Path, own: Path, holes: str, words: str) -> None:
    faults = read_part_file(write(tmp_path, TRAFO.format(holes), headings=SCREWED)).faults
    assert [(f.line, f.column) for f in faults] == [(2, "holes")] and words in faults[0].message
    own.write_text(
        '[[family]]\nkind = "resistor"\ncode = "own-t"\ntitle = "Mine"\nmounting = "plate"\n'
        'columns = ["width", "height", "depth"]\nrows = [[120, 90, 60]]\n'
        f'traits = {{ holes = "{holes}" }}\n'
    )
    forget_parts()
    with pytest.raises(CatalogueError, match="own-t.*hole"):
        find_part("own-t")
