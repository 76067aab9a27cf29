"""Owns the strip of sheets below the circuit: one entry for each, with its number and what is on it."""

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtWidgets import QListView, QListWidget, QListWidgetItem

from riktig.app.text import tr
from riktig.drawings.display import Drawing

_WIDTH, _HEIGHT = 112, 56
_MOST_LETTERS = 11


class PageStrip(QListWidget):
    """Sheets side by side; a click, or the arrow keys, turn to one."""

    turned = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(tr("Sheets"))
        self.setFlow(QListView.Flow.LeftToRight)
        self.setWrapping(False)
        self.setUniformItemSizes(True)
        self.setWordWrap(True)
        self.setTextElideMode(Qt.TextElideMode.ElideNone)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFixedHeight(_HEIGHT + 20)
        self.currentRowChanged.connect(self._on_row_changed)

    def show_sheets(self, sheets: tuple[Drawing, ...], current: int) -> None:
        """List the sheets; the current one is chosen without a signal."""
        self.blockSignals(True)
        if [self.item(n).toolTip() for n in range(self.count())] != [sheet.title for sheet in sheets]:
            self.clear()
            for sheet in sheets:
                number, _, title = sheet.title.partition("  ")
                subject = title.partition(": ")[2] or title
                shown = subject if len(subject) <= _MOST_LETTERS else f"{subject[: _MOST_LETTERS - 1].rstrip()}…"
                entry = QListWidgetItem(f"{number}\n{shown}")
                entry.setToolTip(sheet.title)
                entry.setTextAlignment(Qt.AlignmentFlag.AlignCenter)
                entry.setSizeHint(QSize(_WIDTH, _HEIGHT))
                self.addItem(entry)
        self.setCurrentRow(current)
        self.blockSignals(False)
        if 0 <= current < self.count():
            self.scrollToItem(self.item(current))

    def _on_row_changed(self, row: int) -> None:
        if row >= 0:
            self.turned.emit(row)
