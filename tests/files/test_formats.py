"""What earlier versions wrote opens: each format is led to the present one step by step, and a later one is refused."""

import json
import shutil
import sqlite3
import zlib
from pathlib import Path

import pytest

from riktig.files import formats
from riktig.files.job_access import JobFileError
from riktig.files.job_file import JobFile
from riktig.job import edits
from riktig.job.ledger import ChoiceState
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle

DATA = Path(__file__).parent.parent / "data"
OLD = ("job_first", "job_rows", "job_rails")
"""Files as the first version wrote them, as the last one did that kept rows of a plate, and as the last one did without a number."""


@pytest.fixture(params=OLD)
def old(request: pytest.FixtureRequest, tmp_path: Path) -> Path:
    return Path(shutil.copy(DATA / f"{request.param}.riktig", tmp_path / "old.riktig"))


def user_version(path: Path) -> int:
    return int.from_bytes(path.read_bytes()[60:64], "big")


def test_an_old_file_opens_with_all_that_it_holds(old: Path) -> None:
    with JobFile.open(old) as file:
        job, plan, events = file.load_job(), file.issued_plan("A"), file.events()
    assert (job.info.number, job.revision, [s.kw for s in job.starters]) == ("OLD-1", "A", [2.2, 11.0])
    assert {c.state for c in job.ledger.numbers.values()} == {ChoiceState.FROZEN}
    assert plan is not None and {d["id"] for d in plan["devices"]} >= {"M1", "M1.K", "M2.Q"}
    assert [(event.subject, event.person) for event in events] == [("mount:M1.K", "R. Fitter")]
    assert user_version(old) == 1, "opening changes nothing"


def test_what_a_release_holds_stays_where_it_was(old: Path) -> None:
    with JobFile.open(old) as file:
        job, issued = file.load_job(), file.issued_plan("A")
    assert issued is not None
    was = {part["tag"]: (part["x"], part["y"]) for part in issued["plate"]["parts"]}
    plan = compute_plan(settle(job))
    now = {plan.tags[item]: (box.x, box.y) for item, box in plan.plate.boxes.items() if item in plan.tags}
    same = [tag for tag in ("Q1", "K1", "Q2") if tag in was and now[tag] == pytest.approx(was[tag])]
    assert len(same) == 3, (was, now)


def test_what_is_written_into_an_old_file_is_of_the_present_format_and_undo_reads_both(old: Path) -> None:
    with JobFile.open(old) as file:
        job = file.load_job()
        file.save_edit(settle(edits.change_starter(job, "M1", title="Other")), "title")
        undone = file.undo()
        again = file.redo()
    assert user_version(old) == formats.FORMAT
    assert undone == job and again is not None and again.starters[0].title == "Other"


def test_every_format_has_its_step() -> None:
    steps = set(range(1, formats.FORMAT))
    assert set(formats._JOB_STEPS) == set(formats._PLAN_STEPS) == steps and steps


@pytest.mark.parametrize(
    ("document", "words"),
    [
        ({"format": 99, "job": {}}, "was written by a newer Riktig"),
        ({"format": "2", "job": {}}, "is damaged"),
        ({"format": 2}, "is damaged"),
        ({"ledger": {"places": {"row:1": {"value": "no row"}}}}, "is damaged"),
        ({"ledger": []}, "is damaged"),
        ([], "is damaged"),
    ],
)
def test_a_document_that_is_newer_or_none_is_refused_in_one_sentence(old: Path, document: object, words: str) -> None:
    db = sqlite3.connect(old)
    db.execute("UPDATE snapshots SET job = ?", (zlib.compress(json.dumps(document).encode()),))
    db.commit()
    db.close()
    with JobFile.open(old) as file, pytest.raises(JobFileError, match=words):
        file.load_job()
