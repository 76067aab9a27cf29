"""The real window on demo data, driven by clicks and keys; a living thread, timer or process afterwards fails."""

import multiprocessing
import os
import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

if not os.environ.get("DISPLAY"):
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QtMsgType, qInstallMessageHandler
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from riktig.app.main import make_application
from riktig.app.shell import Shell
from riktig.app.theme.theme import Variant, apply_theme, load_theme
from riktig.desk import helper
from riktig.files.job_file import JobFile
from support import job_of, small_text

os.environ["PYTHONPATH"] = os.pathsep.join((str(Path(__file__).parent.parent), os.environ.get("PYTHONPATH", "")))
helper.METHOD = "forkserver"
multiprocessing.set_forkserver_preload(["warm_worker"])
HARMLESS = ("This plugin does not support", "QStandardPaths", "XDG_RUNTIME_DIR")


@pytest.fixture(scope="session")
def qapp() -> QApplication:
    """The application as the product makes it."""
    application = make_application([])
    apply_theme(application, load_theme(Variant.LIGHT))
    return application


@pytest.fixture
def home(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A home of its own, so that no test sees another's settings."""
    for name in ("XDG_DATA_HOME", "XDG_CONFIG_HOME"):
        monkeypatch.setenv(name, str(tmp_path / "home"))
    return tmp_path


@pytest.fixture
def shell(qapp: QApplication, qtbot: QtBot, home: Path) -> Iterator[Shell]:
    """The window with a job of one starter open and computed."""
    said: list[str] = []

    def note(kind: QtMsgType, _: object, text: str) -> None:
        if kind is not QtMsgType.QtDebugMsg and not any(word in text for word in HARMLESS):
            said.append(text)

    before = qInstallMessageHandler(note)
    threads = threading.active_count()
    window = Shell()
    window.top.person.setCurrentText("Ada")
    qtbot.addWidget(window)
    window.show()
    path = home / "one.riktig"
    JobFile.create(path, job_of(small_text())).close()
    window.files.open_path(path)
    qtbot.waitUntil(lambda: not window.session.is_stale, timeout=60_000)
    yield window
    window.close()
    qtbot.waitUntil(lambda: not window.isVisible(), timeout=60_000)
    qInstallMessageHandler(before)
    assert said == []
    assert threading.active_count() == threads
    assert multiprocessing.active_children() == []


@pytest.fixture
def settled(qtbot: QtBot, shell: Shell) -> Callable[[], None]:
    """Wait until the window shows what follows from the newest edit."""
    return lambda: qtbot.waitUntil(lambda: not shell.session.is_stale, timeout=60_000)
