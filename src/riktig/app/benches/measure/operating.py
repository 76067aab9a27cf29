"""Owns what hands do to a simulated panel on the screen: its supply, what is operated, what is seen then. Must not know faults."""

from collections.abc import Sequence

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QCompleter, QGridLayout, QLineEdit, QWidget

from riktig.app.text import tr
from riktig.app.widgets import button, label, set_state


class Operating(QWidget):
    """A supply that is switched, a line to say what is operated, and what is on."""

    switched = Signal(bool)
    done = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._is_on = False
        self._state = label("", bold=True)
        self.supply = button("")
        self.supply.setMinimumHeight(44)
        self.supply.clicked.connect(self.turn_supply)
        self.entry = entry(tr("Operate: press S2 …"))
        self.entry.returnPressed.connect(self.operate)
        self.act = button(tr("Do it  (F6)"))
        self.act.setMinimumHeight(44)
        self.act.clicked.connect(self.operate)
        self._running = label("", role="quiet")
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        for column, (widget, share) in enumerate(((self._state, 2), (self.supply, 2), (self.entry, 4), (self.act, 2))):
            layout.addWidget(widget, 0, column)
            layout.setColumnStretch(column, share)
        layout.addWidget(self._running, 1, 0, 1, 4)

    def show_actions(self, actions: Sequence[str]) -> None:
        """Offer what can be done."""
        self.entry.setCompleter(completer(actions, self.entry))

    def show_state(self, *, is_on: bool, running: Sequence[str], may: bool) -> None:
        """Show whether the panel is switched on and what is seen to be on; `may` says whether anything can be done to it."""
        self._is_on = is_on
        self._state.setText(tr("⚡ ON: volts") if is_on else tr("OFF: ohms"))
        set_state(self._state, "danger" if is_on else "")
        self.supply.setText(tr("Switch off  (F7)") if is_on else tr("Switch on  (F7)"))
        shown = ", ".join(running[:_MOST_SHOWN]) + (" …" if len(running) > _MOST_SHOWN else "")
        self._running.setText(shown and tr("seen: {what}").format(what=shown))
        for widget in (self.supply, self.entry, self.act):
            widget.setEnabled(may)

    def turn_supply(self) -> None:
        """Switch the supply on or off."""
        if self.supply.isEnabled():
            self.switched.emit(not self._is_on)

    def operate(self) -> None:
        """Do what is written."""
        words = self.entry.text().strip()
        if words and self.entry.isEnabled():
            self.done.emit(words)

    def take_done(self) -> None:
        """Take note that it was done: the line is free for the next."""
        self.entry.clear()


_MOST_SHOWN = 14


def entry(hint: str) -> QLineEdit:
    """Return a line to write in, with what is to be written there as its hint."""
    made = QLineEdit()
    made.setPlaceholderText(hint)
    made.setAccessibleName(hint)
    made.setMinimumHeight(44)
    return made


def completer(words: Sequence[str], parent: QWidget) -> QCompleter:
    """Return a completer that offers what has somewhere in it what is typed."""
    made = QCompleter(list(words), parent)
    made.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
    made.setFilterMode(Qt.MatchFlag.MatchContains)
    made.setMaxVisibleItems(12)
    return made
