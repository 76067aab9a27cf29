"""What comes from outside is read or refused in a sentence with its place: briefs, job files and tables that somebody or a disk has spoilt.
Limits are common sense, no source.
"""

import contextlib
import errno
import os
import sqlite3
import subprocess
import sys
import zipfile
import zlib
from pathlib import Path

import openpyxl
import pytest

from riktig.checks.run import find_all
from riktig.files.brief_reader import BriefError, parse_brief
from riktig.files.brief_writer import write_brief
from riktig.files.documents import export_documents
from riktig.files.from_to import read_from_to
from riktig.files.job_access import JobFileError, reading
from riktig.files.job_file import JobFile
from riktig.files.job_file import job_of as stored_job
from riktig.files.part_import import read_part_file
from riktig.files.rows_in import MOST_ROWS, ListError, read_rows
from riktig.files.salvage import read_salvage
from riktig.files.tables import Table
from riktig.job import edits
from riktig.job.faults import JobError
from riktig.plan.plan import compute_plan
from riktig.record.events import EventKind, make_event, read_event
from support import HEAD, STARTER, job_of, plan_of, small_text

TITLE = 'title = "'


def refusal(text: str) -> str:
    with pytest.raises(BriefError) as caught:
        parse_brief(text)
    assert len(str(caught.value).splitlines()) == len(caught.value.faults)
    return str(caught.value)


@pytest.mark.parametrize(
    ("table", "said"),
    [
        ("kw = nan", "16: starter.M1.kw: it is no number"),
        ("kw = inf", "16: starter.M1.kw: it is out of range"),
        ("kw = 1e308", "16: starter.M1.kw: it is out of range"),
        (f"kw = {10**400}", "16: starter.M1.kw: it is out of range"),
        ("kw = 2026-01-01", "16: starter.M1.kw: '2026-01-01' is no quantity"),
        (f'kw = 1\ntitle = "{"x" * 8000}"', f"17: starter.M1.title: '{'x' * 60}…' has 8000 letters: shorten it to 500"),
        (
            f'kw = 1\n[[rung]]\npath = "{"K1:no > " * 600}"',
            "18: rung[1].path: 'K1:no > K1:no > K1:no > K1:no > K1:no > K1:no > K1:no > K1:n…' "
            "has 4800 letters: shorten it to 4000",
        ),
        ('kw = 1\ntitle = "a\\u0007b"', "17: starter.M1.title: 'a�b' has the character U+0007"),
        ('kw = 1\ntitle = "a\\uFFFEb"', "17: starter.M1.title: 'a�b' has the character U+FFFE"),
        ('kw = 1\ntitle = """a\nb"""', "17: starter.M1.title: 'a�b' has the character U+000A"),
        (f"x = {'[' * 3000}{']' * 3000}", "1: its tables and lists stand too deep in each other"),
        (f"x = {'{a=' * 3000}1{'}' * 3000}", "1: its tables and lists stand too deep in each other"),
        ('kw = 1\nlamps = ["run\\n"]', "17: starter.M1.lamps"),
    ],
)
def test_a_value_that_no_field_could_mean_is_refused_with_its_line(table: str, said: str) -> None:
    text = HEAD.replace("[location.st1]\n[location.st2]\n", "[location.st1]\n") + f"[starter.M1]\n{table}\n"
    assert said in refusal(text)


@pytest.mark.parametrize("wrong", ["1", "[]", "{}", "[1]", '"x"', "true", "[[1]]", "nan"])
@pytest.mark.parametrize("table", ["starter", "device", "rung", "feeder", "kept", "excepted", "alarm", "job"])
def test_a_table_of_another_sort_is_refused_or_empty(table: str, wrong: str) -> None:
    rest = HEAD.replace("[job]\n", "[job.x]\n" if table == "job" else "[job]\n")
    try:
        parse_brief(f"{table} = {wrong}\n{rest}")
    except BriefError as error:
        assert all(fault.line >= 1 and "\n" not in fault.message for fault in error.faults)


@pytest.mark.parametrize("value", ["1", "[]", "{}", "true", '["B3", 4]', '"B3:"', '">"', "nan", '""'])
def test_from_of_any_sort_is_read_or_refused(value: str) -> None:
    for table in ("alarm.A1", "control.C2", "excepted.X1"):
        try:
            parse_brief(f'{HEAD}[device.B3]\nkind = "float"\n[{table}]\nfrom = {value}\n')
        except BriefError as error:
            assert table in str(error)


@pytest.mark.parametrize("volts", ['volts = "400"\n', "volts = 0\n", ""])
def test_a_supply_without_volts_beside_what_needs_them_is_one_sentence(volts: str) -> None:
    said = refusal(HEAD.replace("volts = 400\n", volts) + '[excepted.X1]\nload = "light"\n')
    assert "supply.volts: " in said and len(said.splitlines()) == 1


@pytest.mark.parametrize("curve", ["gG", "aM", "dual-element", "nontime-delay", "K"])
def test_a_breaker_of_any_curve_is_judged(curve: str) -> None:
    lamp = f'[device.Q9]\nkind = "breaker"\namps = 6\ncurve = "{curve}"\n[device.P9]\nkind = "lamp"\n'
    try:
        find_all(plan_of(HEAD + STARTER + lamp + '[[rung]]\npath = "L1 > Q9 > P9 > N"\n'))
    except BriefError as error:
        assert "device.Q9.curve" in str(error)


@pytest.mark.parametrize("word", ["load", "motor", "surge"])
@pytest.mark.parametrize("behind", ["", " > Q8"])
def test_what_ends_a_feeder_is_drawn_or_refused_wherever_it_stands(tmp_path: Path, word: str, behind: str) -> None:
    devices = f'[device.Q8]\nkind = "breaker"\n[device.Q9]\nkind = "breaker"\n[device.E9]\nkind = "{word}"\n'
    text = f'{HEAD}{STARTER}{devices}[[feeder]]\npath = "L1 > Q9 > E9{behind}"\n'
    try:
        job = parse_brief(text)
    except BriefError as error:
        assert all(fault.line >= 14 for fault in error.faults)
        return
    assert export_documents(compute_plan(job), tmp_path, anyway=True)


def test_half_millimetres_are_exported(tmp_path: Path) -> None:
    screen = '[device.P9]\nkind = "hmi"\nat = "door"\n[kept.places]\nP9 = "door 300.25 500.75"\n'
    job = job_of(HEAD.replace("width = 800", "width = 800.5") + STARTER + screen)
    assert export_documents(compute_plan(job), tmp_path, ("door", "drill"), anyway=True)


@pytest.mark.parametrize("revision", ["5", "[]", "nan", '"a\\u0007"', "true"])
def test_the_name_of_a_revision_is_a_word(revision: str) -> None:
    assert "3: job.revision: " in refusal(HEAD.replace("[job]\n", f"[job]\nrevision = {revision}\n"))


def test_a_job_of_a_hundred_starters_goes_through_every_lock(tmp_path: Path) -> None:
    starters = "".join(f'[starter.M{n}]\nkw = 1.5\nsupply = "C1"\n' for n in range(100))
    job = job_of(HEAD + starters)
    with JobFile.create(tmp_path / "a.riktig", job) as file:
        assert file.load_job() == job and len(job.ledger.links) > 1000
    assert parse_brief(write_brief(job)) == job


def test_more_members_than_any_panel_has_are_refused_at_once() -> None:
    devices = "".join(f'[device.K{n}]\nkind = "relay"\n' for n in range(5001))
    assert "device: there are 5001 of these: a job has 5000 at most" in refusal(HEAD + devices)


@pytest.mark.parametrize("title", ["x" * 501, "a\x07b", "a\ufffeb"])
def test_an_edit_takes_no_more_than_a_brief_does(title: str) -> None:
    with pytest.raises(JobError, match=r"shorten it|no paper shows"):
        edits.change_starter(job_of(HEAD + STARTER), "M1", title=title)


# -- job files


def spoilt(tmp_path: Path, *statements: tuple[str, tuple[object, ...]]) -> Path:
    path = tmp_path / "a.riktig"
    with JobFile.create(path, job_of(HEAD + STARTER)) as file:
        file.append_event(make_event(EventKind.MEASURE, "x", unit="1", person="Ada", ohms=0.1, verdict="pass"))
    db = sqlite3.connect(path)
    db.executescript("DROP TRIGGER events_stay; DROP TRIGGER events_last;")
    for statement, values in statements:
        db.execute(statement, values)
    db.commit()
    db.close()
    return path


@pytest.mark.parametrize(
    "data", ["", "[]", '{"ohms": "x"}', '{"ohms": NaN}', '{"verdict": 1}', '{"as": []}', "[" * 9000, b"\xff", 5]
)
def test_an_event_of_another_sort_is_damage_and_no_trace(tmp_path: Path, data: object) -> None:
    with (
        JobFile.open(spoilt(tmp_path, ("UPDATE events SET data = ?", (data,))), read_only=True) as file,
        pytest.raises(JobFileError, match=r"a\.riktig is damaged"),
    ):
        file.events()


@pytest.mark.parametrize("table", ["issues", "events", "snapshots", "position"])
def test_a_missing_table_is_damage_wherever_it_is_met(tmp_path: Path, table: str) -> None:
    path = spoilt(tmp_path, (f"DROP TABLE {table}", ()))
    with pytest.raises(JobFileError, match="damaged"), JobFile.open(path) as file:
        file.load_job(), file.gestures(), file.events(), file.issues(), file.version()


def test_what_unpacks_to_more_than_any_job_is_refused_before_it_is_unpacked(tmp_path: Path) -> None:
    bomb = zlib.compress(b"[" * (300 << 20), 9)
    with (
        JobFile.open(spoilt(tmp_path, ("UPDATE snapshots SET job = ?", (bomb,)))) as file,
        pytest.raises(JobFileError, match="damaged"),
    ):
        file.load_job()


def test_a_job_that_stands_too_deep_is_damage(tmp_path: Path) -> None:
    deep = zlib.compress(b'{"format": 2, "job": ' + b"[" * 100_000 + b"}")
    with (
        JobFile.open(spoilt(tmp_path, ("UPDATE snapshots SET job = ?", (deep,)))) as file,
        pytest.raises(JobFileError, match="damaged"),
    ):
        file.load_job()


KILLED = """
import os, sqlite3, sys
db = sqlite3.connect(sys.argv[1], isolation_level=None)
db.execute("PRAGMA cache_size = 1"); db.execute("BEGIN IMMEDIATE")
db.execute("UPDATE snapshots SET gesture = 'half done'")
for n in range(200): db.execute("INSERT INTO snapshots (time, gesture, job) VALUES ('t', 'half done', zeroblob(4000))")
os._exit(9)
"""


@pytest.mark.parametrize("may_write", [True, False])
def test_what_a_killed_writer_left_is_taken_back_for_a_reader_too(tmp_path: Path, may_write: bool) -> None:
    path = tmp_path / "a.riktig"
    JobFile.create(path, job_of(HEAD + STARTER)).close()
    subprocess.run([sys.executable, "-c", KILLED, str(path)], check=False)
    journal = path.with_name("a.riktig-journal")
    assert journal.stat().st_size > 0
    before = path.read_bytes()
    if not may_write:
        if os.getuid() == 0:
            pytest.skip("root may write everywhere")
        tmp_path.chmod(0o500)
    try:
        with JobFile.open(path, read_only=True) as file:
            assert file.load_job().starters[0].name == "M1" and file.gestures()[0] in {None, "begin"}
        assert may_write or path.read_bytes() == before
    finally:
        tmp_path.chmod(0o700)


def test_a_file_that_another_writes_is_busy_and_not_damaged(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = spoilt(tmp_path)
    busy = sqlite3.connect(path, isolation_level=None)
    busy.execute("BEGIN EXCLUSIVE")
    monkeypatch.setattr("riktig.files.job_access.BUSY_MS", 50)
    with pytest.raises(JobFileError, match="is being written by another window: try again"):
        JobFile.open(path, read_only=True)
    busy.close()


def test_a_folder_without_locks_is_named_and_a_rescue_reads_there_all_the_same(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The database takes ENOLCK, which some folders of a network answer, for another window."""
    path = tmp_path / "a.riktig"
    JobFile.create(path, job_of(HEAD + STARTER)).close()
    monkeypatch.setattr("riktig.files.job_access.BUSY_MS", 10)
    busy = sqlite3.connect(path, isolation_level=None)
    busy.execute("BEGIN EXCLUSIVE")
    with pytest.raises(JobFileError, match="being written by another window"):
        JobFile.open(path, read_only=True)

    def no_locks(*_: object) -> None:
        raise OSError(errno.ENOLCK, "No locks available")

    monkeypatch.setattr("riktig.files.job_access.fcntl.lockf", no_locks)
    with pytest.raises(JobFileError, match="its folder gives no locks.*save a copy on a disk of this machine"):
        JobFile.open(path, read_only=True)
    assert read_salvage(path).packed
    busy.close()


def test_a_place_where_nothing_can_be_written_is_said_of_the_name_that_was_given(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def refuse(*_: object, **__: object) -> None:
        raise OSError(errno.EROFS, "Read-only file system", "a name beside it")

    monkeypatch.setattr(Path, "unlink", refuse)
    with pytest.raises(JobFileError, match="^a.riktig: it lies where nothing can be written"):
        JobFile.create(tmp_path / "a.riktig", job_of(HEAD + STARTER))


# -- tables


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
@pytest.mark.parametrize("mark", [",", ";", "\t"])
@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
def test_encodings_separators_and_line_ends_are_told_apart(tmp_path: Path, encoding: str, mark: str, end: str) -> None:
    path = tmp_path / "a.csv"
    path.write_bytes(end.join(mark.join(row) for row in (("no", "öä"), ("1", "ü"), ("2", "x"))).encode(encoding))
    assert read_rows(path) == [(1, ("no", "öä")), (2, ("1", "ü")), (3, ("2", "x"))]


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b'a,b\n1,"open\n2,x\n3,y\n', "line 2: a quote is left open"),
        (b"a,b\n1," + b"x" * 3000, "line 2: the cell 'xxx"),
        (b"a,b\n1\x00,2\n", "line 2: this is no text"),
        (b"a" + b"," * 600, "line 1: this row has 601 cells"),
        (b"a\n" * (MOST_ROWS + 5), f"there are more than {MOST_ROWS} rows"),
    ],
)
def test_a_table_that_is_none_is_refused_with_its_line(tmp_path: Path, data: bytes, said: str) -> None:
    path = tmp_path / "a.csv"
    path.write_bytes(data)
    with pytest.raises(ListError) as caught:
        read_rows(path)
    assert said in str(caught.value) and len(str(caught.value).splitlines()) == 1


def test_a_broken_workbook_and_a_bomb_are_refused(tmp_path: Path) -> None:
    sound, broken, bomb = (tmp_path / f"{name}.xlsx" for name in ("sound", "broken", "bomb"))
    book = openpyxl.Workbook()
    book.active.append(["=1+1", "x"])  # type: ignore[union-attr]
    book.save(sound)
    assert read_rows(sound) == [(1, ("", "x"))], "a formula is never computed"
    for cut in range(0, sound.stat().st_size, 97):
        data = bytearray(sound.read_bytes())
        data[cut] ^= 0xFF
        broken.write_bytes(data)
        try:
            read_rows(broken)
        except ListError as error:
            assert "workbook" in str(error)
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("xl/worksheets/sheet1.xml", b"0" * (300 << 20))
    with pytest.raises(ListError, match="unpacks to 300 MB"):
        read_rows(bomb)


def test_cells_of_many_dots_are_judged_at_once(tmp_path: Path) -> None:
    """Such a cell held the window up for 16 s: the pattern had two ways to read each dot."""
    path = tmp_path / "a.csv"
    path.write_text(f"number,from,to\n1,{'a.' * 900},X1:1\n")
    with pytest.raises(ListError, match=r"line 2"):
        read_from_to(path)


@pytest.mark.parametrize("width", ["nan", "inf", "-1", "1e300", "0"])
def test_a_part_has_a_size_that_can_be(tmp_path: Path, width: str) -> None:
    path = tmp_path / "a.csv"
    path.write_text(f"code,kind,title,width,height,depth,mounting\nrl-x,relay,Relay,{width},80,70,rail\n")
    read = read_part_file(path)
    assert not read.families and [fault.column for fault in read.faults] == ["width"]


@pytest.mark.parametrize("elements", ["co 11-12", "no 13", "no", "co 11-12-14-18", "coil", "no 13-14-15"])
def test_a_part_with_marks_that_its_element_cannot_have_is_refused_or_usable(tmp_path: Path, elements: str) -> None:
    path = tmp_path / "a.csv"
    path.write_text(
        f"code,kind,title,width,height,depth,mounting,elements\nrl-x,relay,Relay,18,80,70,rail,{elements}\n"
    )
    read = read_part_file(path)
    assert not read.families and read.faults[0].column == "elements", "it would break the check of every job"


def test_no_cell_of_a_csv_is_run_by_a_spreadsheet_and_it_reads_back_as_it_was(tmp_path: Path) -> None:
    table = Table(name="t", headings=("a", "b"), rows=(("=1+1", "-x"), ("@SUM(1)", -3.0), ("+24V", "a-b")))
    path = tmp_path / "t.csv"
    path.write_bytes(table.to_csv().encode())
    assert path.read_text().split() == ["a,b", "'=1+1,'-x", "'@SUM(1),-3", "'+24V,a-b"]
    assert [cells for _, cells in read_rows(path)][1:] == [("=1+1", "-x"), ("@SUM(1)", "-3"), ("+24V", "a-b")]


def test_every_text_of_a_job_can_be_put_into_every_document(tmp_path: Path) -> None:
    """A name in a file leads nowhere but into the folder, and a text is a text there."""
    text = small_text().replace(TITLE, TITLE + "=HYPERLINK(1) <svg/onload=x> ../../x %s {} ", 1)
    for name in ("../../x", "..", "a/b", "/tmp/x"):
        with pytest.raises(BriefError, match="letters, digits|is no name|write"):
            parse_brief(f'{text}[device."{name}"]\nkind = "relay"\n')
        with pytest.raises(BriefError):
            parse_brief(f'{text}[location."{name}"]\n')
    paths = export_documents(compute_plan(parse_brief(text)), tmp_path / "out", anyway=True)
    assert all(path.parent == tmp_path / "out" for path in paths)
    assert sorted(tmp_path.iterdir()) == [tmp_path / "out"]


@pytest.mark.parametrize(
    "path", sorted((Path(__file__).parents[1] / "data" / "bad").iterdir()), ids=lambda path: path.name
)
def test_what_once_ended_in_an_error_is_read_or_refused(path: Path, tmp_path: Path) -> None:
    """Found by mutation and made small (`./run fuzz --keep`)."""
    if path.suffix == ".toml":
        try:
            find_all(compute_plan(parse_brief(path.read_text(encoding="utf-8"))))
        except BriefError as error:
            assert all(fault.line >= 1 and len(fault.text("b").splitlines()) == 1 for fault in error.faults)
    elif path.suffix == ".riktig":
        copy = tmp_path / path.name
        copy.write_bytes(path.read_bytes())
        try:
            with JobFile.open(copy, read_only=True) as file:
                compute_plan(file.load_job()), file.events(), file.issues()
        except JobFileError as error:
            assert path.name in str(error)
    elif path.suffix in {".stored", ".event"}:
        with contextlib.suppress(JobFileError), reading(path):
            if path.suffix == ".stored":
                stored_job(zlib.compress(path.read_bytes()), path)
            else:
                text = path.read_text(encoding="utf-8", errors="surrogateescape")
                read_event((1, "2026-01-01T00:00:00", "1", "Ada", "tick", "wire:1", text))
    else:
        try:
            read_from_to(path)
        except ListError as error:
            assert path.name in str(error)
