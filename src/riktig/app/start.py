"""Owns the empty start: what to do when no job is open."""

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from riktig.app.text import tr
from riktig.app.widgets import button, card, clear_layout, label

MOST_RECENT = 6


class StartPage(QWidget):
    """New, open, import, demos, and the jobs opened last."""

    new_requested = Signal()
    open_requested = Signal()
    import_requested = Signal()
    demo_requested = Signal(str)
    recent_requested = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        inner = QVBoxLayout()
        inner.setContentsMargins(32, 26, 32, 26)
        inner.setSpacing(10)
        inner.addWidget(label(tr("Begin with a job"), points=12, bold=True))
        inner.addWidget(
            label(tr("State supply and motors; Riktig plans the panel and goes with you to the last test."))
        )
        for words, signal, role in (
            (tr("New job"), self.new_requested, "primary"),
            (tr("Open a job"), self.open_requested, "big"),
            (tr("Import a brief"), self.import_requested, "big"),
        ):
            made = button(words, role=role)
            made.clicked.connect(signal)
            inner.addWidget(made)
        demos = QHBoxLayout()
        for words, world in ((tr("Demo: apple elevator, 400 V"), "iec"), (tr("Demo: dryer fan, 480 V"), "ul")):
            made = button(words)
            made.clicked.connect(lambda _=False, w=world: self.demo_requested.emit(w))
            demos.addWidget(made)
        inner.addLayout(demos)
        self._recent = QVBoxLayout()
        inner.addLayout(self._recent)
        frame = card(inner)
        frame.setMaximumWidth(620)
        layout = QHBoxLayout(self)
        layout.addWidget(frame, alignment=Qt.AlignmentFlag.AlignCenter)

    def show_recent(self, paths: list[str]) -> None:
        """List the jobs opened last that still exist."""
        clear_layout(self._recent)
        there = [path for path in paths if Path(path).exists()][:MOST_RECENT]
        if there:
            self._recent.addWidget(label(tr("Recent"), role="quiet"))
        for path in there:
            made = button(path, role="link")
            made.clicked.connect(lambda _=False, p=path: self.recent_requested.emit(p))
            self._recent.addWidget(made)
