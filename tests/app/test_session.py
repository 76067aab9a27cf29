"""The session and its worker process: order, refusals, queued undo, and the whole application in a process of its own."""

import os
import signal
import subprocess
import sys
import time
from functools import partial
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QPushButton
from pytestqt.qtbot import QtBot

from riktig.app.session import Session
from riktig.app.shell import Shell
from riktig.desk.bundle import Bundle
from riktig.drawings.display import Text
from riktig.files.job_file import JobFile
from riktig.job.edits import change_part, change_starter, replace
from riktig.job.model import Job
from riktig.plan.settle import settle
from support import job_of, small_text


def idle(session: Session, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not session.is_stale, timeout=20_000)


def type_power(shell: Shell, qtbot: QtBot, text: str) -> None:
    box = shell.bench("brief").motor_card("M1").power  # type: ignore[attr-defined]
    box.setFocus()
    box.selectAll()
    qtbot.keyClicks(box, text)
    qtbot.keyClick(box, Qt.Key.Key_Return)


def test_edits_are_applied_in_order_and_each_is_kept(shell: Shell, qtbot: QtBot) -> None:
    session = shell.session
    kept: list[str] = []
    session.kept.connect(kept.append)
    for kw in (2.2, 3.0, 4.0, 5.5):
        session.apply(partial(change_starter, name="M1", kw=kw), f"to {kw}")
    idle(session, qtbot)
    assert session.job is not None and session.job.starters[0].kw == 5.5
    assert len(kept) == 4
    assert session.file is not None and session.file.gestures() == ("to 5.5", None)


def test_what_an_edit_does_to_a_motor_is_shown_before_the_rest_is_there(shell: Shell, qtbot: QtBot) -> None:
    session, brief = shell.session, shell.bench("brief")
    early: list[Bundle] = []
    was_whole: list[bool] = []
    old = session.bundle
    session.early_found.connect(early.append)
    session.early_found.connect(lambda _: was_whole.append(session.bundle is not old))
    type_power(shell, qtbot, "7.5")
    qtbot.waitUntil(lambda: bool(early), timeout=20_000)
    assert was_whole == [False] and "bundle" in session.stale_parts
    card = brief.motor_card("M1")  # type: ignore[attr-defined]
    assert any("7.5 kW" in words.text() for words in card.findChildren(QLabel))

    def drawn() -> set[str]:
        return {one.text for one in brief.side.view.drawing.primitives() if isinstance(one, Text)}  # type: ignore[attr-defined]

    qtbot.waitUntil(lambda: "7.5 kW" in drawn(), timeout=30_000)
    idle(session, qtbot)
    assert session.bundle is not None and session.bundle.plan.motors["M1"] == early[0].plan.motors["M1"]


def test_a_refused_edit_between_two_good_ones_changes_nothing_else(shell: Shell, qtbot: QtBot) -> None:
    session = shell.session
    refused: list[str] = []
    session.refused.connect(refused.append)
    session.apply(partial(change_starter, name="M1", kw=3.0), "good")
    session.apply(partial(change_starter, name="M1", kw=-3.0), "bad")
    session.apply(partial(change_part, field="enclosure", ambient=40.0), "good too")
    idle(session, qtbot)
    assert len(refused) == 1 and "kw" in refused[0]
    assert session.job is not None
    assert (session.job.starters[0].kw, session.job.enclosure.ambient) == (3.0, 40.0)


def test_an_undo_behind_an_edit_under_way_waits_for_it(shell: Shell, qtbot: QtBot) -> None:
    session = shell.session
    session.apply(partial(change_starter, name="M1", kw=3.0), "to 3")
    session.undo()
    idle(session, qtbot)
    assert session.job is not None and session.job.starters[0].kw == 1.5
    session.redo()
    idle(session, qtbot)
    assert session.job.starters[0].kw == 3.0


def test_what_is_shown_belongs_to_the_newest_edit(shell: Shell, qtbot: QtBot) -> None:
    session = shell.session
    shown: list[float] = []
    session.bundle_changed.connect(lambda bundle: shown.append(bundle.plan.job.starters[0].kw))
    for kw in (2.2, 3.0, 4.0):
        session.apply(partial(change_starter, name="M1", kw=kw), "quick")
    idle(session, qtbot)
    assert shown[-1] == 4.0 and shown == sorted(shown)


def test_the_stages_that_are_behind_are_marked_until_they_follow(shell: Shell, qtbot: QtBot) -> None:
    session = shell.session
    stages = {b.text().split("\n")[0]: b for b in shell.day_sheet.findChildren(QPushButton)}
    session.apply(partial(change_starter, name="M1", kw=3.0), "to 3")
    assert all("computing" in button.text() for button in stages.values())
    assert session.stale_parts == {"bundle", "findings", "sheets", "work"}
    idle(session, qtbot)
    assert not any("computing" in button.text() for button in stages.values())


def test_a_name_that_was_issued_before_is_refused_and_the_job_stays(shell: Shell, qtbot: QtBot) -> None:
    session = shell.session
    refused: list[str] = []
    session.refused.connect(refused.append)
    session.issue("A")
    idle(session, qtbot)
    session.apply(partial(change_starter, name="M1", kw=3.0), "after")
    idle(session, qtbot)
    session.issue("A")
    idle(session, qtbot)
    assert refused == ["revision A was issued before: choose another name"]
    assert session.job is not None and session.job.starters[0].kw == 3.0


def test_a_failing_edit_is_reported_and_the_work_goes_on(shell: Shell, qtbot: QtBot) -> None:
    session = shell.session
    session.failed.disconnect()
    reports: list[str] = []
    session.failed.connect(reports.append)
    session.apply(partial(change_starter, wrong=1), "broken")
    session.apply(partial(change_starter, name="M1", kw=3.0), "good")
    idle(session, qtbot)
    assert len(reports) == 1 and "TypeError" in reports[0]
    assert session.job is not None and session.job.starters[0].kw == 3.0


def other_job(home: Path) -> Path:
    """Return a second job file, of the other demo starter."""
    path = home / "other.riktig"
    JobFile.create(path, job_of(small_text("ul"))).close()
    return path


def job_in(path: Path) -> Job:
    with JobFile.open(path, read_only=True) as file:
        return file.load_job()


@pytest.mark.parametrize("what", ["edit", "issue", "arrange"])
def test_what_is_under_way_when_another_job_is_opened_never_gets_into_that_one(
    shell: Shell, qtbot: QtBot, home: Path, what: str
) -> None:
    session, first, second = shell.session, shell.session.file.path, other_job(home)  # type: ignore[union-attr]
    before = job_in(second)
    if what == "edit":
        type_power(shell, qtbot, "4")
    elif what == "issue":
        session.issue("A")
    else:
        shell.show_stage("plate")
        qtbot.mouseClick(shell.bench("plate").arrange, Qt.MouseButton.LeftButton)  # type: ignore[attr-defined]
    shell.files.open_path(second)
    qtbot.waitUntil(lambda: session.file is not None and session.file.path == second, timeout=10_000)
    idle(session, qtbot)
    assert job_in(second) == before == session.job
    kept = job_in(first)
    assert (kept.starters[0].kw, kept.revision) == (4.0 if what == "edit" else 1.5, "A" if what == "issue" else None)
    if what == "arrange":
        assert "one.riktig" in shell.message.text() and "stays as it was" in shell.message.text()
        assert str(kept.ledger.places["plate:size"].value).endswith("provisional")


def test_jobs_asked_for_one_after_the_other_open_in_that_order(shell: Shell, qtbot: QtBot, home: Path) -> None:
    second, third = other_job(home), home / "third.riktig"
    JobFile.create(third, job_of(small_text())).close()
    type_power(shell, qtbot, "4")
    for path in (second, third):
        shell.files.open_path(path)
    idle(shell.session, qtbot)
    assert shell.session.file is not None and shell.session.file.path == third
    with JobFile.open(second) as file:
        assert not file.is_read_only, "nobody holds it any more"


def test_closing_keeps_the_edit_that_is_under_way_and_what_is_typed(shell: Shell, qtbot: QtBot) -> None:
    path = shell.session.file.path  # type: ignore[union-attr]
    box = shell.bench("brief").motor_card("M1").power  # type: ignore[attr-defined]
    box.setFocus()
    box.selectAll()
    qtbot.keyClicks(box, "5.5")
    shell.close()
    assert shell.isVisible() and "closing" in shell.message.text()
    qtbot.waitUntil(lambda: not shell.isVisible(), timeout=10_000)
    assert job_in(path).starters[0].kw == 5.5


def test_the_window_plans_a_job_of_an_earlier_version_as_the_command_line_does(
    shell: Shell, qtbot: QtBot, home: Path
) -> None:
    path, job = home / "old.riktig", job_of(small_text())
    old = replace(job, ledger=replace(job.ledger, sheets={}, cables={}))
    JobFile.create(path, old).close()
    shell.files.open_path(path)
    idle(shell.session, qtbot)
    assert shell.session.job == settle(old) == shell.session.bundle.plan.job  # type: ignore[union-attr]
    type_power(shell, qtbot, "3")
    idle(shell.session, qtbot)
    assert job_in(path).ledger.cables == job.ledger.cables


def test_closing_twice_leaves_at_once(shell: Shell, qtbot: QtBot) -> None:
    shell.show_stage("plate")
    shell.session.apply(partial(change_starter, name="M1", kw=4.0), "to 4")
    shell.close()
    shell.close()
    assert not shell.isVisible()


def test_a_change_that_cannot_be_kept_stops_the_closing(shell: Shell, qtbot: QtBot) -> None:
    shell.session.apply(partial(change_starter, name="M1", kw=-4.0), "bad")
    shell.close()
    qtbot.waitUntil(lambda: "kw" in shell.message.text(), timeout=10_000)
    qtbot.wait(100)
    assert shell.isVisible()


@pytest.mark.parametrize("how", [signal.SIGTERM, signal.SIGKILL])
def test_the_whole_application_leaves_nothing_behind_when_it_is_ended(tmp_path: Path, how: signal.Signals) -> None:
    env = {**os.environ, "XDG_DATA_HOME": str(tmp_path), "XDG_CONFIG_HOME": str(tmp_path), "USER": "ada"}
    if not os.environ.get("DISPLAY"):
        env["QT_QPA_PLATFORM"] = "offscreen"
    process = subprocess.Popen([sys.executable, "-m", "riktig", "--demo"], env=env, stderr=subprocess.PIPE)
    path = tmp_path / "riktig" / "demo-iec.riktig"
    deadline = time.monotonic() + 120
    while not (path.exists() and _children(process.pid)) and time.monotonic() < deadline:
        time.sleep(0.05)
    time.sleep(1.0)
    children = _children(process.pid)
    assert process.poll() is None and children
    process.send_signal(how)
    process.communicate(timeout=60)
    while any(Path(f"/proc/{pid}").exists() for pid in children) and time.monotonic() < deadline:
        time.sleep(0.05)
    assert not [pid for pid in children if Path(f"/proc/{pid}").exists()]
    with JobFile.open(path) as file:
        assert not file.is_read_only and file.load_job().info.number == "R-0417"


def _children(pid: int) -> list[int]:
    """Return the processes whose parent is `pid`."""
    found = []
    for entry in Path("/proc").iterdir():
        if entry.name.isdigit():
            try:
                fields = (entry / "stat").read_text().rsplit(")", 1)[1].split()
            except OSError:
                continue
            if int(fields[1]) == pid:
                found.append(int(entry.name))
    return found


def test_a_worker_that_ends_again_and_again_is_given_up_and_the_job_stays(shell: Shell, qtbot: QtBot) -> None:
    session = shell.session
    session.failed.disconnect()
    ends: list[str] = []
    session.failed.connect(ends.append)
    refused: list[str] = []
    session.refused.connect(refused.append)
    before = session.job
    for n in range(1, 5):
        helper = session.worker._helper
        assert helper is not None
        helper.process.kill()
        qtbot.waitUntil(lambda n=n: len(ends) == n, timeout=10_000)
    assert refused and "ends again and again" in refused[-1]
    assert session.worker._helper is None and session.job is before


def test_an_edit_that_meets_a_worker_which_has_just_ended_is_told_as_lost_and_the_next_one_is_kept(
    shell: Shell, qtbot: QtBot
) -> None:
    session = shell.session
    session.failed.disconnect()
    ends: list[str] = []
    session.failed.connect(ends.append)
    helper = session.worker._helper
    assert helper is not None
    helper.process.kill()
    helper.process.join()
    session.apply(partial(change_starter, name="M1", kw=2.2), "to 2.2")
    qtbot.waitUntil(lambda: len(ends) == 1, timeout=10_000)
    idle(session, qtbot)
    assert session.job is not None and session.job.starters[0].kw != 2.2
    session.apply(partial(change_starter, name="M1", kw=3.0), "to 3")
    idle(session, qtbot)
    assert session.job.starters[0].kw == 3.0
