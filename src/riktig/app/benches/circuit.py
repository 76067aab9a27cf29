"""Owns the Circuit bench: the drawn sheets."""

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from riktig.app.benches.bench import Bench
from riktig.app.canvas.view import DrawingView
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, label
from riktig.drawings.display import Drawing
from riktig.plan.lookup import Lookup


class CircuitBench(Bench):
    """One sheet at reading size, and a strip of sheets to choose from."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self._sheets: tuple[Drawing, ...] = ()
        self._at = 0
        self.view = DrawingView(theme, tr("Circuit sheet"))
        self.view.picked.connect(hub.select)
        self.view.setToolTip(tr("Click a symbol or a line. Wheel zooms, drag moves, Home fits."))
        self._strip = QHBoxLayout()
        self._strip.setSpacing(4)
        self._strip.setContentsMargins(0, 0, 0, 0)
        holder = QWidget()
        holder.setLayout(self._strip)
        strip = QScrollArea()
        strip.setWidgetResizable(True)
        strip.setFrameShape(QFrame.Shape.NoFrame)
        strip.setWidget(holder)
        strip.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        strip.setFixedHeight(56)
        self._title = label("", bold=True)
        self._title.setWordWrap(False)
        foot = QHBoxLayout()
        foot.addWidget(strip, 1)
        foot.addWidget(self._title)
        layout = QVBoxLayout(self)
        layout.addWidget(self.view, 1)
        layout.addLayout(foot)

    def show_sheets(self, sheets: tuple[Drawing, ...]) -> None:
        """Show the sheets; the one in view stays."""
        self._sheets = sheets
        while (item := self._strip.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.deleteLater()
        for index, sheet in enumerate(sheets):
            choose = button(f"{index + 1}", role="big", tip=sheet.title)
            choose.setAccessibleName(f"{tr('Sheet')} {index + 1}, {sheet.title}")
            choose.setCheckable(True)
            choose.clicked.connect(lambda _=False, at=index: self.show_sheet(at))
            self._strip.addWidget(choose)
        self._strip.addStretch()
        self.show_sheet(min(self._at, max(len(self._sheets) - 1, 0)))

    def show_sheet(self, index: int) -> None:
        """Turn to a sheet, counted from 0."""
        self._at = index
        self.view.show_drawing(self._sheets[index] if self._sheets else None)
        self._title.setText(f"{index + 1} / {len(self._sheets)}  {self._sheets[index].title}" if self._sheets else "")
        for place in range(self._strip.count()):
            item = self._strip.itemAt(place)
            widget = item.widget() if item is not None else None
            if widget is not None:
                widget.setChecked(place == index)  # type: ignore[attr-defined]

    def show_selection(self, ref: str, lookup: Lookup) -> None:
        """Mark the selection, and turn to the sheet where it is if this one does not show it."""
        marks = lookup.marks(ref) if ref else ()
        if marks and not any(self.view.has(mark) for mark in marks):
            for index, sheet in enumerate(self._sheets):
                if any(item.ref in marks for item in sheet.items):
                    self.show_sheet(index)
                    break
        self.view.mark(marks)
        if ref:
            self.view.centre_on(marks[-1] if self.view.has(marks[-1]) else ref)

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.view.set_theme(theme)
