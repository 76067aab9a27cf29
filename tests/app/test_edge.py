"""The one edge of the File menu: whatever goes wrong with a file is one sentence, the open job stays, and nothing is half written."""

import errno
import multiprocessing
import resource
import signal
from collections.abc import Iterator
from pathlib import Path

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QInputDialog, QMenu
from pytestqt.qtbot import QtBot

from riktig.app.shell import Shell
from riktig.files.job_access import JobFileError
from riktig.refusal import Refusal
from support import small_text

WRITING = {
    "new": Qt.Key.Key_N,
    "copy": Qt.Key.Key_C,
    "new from this": Qt.Key.Key_T,
    "brief": Qt.Key.Key_B,
    "export": Qt.Key.Key_E,
}
READING = {"open": Qt.Key.Key_O, "import": Qt.Key.Key_I}
BAD = ("no/such/folder/x", "a.toml/x", "n" * 300)


@pytest.fixture
def full_disk() -> Iterator[None]:
    """No file may become longer than 1 kB."""
    before = resource.getrlimit(resource.RLIMIT_FSIZE)
    handler = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (1024, before[1]))
    for child in multiprocessing.active_children():  # the worker writes documents
        resource.prlimit(child.pid, resource.RLIMIT_FSIZE, (1024, before[1]))
    yield
    resource.setrlimit(resource.RLIMIT_FSIZE, before)
    signal.signal(signal.SIGXFSZ, handler)


def choose(shell: Shell, qtbot: QtBot, key: Qt.Key) -> None:
    """Open the File menu and take an entry by its letter."""
    menu = shell.menuBar().actions()[0].menu()
    assert isinstance(menu, QMenu)
    shell.show_message("")
    menu.popup(shell.mapToGlobal(shell.rect().center()))
    qtbot.waitUntil(menu.isVisible, timeout=30_000)
    qtbot.keyClick(menu, key)
    qtbot.waitUntil(lambda: bool(shell.message.text()), timeout=20_000)


def answered(monkeypatch: pytest.MonkeyPatch, path: Path) -> None:
    for name in ("getSaveFileName", "getOpenFileName"):
        monkeypatch.setattr(QFileDialog, name, lambda *_: (str(path), ""))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(path))
    monkeypatch.setattr(QInputDialog, "getText", lambda *_: ("B", True))


def is_as_it_was(shell: Shell, home: Path, before: list[Path]) -> bool:
    said = shell.message.text()
    assert said and "\n" not in said and "Errno" not in said and "sqlite" not in said.lower()
    job, file = shell.session.job, shell.session.file
    assert job is not None and job.starters[0].name == "M1" and file is not None and file.path.name == "one.riktig"
    return sorted(home.iterdir()) == before


@pytest.mark.parametrize("key", [*WRITING.values(), *READING.values()], ids=[*WRITING, *READING])
def test_a_place_that_cannot_be_is_one_sentence(
    shell: Shell, qtbot: QtBot, home: Path, monkeypatch: pytest.MonkeyPatch, key: Qt.Key
) -> None:
    (home / "a.toml").write_text(small_text())
    before = sorted(home.iterdir())
    for bad in BAD if key != WRITING["export"] else BAD[1:]:  # documents make their folder
        answered(monkeypatch, home / bad)
        choose(shell, qtbot, key)
        assert is_as_it_was(shell, home, before), bad


@pytest.mark.parametrize("key", [*WRITING.values(), Qt.Key.Key_V], ids=[*WRITING, "revision"])
def test_a_disk_that_takes_no_more_is_one_sentence_and_leaves_nothing(
    shell: Shell, qtbot: QtBot, home: Path, monkeypatch: pytest.MonkeyPatch, full_disk: None, key: Qt.Key
) -> None:
    (home / "out").mkdir()
    before = sorted(home.iterdir())
    answered(monkeypatch, home / "out" if key == Qt.Key.Key_E else home / "out" / "x")
    choose(shell, qtbot, key)
    assert is_as_it_was(shell, home, before)
    assert all(
        left.stat().st_size <= 1024 and left.suffix not in {".toml", ".riktig"} for left in (home / "out").iterdir()
    )
    assert shell.session.file is not None and not shell.session.file.issues()


PLACES = {
    "new": (Qt.Key.Key_N, "riktig.app.files_menu.JobFile.create"),
    "copy": (Qt.Key.Key_C, "riktig.app.files_menu.save_copy"),
    "new from this": (Qt.Key.Key_T, "riktig.app.files_menu.JobFile.create"),
    "brief": (Qt.Key.Key_B, "riktig.files.brief_writer.save_brief"),
    "open": (Qt.Key.Key_O, "riktig.app.files_menu.JobFile.open"),
    "import": (Qt.Key.Key_I, "riktig.files.brief_reader.read_brief"),
    "revision": (Qt.Key.Key_V, "riktig.files.job_file.JobFile.issue_packed"),
}
FAULTS = {
    "bad input": (Refusal("line 3: write a number"), "write a number"),
    "disk full": (OSError(errno.ENOSPC, "No space left on device", "x"), "the disk is full"),
    "read only": (OSError(errno.EROFS, "Read-only file system", "x"), "nothing can be written"),
    "gone": (FileNotFoundError(errno.ENOENT, "No such file or directory", "x"), "it is not there"),
    "locked": (JobFileError("x.riktig is being written by another window: try again"), "another window"),
    "out of memory": (MemoryError(), "not enough memory"),
}


@pytest.mark.parametrize("name", PLACES)
def test_every_fault_behind_every_entry_of_the_menu_is_one_sentence_and_the_job_stays(
    shell: Shell, qtbot: QtBot, home: Path, monkeypatch: pytest.MonkeyPatch, name: str
) -> None:
    """What the worker writes (documents) cannot be reached from here: that fails on a full disk above."""
    (home / "a.toml").write_text(small_text())
    (home / "other.riktig").write_bytes(b"")
    before = sorted(home.iterdir())
    key, place = PLACES[name]
    answered(monkeypatch, home / ("a.toml" if name == "import" else "other.riktig" if name == "open" else "x.riktig"))
    for error, words in FAULTS.values():
        if name == "revision" and not isinstance(error, JobFileError):
            continue  # the job file itself gives everything of SQLite its sentence

        def fails(*_: object, error: BaseException = error, **__: object) -> None:
            raise error

        with monkeypatch.context() as patch:
            patch.setattr(place, fails)
            choose(shell, qtbot, key)
        assert words in shell.message.text() and is_as_it_was(shell, home, before), (name, words)
