"""A damaged job file: what is open stays open, and what can be read is offered as a copy."""

import sqlite3
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QLabel, QMessageBox, QPushButton
from pytestqt.qtbot import QtBot

from riktig.app.shell import Shell
from riktig.files.job_file import JobFile
from riktig.record.events import EventKind, make_event
from support import job_of, small_text


@pytest.fixture
def damaged(home: Path) -> Path:
    """A job whose last event cannot be read."""
    path = home / "worn.riktig"
    with JobFile.create(path, job_of(small_text())) as file:
        for n in range(2):
            file.append_event(make_event(EventKind.NOTE, str(n), unit="1", person="Ada"))
    db = sqlite3.connect(path)
    db.executescript("DROP TRIGGER events_stay; UPDATE events SET data = '[' WHERE seq = 2")
    db.close()
    return path


def pressed(shell: Shell, qtbot: QtBot, words: str) -> QMessageBox:
    qtbot.waitUntil(lambda: shell.findChild(QMessageBox) is not None, timeout=30_000)
    box = shell.findChild(QMessageBox)
    qtbot.waitUntil(box.isVisible, timeout=30_000)
    button = next(b for b in box.findChildren(QPushButton) if b.text() == words)
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    return box


def test_what_can_be_read_is_saved_as_a_copy_and_opened(
    shell: Shell, qtbot: QtBot, damaged: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    before, copy = damaged.read_bytes(), damaged.with_name("copy.riktig")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(copy), ""))
    assert not shell.files.open_path(damaged)
    assert shell.session.file is not None and shell.session.file.path.name == "one.riktig", "what is open stays open"
    box = pressed(shell, qtbot, "Save as a copy…")
    assert "Not in the copy: the last of 2 events." in box.text()
    qtbot.waitUntil(lambda: shell.session.file.path == copy and not shell.session.is_stale, timeout=20_000)  # type: ignore[union-attr]
    assert damaged.read_bytes() == before
    with JobFile.open(copy, read_only=True) as file:
        assert [event.subject for event in file.events()] == ["0"]


def test_what_a_file_says_is_never_read_as_markup(shell: Shell, qtbot: QtBot, damaged: Path) -> None:
    """A name of a revision, a title: of a file that somebody has made."""
    db = sqlite3.connect(damaged)
    db.execute("INSERT INTO issues SELECT '<b>B</b>', time, 'x', job, x'00' FROM snapshots")
    db.commit()
    db.close()
    shell.files.open_path(damaged)
    box = pressed(shell, qtbot, "Leave it")
    assert "revision <b>B</b>" in box.text() and box.textFormat() == Qt.TextFormat.PlainText
    assert {w.textFormat() for w in shell.margin.findChildren(QLabel)} == {Qt.TextFormat.PlainText}


def test_left_alone_nothing_is_written_and_the_open_job_goes_on(shell: Shell, qtbot: QtBot, damaged: Path) -> None:
    before = sorted(damaged.parent.iterdir())
    shell.files.open_path(damaged)
    pressed(shell, qtbot, "Leave it")
    assert sorted(damaged.parent.iterdir()) == before and "worn.riktig is damaged" in shell.message.text()
    assert shell.session.file is not None and shell.session.file.path.name == "one.riktig"
