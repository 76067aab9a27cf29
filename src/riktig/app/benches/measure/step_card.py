"""Owns the card of one step of the test: what to do, the reading, large, and the keys that judge it. Must not know the Record."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from riktig.app.text import tr
from riktig.app.widgets import button, card, label, set_state
from riktig.prove.steps import Phase, Step, Unit, value_words
from riktig.units.numbers import BadNumber, parse_number, parse_reading

if TYPE_CHECKING:
    from riktig.record.testing import Reading, Said

_KEY_PX = 44
_HINTS = {Unit.OHM: "ohms: 0.3, 1.2k, OL", Unit.VOLT: "volts: 230", Unit.MEGOHM: "megohms: 550, OL", Unit.SEEN: ""}


class StepCard(QWidget):
    """One step. A reading is typed or taken from the meter; what is looked at is answered by two large keys."""

    judged = Signal(float)
    """A reading in the unit of the step; of something seen 1 or 0."""
    take_requested = Signal()
    next_requested = Signal()
    find_requested = Signal()
    skip_requested = Signal()
    waive_requested = Signal()
    photo_requested = Signal()
    reason_given = Signal(str)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._step: Step | None = None
        self.title = label("", points=8, bold=True)
        self._ends = label("", points=2)
        self._do = label("", points=1)
        self._prepare = label("", role="attention", bold=True)
        self.reading = label("–", points=30, bold=True, mono=True)
        self.verdict = label("", points=11, bold=True)
        self._said = label("", role="quiet")
        self._suspects = label("")
        self._build_keys()
        self._build_reason()
        inner = QVBoxLayout()
        inner.setContentsMargins(18, 10, 18, 10)
        inner.setSpacing(5)
        number = QHBoxLayout()
        number.addWidget(self.reading, 2)
        number.addWidget(self.verdict, 3)
        for widget in (self.title, self._ends, self._do, self._prepare):
            inner.addWidget(widget)
        inner.addLayout(number)
        inner.addLayout(self._keys)
        inner.addLayout(self._small)
        inner.addWidget(self._reason)
        inner.addWidget(self._said)
        inner.addWidget(self._suspects)
        self._card = card(inner)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._card)

    def _build_keys(self) -> None:
        self.entry = QLineEdit()
        self.entry.setAccessibleName(tr("Reading"))
        self.entry.setMinimumHeight(_KEY_PX)
        self.entry.returnPressed.connect(self._on_entry_returned)
        self.take = self._key(tr("Take from meter  (F5)"), "primary", self.take_requested.emit)
        self.good = self._key(tr("✓  As it should be  (+)"), "primary", lambda: self.judged.emit(1.0))
        self.bad = self._key(tr("✗  Not so  (−)"), "big", lambda: self.judged.emit(0.0))
        self.next = self._key(tr("Next  (F6)"), "big", self.next_requested.emit)
        self._keys = QHBoxLayout()
        for widget, share in ((self.entry, 2), (self.take, 2), (self.good, 2), (self.bad, 1), (self.next, 1)):
            self._keys.addWidget(widget, share)
        self._small = QHBoxLayout()
        self.search = button(tr("Find the fault  (F7)"))
        self.skip = button(tr("Skip  (F8)"), tip=tr("Leave this step out, with a reason"))
        self.waive = button(tr("Waive the phase  (F4)"), tip=tr("Leave this whole phase out, with a reason"))
        self.photo = button(tr("Photo  (F9)"), tip=tr("Attach a picture file to this step"))
        wishes = (self.find_requested, self.skip_requested, self.waive_requested, self.photo_requested)
        for small, wish in zip((self.search, self.skip, self.waive, self.photo), wishes, strict=True):
            small.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            small.clicked.connect(wish.emit)
            self._small.addWidget(small)
        self._small.addStretch(1)

    def _key(self, text: str, role: str, act) -> QWidget:  # type: ignore[no-untyped-def]
        made = button(text, role=role)
        made.setMinimumHeight(_KEY_PX)
        made.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        made.clicked.connect(act)
        return made

    def _build_reason(self) -> None:
        self.reason = QLineEdit()
        self.reason.setMinimumHeight(_KEY_PX)
        self.reason.returnPressed.connect(self._on_reason_returned)
        self._question = label("", bold=True)
        row = QVBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self._question)
        row.addWidget(self.reason)
        self._reason = QWidget()
        self._reason.setLayout(row)
        self._reason.hide()

    # -- showing

    def show_step(self, step: Step, ends: str, reading: "Reading | None", said: "Said | None", shut: str) -> None:
        """Show a step, how it stands, and why it may not be done, "" where it may."""
        self._step = step
        self._reason.hide()
        self.title.setText(step.title)
        self._ends.setText(ends)
        self._ends.setVisible(bool(ends))
        self._do.setText(_shortened(step.do))
        self._do.setToolTip(step.do)
        self._do.setVisible(bool(step.do))
        words = shut or step.prepare
        self._prepare.setText(words[:1].upper() + words[1:])
        self._prepare.setVisible(bool(words))
        self._show_keys(is_read=step.is_read, may=not shut)
        self._suspects.setText("")
        self.search.setEnabled(
            reading is not None and not reading.is_passed and step.phase not in {Phase.LIVE, Phase.RESIDUAL}
        )
        if reading is None:
            self.reading.setText("–")
            self.verdict.setText(tr("skipped") if said else tr("not measured") if step.is_read else tr("not looked at"))
            set_state(self._card, "card")
        else:
            self.reading.setText(value_words(step.unit, reading.value))
            self.verdict.setText(tr("✓  PASS") if reading.is_passed else tr("✗  FAIL"))
            set_state(self._card, "good" if reading.is_passed else "bad")
        self._said.setText(f"{said.person}: {said.reason}" if said else "")
        self._said.setVisible(said is not None)

    def _show_keys(self, *, is_read: bool, may: bool) -> None:
        read, seen = (self.entry, self.take, self.reading), (self.good, self.bad)
        for widget in (
            seen if is_read else read
        ):  # what goes before what comes: all of them together would widen the window
            widget.hide()
        for widget in read if is_read else seen:
            widget.show()
        for widget in (self.entry, self.take, self.good, self.bad, self.skip):
            widget.setEnabled(may)
        if self._step is not None:
            self.entry.setPlaceholderText(tr(_HINTS[self._step.unit]))

    def show_probe(self, title: str, ends: str, words: str, *, may: bool = True) -> None:
        """Show a measurement on the way to a fault, or that there is none any more."""
        self._reason.hide()
        self.title.setText(title)
        self._ends.setText(ends)
        self._do.setText(words)
        self._do.setVisible(bool(words))
        for widget in (self._prepare, self._said):
            widget.hide()
        self.reading.setText("–")
        self.verdict.setText("")
        self.entry.setPlaceholderText(tr(_HINTS[Unit.OHM]))
        self._show_keys(is_read=True, may=may)
        self.skip.setEnabled(False)
        set_state(self._card, "card")

    def tell(self, words: str) -> None:
        """Say something under the keys."""
        self._suspects.setText(words)

    def ask_reason(self, question: str) -> None:
        """Ask for a reason; it is told by `reason_given`."""
        self._question.setText(question)
        self.reason.clear()
        self.reason.setAccessibleName(question)
        self._reason.show()
        self.reason.setFocus()

    def _on_reason_returned(self) -> None:
        text = self.reason.text().strip()
        if text:
            self._reason.hide()
            self.reason_given.emit(text)

    def _on_entry_returned(self) -> None:
        text = self.entry.text()
        if not text.strip():
            self.next_requested.emit()
            return
        try:
            reading = read_value(self._step.unit if self._step is not None else Unit.OHM, text)
        except BadNumber as error:
            self.refused.emit(str(error))
            self.tell(str(error))
            return
        self.entry.clear()
        self.judged.emit(reading)


def _shortened(text: str) -> str:
    """Return a list of many terminals as far as it has room; the picture and the papers have all of it."""
    if len(text) <= _MOST_LETTERS:
        return text
    return text[: text.rindex(", ", 0, _MOST_LETTERS)] + tr(" … all are in the picture and on paper")


_MOST_LETTERS = 220


def read_value(unit: Unit, text: str) -> float:
    """Return what somebody typed as a reading in a unit.

    Raises:
        BadNumber: it is none.
    """
    if unit is Unit.VOLT:
        return parse_number(text.lower().removesuffix("v").strip())
    if unit is Unit.MEGOHM:
        return (
            parse_reading(
                text if text.strip().lower().startswith("o") else f"{text.lower().removesuffix('m').strip()}M"
            )
            / 1e6
        )
    return parse_reading(text)
