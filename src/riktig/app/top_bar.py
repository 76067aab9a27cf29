"""Owns the bar above the bench: title, find, undo, who works on which unit, and when it was kept."""

from collections.abc import Callable
from datetime import datetime

from PySide6.QtCore import QStringListModel, Qt, Signal
from PySide6.QtWidgets import QComboBox, QCompleter, QFrame, QHBoxLayout, QLabel, QLineEdit, QListView

from riktig.app.text import tr
from riktig.app.theme.dressing import dress
from riktig.app.widgets import button, label


class TopBar(QFrame):
    """One line that stays the same on every bench."""

    found = Signal(str)
    missed = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("top-bar")
        self.title = label("", bold=True, points=1)
        self.title.setWordWrap(False)
        self.stale = label(tr("computing…"), role="attention")
        self.stale.setWordWrap(False)
        self.kept = label("", role="quiet")
        self.kept.setWordWrap(False)
        self.back = button("←", tip=tr("Back to where you were before (Alt+Left)"))
        self.back.setAccessibleName(tr("Back"))
        self.back.setEnabled(False)
        self.undo, self.redo = button(tr("Undo")), button(tr("Redo"))
        self.person = self._box(tr("Person signed in"), tr("Who ticks and measures"), 100)
        self.unit = self._box(tr("Unit, serial number"), tr("Which panel of this job is built: its serial number"), 64)
        self._index: dict[str, str] = {}
        self._offer: Callable[[], dict[str, str]] | None = None
        self._words = QStringListModel(self)
        self.find_box = self._build_find()
        self._lay_out()

    @staticmethod
    def _box(name: str, tip: str, width: int) -> QComboBox:
        box = QComboBox()
        box.setEditable(True)
        box.setAccessibleName(name)
        box.setToolTip(tip)
        box.setFixedWidth(width)
        return box

    def _build_find(self) -> QLineEdit:
        find = QLineEdit()
        find.setPlaceholderText(tr("Find: tag, wire number, terminal, sheet.column  (Ctrl+F)"))
        find.setAccessibleName(tr("Find"))
        find.setClearButtonEnabled(True)
        completer, popup = QCompleter(self._words, self), QListView()
        completer.setPopup(popup)
        dress(popup)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        find.setCompleter(completer)
        find.textEdited.connect(lambda _: self._gather())
        find.returnPressed.connect(self._on_find_returned)
        return find

    def _lay_out(self) -> None:
        bar = QHBoxLayout(self)
        bar.setContentsMargins(12, 6, 12, 6)
        bar.addWidget(self.title)
        bar.addStretch(1)
        bar.addWidget(self.stale)
        bar.addWidget(self.back)
        bar.addWidget(self.find_box, 3)
        bar.addWidget(self.undo)
        bar.addWidget(self.redo)
        for words, box in ((tr("Person"), self.person), (tr("Unit"), self.unit)):
            bar.addWidget(QLabel(words))
            bar.addWidget(box)
        bar.addWidget(self.kept)

    def offer(self, words: Callable[[], dict[str, str]]) -> None:
        """Take over what can be found, words with their refs; they are gathered when somebody types."""
        self._offer = words

    def _gather(self) -> None:
        if self._offer is not None:
            index, self._offer = self._offer(), None
            self._index = {word.lower(): ref for word, ref in index.items()}
            self._words.setStringList(sorted(index))

    def show_kept(self, time: str) -> None:
        """Show when the job was last kept; an empty text means now."""
        moment = datetime.fromisoformat(time) if time else datetime.now().astimezone()
        self.kept.setText(f"{tr('kept')} {moment.astimezone():%H:%M:%S}")

    def show_units(self, units: tuple[str, ...], current: str) -> None:
        """Show the serial numbers to choose from."""
        self.unit.clear()
        self.unit.addItems(list(units))
        self.unit.setCurrentText(current)

    def focus_find(self) -> None:
        """Put the cursor into the find field."""
        self.find_box.setFocus()
        self.find_box.selectAll()

    def _on_find_returned(self) -> None:
        self._gather()
        words = self.find_box.text().strip().lower()
        ref = self._index.get(words) or self._index.get(f"wire {words}")
        if ref is None:
            hint = tr("try a tag, a wire number or a terminal")
            self.missed.emit(f"{tr('Nothing here is called')} '{self.find_box.text().strip()}': {hint}")
        else:
            self.found.emit(ref)
