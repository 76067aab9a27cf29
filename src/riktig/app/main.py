"""Owns the start of the window. Must not know what a bench shows."""

import getpass
import sys
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QApplication

from riktig.app.idle import IdleCollector
from riktig.app.report import install_excepthook
from riktig.app.shell import Shell
from riktig.app.theme.theme import Variant, apply_theme, load_fonts, load_theme, make_icon
from riktig.desk.helper import Helper


def make_application(words: list[str]) -> QApplication:
    """Return the application with fonts, icon and style name set."""
    QApplication.setHighDpiScaleFactorRoundingPolicy(Qt.HighDpiScaleFactorRoundingPolicy.PassThrough)
    application = QApplication([sys.argv[0], *words])
    application.setApplicationName("Riktig")
    application.setStyle("Fusion")
    load_fonts(application)
    application.setWindowIcon(make_icon())
    return application


def run_window(words: list[str], helper: Helper) -> int:
    """Open the window and return the exit code.

    Args:
        words: a job file, or `--demo` with `iec` or `ul`; `--dark` for the dark look.
        helper: the worker process, started already.
    """
    is_dark = "--dark" in words
    rest = [word for word in words if word != "--dark"]
    world = (rest[1:] or ["iec"])[0] if rest[:1] == ["--demo"] else None
    application = make_application([])
    variant = Variant.DARK if is_dark else Variant.LIGHT
    apply_theme(application, load_theme(variant))
    shell = Shell(variant, helper)
    IdleCollector(shell.session, shell)
    install_excepthook(shell)
    shell.top.person.setCurrentText(shell.files.remembered.person or getpass.getuser())
    shell.show()
    if world is not None:
        QTimer.singleShot(0, lambda: shell.files.open_demo(world))
    elif rest:
        path = Path(rest[0])
        QTimer.singleShot(0, lambda: shell.files.open_path(path))
    QTimer.singleShot(0, _load_late)  # behind the opening, which lets the worker begin
    return application.exec()


def _load_late() -> None:
    """Load what the first bundle needs while the worker computes it."""
    import riktig.drawings.display
    import riktig.job.model
    import riktig.plan.answers.lookup
    import riktig.record.progress  # noqa: F401
