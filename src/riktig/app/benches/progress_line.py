"""Owns the line that shows how far something is that takes its time. Must not know what it is."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QVBoxLayout, QWidget

from riktig.app.text import tr
from riktig.app.widgets import button, label


class ProgressLine(QWidget):
    """How far a long edit or question is, and a button to stop it; shown only while one is under way."""

    stopped = Signal()

    def __init__(self, words: str) -> None:
        super().__init__()
        self.bar = QProgressBar()
        self.bar.setAccessibleName(words)
        self.bar.setRange(0, 100)
        self.stop = button(tr("Stop"))
        self.stop.clicked.connect(self.stopped)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.bar, 1)
        row.addWidget(self.stop)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(label(words, role="quiet"))
        column.addLayout(row)
        self.hide()

    def show_share(self, share: float) -> None:
        """Show how far it is, 0 to 1; at 1 the line goes."""
        self.bar.setValue(round(100 * share))
        self.setVisible(share < 1)
