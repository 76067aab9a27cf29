"""Opening, making, copying and leaving: what the File menu and the empty start do."""

from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QFileDialog, QPushButton
from pytestqt.qtbot import QtBot

from riktig.app.launch import run
from riktig.app.report import show_report
from riktig.app.shell import Shell
from riktig.files.brief_reader import parse_brief, read_brief
from riktig.files.job_file import JobFile
from riktig.job.edits import change_starter
from support import TWO_STATIONS


@pytest.fixture
def empty(qapp: QApplication, qtbot: QtBot, home: Path) -> Iterator[Shell]:
    """The window with no job."""
    window = Shell()
    qtbot.addWidget(window)
    window.show()
    yield window
    window.close()


@pytest.fixture
def answer(monkeypatch: pytest.MonkeyPatch) -> Callable[..., None]:
    """Answer the next file dialogs with paths."""

    def set_answers(*, save: Path | None = None, open_: Path | None = None) -> None:
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(save or ""), ""))
        monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(open_ or ""), ""))

    return set_answers


def press(shell: Shell, qtbot: QtBot, words: str) -> None:
    found = next(b for b in shell.start.findChildren(QPushButton) if b.text() == words)
    qtbot.mouseClick(found, Qt.MouseButton.LeftButton)


def settle(shell: Shell, qtbot: QtBot) -> None:
    qtbot.waitUntil(lambda: not shell.session.is_stale, timeout=20_000)


def test_the_empty_start_says_what_to_do_and_hides_the_rest(empty: Shell) -> None:
    assert empty.stack.currentWidget() is empty.start
    assert not empty.day_sheet.isVisible() and not empty.margin.isVisible()
    words = {b.text() for b in empty.start.findChildren(QPushButton)}
    assert {"New job", "Open a job", "Import a brief"} <= words


def test_a_new_job_opens_with_a_supply_and_takes_its_first_motor(
    empty: Shell, qtbot: QtBot, home: Path, answer: Callable[..., None]
) -> None:
    answer(save=home / "panel")
    press(empty, qtbot, "New job")
    settle(empty, qtbot)
    assert (home / "panel.riktig").exists() and empty.day_sheet.isVisible()
    qtbot.mouseClick(empty.bench("brief").motors.add, Qt.MouseButton.LeftButton)  # type: ignore[attr-defined]
    settle(empty, qtbot)
    assert [s.name for s in empty.session.job.starters] == ["M1"]  # type: ignore[union-attr]


def test_a_demo_is_kept_between_starts_and_listed_as_recent(empty: Shell, qtbot: QtBot) -> None:
    press(empty, qtbot, "Demo: dryer fan, 480 V")
    settle(empty, qtbot)
    path = empty.session.file.path  # type: ignore[union-attr]
    empty.top.person.setCurrentText("Ada")
    empty.session.record.tick(empty.session.record.progress.operations[0])  # type: ignore[union-attr]
    empty.files.open_demo("iec")
    settle(empty, qtbot)
    empty.files.open_demo("ul")
    settle(empty, qtbot)
    assert len(empty.session.record.progress.done) == 1  # type: ignore[union-attr]
    assert empty.files.remembered.recent()[0] == str(path.resolve()) and not empty.session.is_read_only


def test_a_brief_is_imported_and_a_bad_one_refused(
    empty: Shell, qtbot: QtBot, home: Path, answer: Callable[..., None]
) -> None:
    brief = home / "two.toml"
    brief.write_text(TWO_STATIONS.replace("volts = 400", "volt = 400"))
    answer(open_=brief, save=home / "two.riktig")
    press(empty, qtbot, "Import a brief")
    assert "two.toml:6: supply.volt: unknown key" in empty.message.text()
    assert not (home / "two.riktig").exists()
    brief.write_text(TWO_STATIONS)
    press(empty, qtbot, "Import a brief")
    settle(empty, qtbot)
    assert len(empty.session.job.rungs) == 2  # type: ignore[union-attr]


def test_copies_and_briefs_leave_whole(shell: Shell, home: Path, answer: Callable[..., None]) -> None:
    answer(save=home / "copy.riktig")
    shell.files.save_copy()
    with JobFile.open(home / "copy.riktig") as file:
        assert file.load_job() == shell.session.job
    shell.files.save_copy()
    assert "exists already" in shell.message.text()
    answer(save=home / "out.toml")
    shell.files.export_brief()
    assert read_brief(home / "out.toml") == shell.session.job


@pytest.mark.parametrize("harm", ["deleted", "replaced"])
def test_a_copy_holds_the_work_even_if_the_file_is_gone_or_another_one(
    shell: Shell, qtbot: QtBot, home: Path, answer: Callable[..., None], harm: str
) -> None:
    file = shell.session.file
    assert file is not None
    shell.session.record.tick(shell.session.record.progress.operations[0])  # type: ignore[union-attr]
    file.path.unlink()
    if harm == "replaced":
        file.path.write_text("something else")
    shell.session.apply(partial(change_starter, name="M1", title="Typed after the harm"), "title")
    settle(shell, qtbot)
    said = shell.message.text()  # by the edit or by who follows the file, whichever was later
    assert "was deleted, moved or replaced while it was open" in said and said.endswith("save a copy")
    answer(save=home / "rescue.riktig")
    shell.files.save_copy()
    with JobFile.open(home / "rescue.riktig") as copy:
        assert copy.load_job().starters[0].title == "Typed after the harm" and len(copy.events()) == 1


def test_what_one_job_could_not_keep_never_gets_into_a_copy_of_another(
    shell: Shell, qtbot: QtBot, home: Path, answer: Callable[..., None]
) -> None:
    other = home / "other.riktig"
    JobFile.create(other, parse_brief(TWO_STATIONS)).close()
    shell.session.file.path.unlink()  # type: ignore[union-attr]
    shell.session.apply(partial(change_starter, name="M1", title="Of the first job"), "title")
    settle(shell, qtbot)
    assert shell.files.open_path(other)
    settle(shell, qtbot)
    answer(save=home / "copy.riktig")
    shell.files.save_copy()
    with JobFile.open(home / "copy.riktig") as copy:
        assert copy.load_job() == shell.session.job and not copy.load_job().starters


def test_the_menu_says_what_a_folder_or_disk_refuses(
    shell: Shell, qtbot: QtBot, home: Path, answer: Callable[..., None]
) -> None:
    blocked = home / "file"
    blocked.write_text("x")
    for act, wanted in ((shell.files.save_copy, "x.riktig"), (shell.files.export_brief, "x.toml")):
        answer(save=blocked / wanted)
        act()
        assert "is a file and no folder" in shell.message.text() or "choose another" in shell.message.text()
        assert "Errno" not in shell.message.text()
    shell.show_message("")
    shell.files.export_to(blocked / "out")
    qtbot.waitUntil(lambda: bool(shell.message.text()), timeout=30_000)
    assert "choose another folder" in shell.message.text() or "check the name" in shell.message.text()


def test_a_new_job_from_this_one_leaves_numbers_and_record_behind(
    shell: Shell, qtbot: QtBot, home: Path, answer: Callable[..., None]
) -> None:
    shell.session.record.tick(shell.session.record.progress.operations[0])  # type: ignore[union-attr]
    answer(save=home / "next.riktig")
    shell.files.new_from_this()
    settle(shell, qtbot)
    assert shell.session.file.path == home / "next.riktig"  # type: ignore[union-attr]
    assert shell.session.file.events() == ()  # type: ignore[union-attr]
    assert shell.session.job.starters[0].kw == 1.5  # type: ignore[union-attr]


def test_nothing_happens_when_a_dialog_is_left(empty: Shell, answer: Callable[..., None]) -> None:
    answer()
    for act in (empty.files.new_job, empty.files.open_job, empty.files.import_brief):
        act()
    assert empty.session.file is None


def test_units_are_built_and_counted_apart(shell: Shell, qtbot: QtBot) -> None:
    shell.show_stage("build")
    qtbot.keyClick(shell.bench("build"), Qt.Key.Key_Return)
    shell.top.unit.setFocus()
    shell.top.unit.lineEdit().selectAll()
    qtbot.keyClicks(shell.top.unit.lineEdit(), "7")
    assert len(shell.session.record.progress.done) == 0  # type: ignore[union-attr]
    assert shell.session.record.units() == ("1", "7")


def test_a_tick_goes_to_the_person_who_is_signed_in(shell: Shell, qtbot: QtBot) -> None:
    shell.top.person.lineEdit().selectAll()
    qtbot.keyClicks(shell.top.person.lineEdit(), "Bo")
    shell.show_stage("build")
    qtbot.keyClick(shell.bench("build"), Qt.Key.Key_Return)
    assert shell.session.file.events()[0].person == "Bo"  # type: ignore[union-attr]
    assert shell.files.remembered.person == "Bo"


def test_a_report_can_be_copied(shell: Shell, qtbot: QtBot) -> None:
    show_report(shell, "Traceback: something")
    dialog = next(d for d in shell.children() if d.metaObject().className() == "QDialog")
    copy = next(b for b in dialog.findChildren(QPushButton) if b.text().startswith("Copy"))
    qtbot.mouseClick(copy, Qt.MouseButton.LeftButton)
    assert "something" in QApplication.clipboard().text()
    dialog.close()  # type: ignore[attr-defined]


def test_a_worker_that_dies_is_replaced_and_the_work_goes_on(
    shell: Shell, qtbot: QtBot, monkeypatch: pytest.MonkeyPatch
) -> None:
    told: list[str] = []
    shell.session.failed.disconnect()
    shell.session.failed.connect(told.append)
    shell.session.worker._helper.process.kill()  # type: ignore[union-attr]
    qtbot.waitUntil(lambda: bool(told), timeout=30_000)
    settle(shell, qtbot)
    box = shell.bench("brief").motor_card("M1").power  # type: ignore[attr-defined]
    box.selectAll()
    qtbot.keyClicks(box, "3")
    qtbot.keyClick(box, Qt.Key.Key_Return)
    settle(shell, qtbot)
    assert shell.session.job.starters[0].kw == 3  # type: ignore[union-attr]


@pytest.mark.parametrize("words", [["--demo", "mars"], ["a", "b"], ["--what"]])
def test_words_that_mean_nothing_are_refused_before_a_window(
    words: list[str], capsys: pytest.CaptureFixture[str]
) -> None:
    assert run(words) == 2
    assert "usage: riktig" in capsys.readouterr().err


def test_nothing_is_ticked_while_nobody_is_signed_in(shell: Shell, qtbot: QtBot) -> None:
    shell.top.person.lineEdit().selectAll()
    qtbot.keyClick(shell.top.person.lineEdit(), Qt.Key.Key_Delete)
    shell.show_stage("build")
    qtbot.keyClick(shell.bench("build"), Qt.Key.Key_Return)
    assert "nobody is signed in" in shell.message.text()
    assert shell.session.file.events() == ()  # type: ignore[union-attr]


def test_opening_the_open_job_again_keeps_it_writable(shell: Shell) -> None:
    assert shell.files.open_path(shell.session.file.path)  # type: ignore[union-attr]
    assert not shell.session.is_read_only
