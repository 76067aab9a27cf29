"""Owns what is shown of the way to a fault: suspects with their shares, and the faults that were found and are to be mended. Must not weigh
them.
"""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from riktig.app.text import tr
from riktig.app.widgets import button, label
from riktig.desk.proof_errands import SuspectLine, Trail
from riktig.record.testing import Found


class TrailPanel(QWidget):
    """Suspects likeliest first; the one that it is becomes a mend to be done."""

    picked = Signal(object)
    found = Signal(object)
    mended = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._lines: tuple[SuspectLine, ...] = ()
        self._open: tuple[Found, ...] = ()
        self._is_followed = False
        self._head = label(tr("Suspects"), points=3, bold=True)
        self._words = label("", role="quiet")
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Suspects"))
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setMinimumHeight(260)
        self.list.setMinimumWidth(80)
        self.list.currentRowChanged.connect(self._on_row_changed)
        self.it_is = button(tr("This is it  (F2)"), role="primary")
        self.it_is.clicked.connect(self.tell_found)
        self._mends = label("", role="attention", bold=True)
        self.done = button(tr("Mended  (F3)"), role="primary")
        self.done.clicked.connect(self.tell_mended)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        for widget in (self._head, self._words, self.list, self.it_is, self._mends, self.done):
            layout.addWidget(widget)
        self.show_trail(None)
        self.show_found(())

    def show_trail(self, trail: Trail | None) -> None:
        """Show the suspects, or nothing where no fault is looked for."""
        self._lines = trail.suspects if trail is not None else ()
        self._is_followed = trail is not None
        self.setVisible(self._is_followed or bool(self._open))
        for widget in (self._head, self._words, self.list, self.it_is):
            widget.setVisible(trail is not None)
        if trail is None:
            return
        told = (
            tr("{n} explain what was read").format(n=trail.count)
            if trail.count > 1
            else tr("one explains what was read")
        )
        past = tr("; {n} faults found before are in the odds").format(n=trail.before) if trail.before else ""
        self._words.setText(told + past)
        self.list.blockSignals(True)
        self.list.clear()
        for line in self._lines:
            self.list.addItem(QListWidgetItem(f"{100 * line.share:.0f} %  {line.words}"))
        self.list.setCurrentRow(0)
        self.list.blockSignals(False)
        self._on_row_changed(0)

    def show_found(self, faults: tuple[Found, ...]) -> None:
        """Show what was found and is not mended yet."""
        self._open = tuple(one for one in faults if not one.is_mended)
        self._mends.setText("\n".join(f"{tr('Mend')}: {one.mend}" for one in self._open))
        self.setVisible(self._is_followed or bool(self._open))
        self._mends.setVisible(bool(self._open))
        self.done.setVisible(bool(self._open))

    def _on_row_changed(self, row: int) -> None:
        if 0 <= row < len(self._lines):
            self.picked.emit(self._lines[row])

    def tell_found(self) -> None:
        """Tell which suspect it is."""
        row = self.list.currentRow()
        if 0 <= row < len(self._lines):
            self.found.emit(self._lines[row])

    def tell_mended(self) -> None:
        """Tell that the first fault of those that were found is mended."""
        if self._open:
            self.mended.emit(self._open[0].key)
