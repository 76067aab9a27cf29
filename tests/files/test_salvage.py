"""What can be read of a damaged job file is saved as a copy; the file is left as it is. Limits are common sense, no source."""

import random
import sqlite3
from pathlib import Path

import pytest

from headless import riktig_many
from riktig.files.formats import pack_job, pack_plan
from riktig.files.job_access import JobFileError
from riktig.files.job_file import JobFile
from riktig.files.plan_json import plan_to_dict
from riktig.files.salvage import read_salvage, write_salvage
from riktig.job import edits
from riktig.job.model import Job
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from riktig.record.events import EventKind, make_event
from support import HEAD, STARTER, job_of

EVENTS = 6


@pytest.fixture(scope="module")
def states() -> tuple[Job, Job]:
    first = job_of(HEAD + STARTER)
    return first, settle(edits.replace(first, info=edits.replace(first.info, title="second")))


@pytest.fixture
def path(tmp_path: Path, states: tuple[Job, Job]) -> Path:
    """A job with two states, two revisions and six events."""
    path = tmp_path / "a.riktig"
    with JobFile.create(path, states[0]) as file:
        file.save_edit(states[1], "title")
        plan = pack_plan(plan_to_dict(compute_plan(states[1])))
        for name in "AB":
            file.issue_packed(name, pack_job(states[1]), plan)
        for n in range(EVENTS):
            file.append_event(make_event(EventKind.TICK, f"wire:{n}", unit="1", person="Ada", **{"as": "x"}))
    return path


def spoil(path: Path, *statements: str) -> None:
    db = sqlite3.connect(path)
    db.executescript("DROP TRIGGER events_stay; DROP TRIGGER events_last;" + ";".join(statements))
    db.close()


@pytest.mark.parametrize(
    ("statements", "losses", "title"),
    [
        ((), (), "second"),
        (("UPDATE issues SET plan = x'00' WHERE name = 'B'",), ("revision B",), "second"),
        (("UPDATE events SET data = '[' WHERE seq > 3",), ("the last 3 of 6 events",), "second"),
        (("UPDATE events SET kind = 'x' WHERE seq = 6",), ("the last of 6 events",), "second"),
        (
            ("UPDATE events SET data = 5 WHERE seq IN (2, 4)", "DELETE FROM position"),
            ("what was changed after", "2 of 6 events (number 2, 4)"),
            "second",
        ),
        (("DROP TABLE events",), ("the record of the build, whole: its table is gone",), "second"),
        (("DROP TABLE issues",), ("all issued revisions: their table is gone",), "second"),
        (("UPDATE snapshots SET job = x'00' WHERE seq > 1",), ("what was changed after 20",), ""),
    ],
)
def test_what_cannot_be_read_is_told_and_all_else_is_in_the_copy(
    path: Path, tmp_path: Path, statements: tuple[str, ...], losses: tuple[str, ...], title: str
) -> None:
    spoil(path, *statements)
    before = path.read_bytes()
    found = read_salvage(path)
    told = [loss for loss in found.losses if loss != "what could be undone"]
    assert len(told) == len(losses) and all(map(str.startswith, told, losses)), found.losses
    copy = tmp_path / "copy.riktig"
    write_salvage(found, copy)
    with JobFile.open(copy) as file:
        assert file.load_job().info.title == title
        compute_plan(settle(file.load_job()))
        assert file.events() == found.events and [name for name, _, _ in file.issues()] == [i[0] for i in found.issues]
        assert all(file.issued_plan(name) for name, _, _ in file.issues())
        after = file.append_event(make_event(EventKind.NOTE, "x", unit="1", person="Ada"))
        assert after.sequence == max((e.sequence or 0 for e in found.events), default=0) + 1
    assert path.read_bytes() == before and read_salvage(copy).losses == ()


def test_bytes_that_a_disk_has_lost_cost_what_lay_there_and_nothing_more(path: Path) -> None:
    """Of 40 places by chance, behind the first page or in it, hardly one takes the job itself."""
    whole, copy, saved = path.read_bytes(), path.with_name("copy.riktig"), 0
    for seed in range(40):
        chance, data = random.Random(seed), bytearray(whole)
        at, length = chance.randrange(4096 if seed % 4 else 100, len(data)), chance.choice([1, 16, 512, 4096])
        data[at : at + length] = bytes(chance.randrange(256) for _ in data[at : at + length])
        path.write_bytes(data)
        try:
            found = read_salvage(path)
        except JobFileError:
            continue
        copy.unlink(missing_ok=True)
        write_salvage(found, copy)
        with JobFile.open(copy) as file:
            assert file.load_job().starters[0].name == "M1" and len(file.events()) == len(found.events) <= EVENTS
        assert path.read_bytes() == data
        saved += 1
    assert saved >= 35


def test_the_command_writes_over_nothing_and_refuses_what_holds_no_job(path: Path, tmp_path: Path) -> None:
    spoil(path, "UPDATE issues SET plan = x'00' WHERE name = 'B'")
    none, copy = tmp_path / "none.riktig", tmp_path / "c.riktig"
    none.write_bytes(path.read_bytes())
    spoil_all = sqlite3.connect(none)
    spoil_all.executescript("UPDATE snapshots SET job = x'00'")
    spoil_all.close()
    said = riktig_many([["rescue", path, copy], ["rescue", path, path], ["rescue", none, tmp_path / "d.riktig"]])
    assert [code for code, _ in said] == [0, 2, 2] and "exists already" in said[1][1] and "is damaged" in said[2][1]
    assert copy.exists() and not (tmp_path / "d.riktig").exists()
