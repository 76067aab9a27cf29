"""Opens the real window, in memory, and tells how long its turns take."""

import os
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

IDLE_S = 0.0005
_shells: list[Any] = []


def application() -> Any:
    """Return the one application of this process."""
    from PySide6.QtWidgets import QApplication

    from riktig.app.main import make_application
    from riktig.app.theme.theme import Variant, apply_theme, load_theme

    made = QApplication.instance()
    if made is None:
        made = make_application([])
        apply_theme(made, load_theme(Variant.LIGHT))
    return made


def open_window(name: str, text: str) -> Any:
    """Return the window with a job open, everything computed."""
    from riktig.app.idle import IdleCollector
    from riktig.app.shell import Shell
    from riktig.files.brief_reader import parse_brief
    from riktig.files.job_file import JobFile

    path = Path(os.environ["XDG_DATA_HOME"]) / f"{name}.riktig"
    JobFile.create(path, parse_brief(text)).close()
    shell = Shell()
    IdleCollector(shell.session, shell)
    _shells.append(shell)
    shell.resize(1280, 800)
    shell.show()
    shell.files.open_path(path)
    wait_for(shell)
    return shell


def wait_for(shell: Any) -> None:
    """Let the window work until nothing is computed any more."""
    turns = Turns()
    while shell.session.is_stale:
        turns.take()


class Turns:
    """The longest turn of the window's thread by the clock, and by its own processor time, which holds nothing of other work."""

    def __init__(self) -> None:
        self.clock = self.own = 0.0

    def take(self, act: Callable[[], None] | None = None) -> None:
        """Do something, or let the window do what is to be done; where there is nothing sleep a little, as windows do."""
        start, own = time.perf_counter(), time.thread_time()
        (act or application().processEvents)()
        took = time.perf_counter() - start
        self.clock, self.own = max(self.clock, took), max(self.own, time.thread_time() - own)
        if act is None and took < IDLE_S:
            time.sleep(IDLE_S)


def close_window(shell: Any) -> None:
    """Close the window and let go of it."""
    shell.close()
    while shell.isVisible():
        application().processEvents()
