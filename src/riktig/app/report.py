"""Owns the last resort: an error of our own is shown as a report that can be copied; the work is kept already."""

import sys
import traceback
from types import TracebackType

from PySide6.QtWidgets import QApplication, QDialog, QHBoxLayout, QPlainTextEdit, QVBoxLayout, QWidget

from riktig import VERSION
from riktig.app.text import tr
from riktig.app.theme.dressing import dress
from riktig.app.widgets import button, label


def show_report(parent: QWidget | None, report: str) -> None:
    """Show a report with a button that copies it."""
    dialog = QDialog(parent)
    dialog.setWindowTitle("Riktig")
    dialog.resize(640, 420)
    text = QPlainTextEdit(f"Riktig {VERSION}\n\n{report}")
    text.setReadOnly(True)
    copy, close = button(tr("Copy the report")), button(tr("Close"), role="primary")
    copy.clicked.connect(lambda: QApplication.clipboard().setText(text.toPlainText()))
    close.clicked.connect(dialog.accept)
    row = QHBoxLayout()
    row.addWidget(copy)
    row.addStretch()
    row.addWidget(close)
    layout = QVBoxLayout(dialog)
    words = tr(
        "Riktig has hit an error of its own. Everything that was kept is safe in the file; please send this report."
    )
    layout.addWidget(label(words, bold=True))
    layout.addWidget(text, 1)
    layout.addLayout(row)
    dress(dialog)
    dialog.open()


def install_excepthook(parent: QWidget) -> None:
    """Show every uncaught exception as a report."""

    def hook(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, error, trace)
            return
        sys.__excepthook__(kind, error, trace)
        show_report(parent, "".join(traceback.format_exception(kind, error, trace)))

    sys.excepthook = hook
