"""The job file keeps all it acknowledged, whatever happens, and refuses what is not its own."""

import errno
import os
import random
import signal
import sqlite3
import subprocess
import sys
import threading
import time
from datetime import UTC, datetime
from pathlib import Path
from unittest.mock import Mock

import pytest

from effort import examples
from riktig.files import job_access
from riktig.files.formats import pack_job, pack_plan
from riktig.files.job_access import JobFileError
from riktig.files.job_file import MOST_SNAPSHOTS, JobFile
from riktig.files.plan_json import plan_to_dict
from riktig.job import edits
from riktig.job.model import Job
from riktig.plan.making.release import issue_revision
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from riktig.record.events import EventKind, make_event
from support import HEAD, STARTER, job_of, small_text

KILLS = examples(50)
_CHILD = """
import sys
from pathlib import Path
from riktig.files.job_file import JobFile
from riktig.job import edits
from riktig.record.events import EventKind, make_event
with JobFile.open(Path(sys.argv[1])) as file:
    job = file.load_job()
    print("ready", flush=True)
    for n in range(100000):
        job = edits.change_part(job, "info", title=f"edit {n}")
        file.save_edit(job, f"edit {n}")
        event = file.append_event(make_event(EventKind.TICK, f"op {n}", unit="1", person="Ada"))
        print(n, event.sequence, flush=True)
"""


@pytest.fixture
def job() -> Job:
    return job_of(HEAD + STARTER)


def test_nothing_acknowledged_is_lost_when_the_process_is_killed(tmp_path: Path, job: Job) -> None:
    """kill -9 at 50 random instants while a process edits and ticks."""
    chance, path = random.Random(17), tmp_path / "a.riktig"
    JobFile.create(path, job).close()
    for _ in range(KILLS):
        child = subprocess.Popen([sys.executable, "-c", _CHILD, str(path)], stdout=subprocess.PIPE, text=True)
        assert child.stdout is not None and child.stdout.readline() == "ready\n"
        time.sleep(chance.uniform(0.002, 0.08))
        os.kill(child.pid, signal.SIGKILL)
        out, _ = child.communicate()
        told = [line.split() for line in out.splitlines() if len(line.split()) == 2]
        with JobFile.open(path) as file:
            kept = file.load_job()
            events = {e.sequence: e.subject for e in file.events()}
        if told:
            number = int(kept.info.title.removeprefix("edit "))
            assert number >= int(told[-1][0])
            assert all(events[int(sequence)] == f"op {n}" for n, sequence in told)


def test_a_copy_of_a_file_that_another_process_writes_is_a_whole_state_of_it(tmp_path: Path, job: Job) -> None:
    path = tmp_path / "a.riktig"
    JobFile.create(path, job).close()
    child = subprocess.Popen([sys.executable, "-c", _CHILD, str(path)], stdout=subprocess.PIPE, text=True)
    try:
        assert child.stdout is not None and child.stdout.readline() == "ready\n"
        with JobFile.open(path, read_only=True) as file:
            for n in range(8):
                file.copy_to(tmp_path / f"{n}.riktig")
    finally:
        child.kill()
        child.communicate()
    for n in range(8):
        with JobFile.open(tmp_path / f"{n}.riktig") as copy:
            title, ticks = copy.load_job().info.title, len(copy.events())
        edits_in = int(title.removeprefix("edit ")) + 1 if title.startswith("edit ") else 0
        assert edits_in - 1 <= ticks <= edits_in


def test_undo_and_redo_survive_a_restart_and_never_touch_the_record(tmp_path: Path, job: Job) -> None:
    path = tmp_path / "a.riktig"
    with JobFile.create(path, job) as file:
        file.save_edit(settle(edits.change_starter(job, "M1", kw=3)), "kw")
        file.append_event(make_event(EventKind.TICK, "op", unit="1", person="Ada"))
        file.save_edit(settle(edits.change_starter(job, "M1", kw=4)), "kw again")
    with JobFile.open(path) as file:
        first, second, end = file.undo(), file.undo(), file.undo()
        assert (first and first.starters[0].kw, second and second.starters[0].kw, end) == (3, 1.5, None)
        assert len(file.events()) == 1
        assert file.gestures() == (None, "kw")
    with JobFile.open(path) as file:
        again = file.redo()
        assert again is not None and again.starters[0].kw == 3
        file.save_edit(job, "other way")
        assert file.redo() is None


def test_events_can_neither_be_changed_nor_erased(tmp_path: Path, job: Job) -> None:
    path = tmp_path / "a.riktig"
    with JobFile.create(path, job) as file:
        file.append_event(make_event(EventKind.NOTE, "x", unit="1", person="Ada"))
    db = sqlite3.connect(path)
    for statement in ("DELETE FROM events", "UPDATE events SET person = 'Bo'"):
        with pytest.raises(sqlite3.IntegrityError, match="never"):
            db.execute(statement)
    db.close()


def test_an_issued_revision_freezes_the_ledger_and_keeps_its_plan(tmp_path: Path, job: Job) -> None:
    with JobFile.create(tmp_path / "a.riktig", job) as file:
        issued = issue_revision(job, "A")
        file.issue_packed("A", pack_job(issued), pack_plan(plan_to_dict(compute_plan(issued))))
        file.save_edit(settle(edits.change_starter(issued, "M1", kw=4)), "kw")
        plan = file.issued_plan("A")
        assert plan is not None and plan["sizing"][0]["value"] == 3.6
        assert [i[0] for i in file.issues()] == ["A"]
        assert all(c.is_held for c in file.load_job().ledger.numbers.values())
        with pytest.raises(JobFileError, match="issued before"):
            file.issue_packed("A", pack_job(issued), pack_plan({}))


def test_a_second_window_reads_and_follows(tmp_path: Path, job: Job) -> None:
    path = tmp_path / "a.riktig"
    with JobFile.create(path, job) as writer, JobFile.open(path) as reader:
        assert (writer.is_read_only, reader.is_read_only) == (False, True)
        before = reader.version()
        writer.save_edit(settle(edits.change_starter(job, "M1", kw=4)), "kw")
        assert reader.version() != before and reader.load_job().starters[0].kw == 4
        with pytest.raises(JobFileError, match="leaves the Job as it is"):
            reader.save_edit(job, "no")


def test_another_process_adds_events_while_one_holds_the_job(tmp_path: Path, job: Job) -> None:
    path = tmp_path / "a.riktig"
    with JobFile.create(path, job) as writer:
        first = writer.append_event(make_event(EventKind.TICK, "one", unit="1", person="A"))
        code = (
            "import sys; from pathlib import Path; from riktig.files.job_file import JobFile;"
            "from riktig.record.events import EventKind, make_event\n"
            "with JobFile.open(Path(sys.argv[1])) as f:\n"
            " assert f.is_read_only and f.may_record\n"
            " f.append_event(make_event(EventKind.TICK, 'two', unit='1', person='B'))"
        )
        subprocess.run([sys.executable, "-c", code, str(path)], check=True)
        writer.save_edit(settle(edits.change_starter(job, "M1", kw=4)), "kw")
        assert [event.subject for event in writer.events(first.sequence or 0)] == ["two"]
    with JobFile.open(path, read_only=True) as looker, pytest.raises(JobFileError, match="may not be written"):
        looker.append_event(first)


def test_very_many_states_are_thinned(tmp_path: Path, job: Job) -> None:
    with JobFile.create(tmp_path / "a.riktig", job) as file:
        db = sqlite3.connect(tmp_path / "a.riktig", isolation_level=None)
        row = db.execute("SELECT time, gesture, job FROM snapshots").fetchone()
        db.executemany("INSERT INTO snapshots (time, gesture, job) VALUES (?, ?, ?)", [row] * MOST_SNAPSHOTS)
        db.execute("UPDATE position SET seq = (SELECT max(seq) FROM snapshots)")
        file.save_edit(job, "one more")
        assert db.execute("SELECT count(*) FROM snapshots").fetchone()[0] < MOST_SNAPSHOTS
        db.close()


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda p: None, "there is no file"),
        (lambda p: p.write_bytes(b"hello"), "is no Riktig job file"),
        (lambda p: sqlite3.connect(p).executescript("CREATE TABLE t (x)"), "is no Riktig job file"),
        (lambda p: sqlite3.connect(p).executescript(
            "PRAGMA application_id = 0x52494B54; PRAGMA user_version = 99; CREATE TABLE t (x)"), "newer Riktig"),
        (lambda p: sqlite3.connect(p).executescript(
            "PRAGMA application_id = 0x52494B54; CREATE TABLE t (x)") and p.write_bytes(p.read_bytes()[:4096] + b"\xff" * 4096),
         "damaged"),
    ],
)  # fmt: skip
def test_a_foreign_damaged_or_newer_file_is_refused_and_left_alone(tmp_path: Path, make, words: str) -> None:  # type: ignore[no-untyped-def]
    path = tmp_path / "a.riktig"
    make(path)
    before = path.read_bytes() if path.exists() else None
    with pytest.raises(JobFileError, match=words):
        JobFile.open(path)
    assert (path.read_bytes() if path.exists() else None) == before


@pytest.mark.parametrize("has_links", [True, False])
def test_of_many_that_make_one_file_at_one_moment_one_has_it(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, has_links: bool
) -> None:
    """Also where the file system has no hard links, as some memory sticks: there one has it as long as they do not meet to the instant."""
    if not has_links:
        monkeypatch.setattr(os, "link", Mock(side_effect=OSError(errno.EPERM, "no")))
    path, start, said = tmp_path / "a.riktig", threading.Barrier(6 if has_links else 1), []

    def make(number: int) -> None:
        start.wait()
        try:
            JobFile.create(path, job_of(small_text().replace("R-0417", f"R-{number}"))).close()
            said.append(f"R-{number}")
        except JobFileError as error:
            said.append(str(error))

    makers = [threading.Thread(target=make, args=(number,)) for number in range(6)]
    for maker in makers:
        maker.start()
        if not has_links:
            maker.join()
    for maker in makers:
        maker.join()
    (made,) = [words for words in said if words.startswith("R-")]
    assert said.count("a.riktig exists already: choose another name") == 5
    with JobFile.open(path) as file:
        assert file.load_job().info.number == made
    assert [left.name for left in tmp_path.iterdir()] == ["a.riktig"]


def test_what_a_full_disk_refuses_is_said_and_the_next_that_fits_is_kept(
    tmp_path: Path, job: Job, monkeypatch: pytest.MonkeyPatch
) -> None:
    """SQLITE_FULL, by which the database takes the transaction back itself; as on a small tmpfs tried by hand."""
    path = tmp_path / "a.riktig"
    JobFile.create(path, job).close()
    opened: list[sqlite3.Connection] = []

    def small(at: Path, mode: str) -> sqlite3.Connection:
        opened.append(job_access.connect(at, mode))
        opened[-1].execute("PRAGMA max_page_count = 12")
        return opened[-1]

    monkeypatch.setattr("riktig.files.job_file.connect", small)
    with JobFile.open(path) as file:
        large = edits.change_starter(job, "M1", title="".join(random.Random(1).choices("abcdefghij", k=200)))
        with pytest.raises(
            JobFileError, match="cannot write a.riktig: the disk is full; free some space or save a copy"
        ):
            for n in range(100):
                file.save_edit(edits.change_starter(large, "M1", title=f"{n} {large.starters[0].title}"), "title")
        kept = file.load_job().starters[0].title
        opened[0].execute("PRAGMA max_page_count = 4000")
        file.save_edit(edits.change_starter(job, "M1", title="Room again"), "title")
    with JobFile.open(path) as file:
        assert kept != job.starters[0].title and file.load_job().starters[0].title == "Room again"
        assert file.undo() is not None and file.load_job().starters[0].title == kept


def test_a_clock_that_goes_back_changes_no_order(tmp_path: Path, job: Job, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "a.riktig"
    with JobFile.create(path, job) as file:
        file.append_event(make_event(EventKind.TICK, "K1", unit="1", person="Ada"))
        past = Mock(now=lambda _: datetime(2020, 1, 1, tzinfo=UTC))
        for module in ("files.job_file", "record.events"):
            monkeypatch.setattr(f"riktig.{module}.datetime", past)
        file.save_edit(edits.change_starter(job, "M1", title="Later"), "title")
        file.append_event(make_event(EventKind.UNTICK, "K1", unit="1", person="Ada"))
    with JobFile.open(path) as file:
        assert file.load_job().starters[0].title == "Later" and file.gestures() == ("title", None)
        assert [(e.kind, e.time[:4]) for e in file.events()] == [
            (EventKind.TICK, file.events()[0].time[:4]),
            (EventKind.UNTICK, "2020"),
        ]
