"""Owns the card of one sized value: number, margin, formula, where its inputs are decided, neighbours, and a person's own."""

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from riktig.app.text import tr
from riktig.app.widgets import button, label, set_state
from riktig.units.numbers import BadNumber

if TYPE_CHECKING:
    from riktig.plan.answers.explain import Explanation
    from riktig.plan.basis.sized import SizedValue


class ValueCard(QFrame):
    """A sized value. What is behind `Why` is shown as soon as `explain` was called."""

    place_requested = Signal(str)
    opened = Signal(str, bool)
    hand_set = Signal(str, float, str)
    computed_again = Signal(str)

    def __init__(self, value: "SizedValue", *, is_open: bool) -> None:
        super().__init__()
        self.setObjectName("card" if value.reason is None else "caution")
        self.value = value
        self.quantity = value.name
        self.explained: Explanation | None = None
        """What there is to say of the value, None until the worker has told."""
        self._is_open = is_open
        column = self._column = QVBoxLayout(self)
        column.setContentsMargins(10, 8, 10, 8)
        column.setSpacing(3)
        column.addWidget(label(tr(self.quantity), role="quiet"))
        column.addWidget(label(value.text, points=4, bold=True))
        self.margin = label("")
        self.margin.hide()
        column.addWidget(self.margin)
        column.addWidget(label(value.formula))
        column.addWidget(label(value.source, role="quiet"))
        self.why = button(tr("Why"), role="link")
        self.why.setAccessibleName(f"{tr('Why')} {self.quantity}")
        column.addWidget(self.why)
        self._body = QWidget()
        self.why.clicked.connect(lambda: self._open(not self._body.isVisible(), told=True))
        column.addWidget(self._body)
        self._inner = QVBoxLayout(self._body)
        self._inner.setContentsMargins(0, 0, 0, 0)
        self._inner.setSpacing(3)
        self._open(is_open, told=False)

    def _open(self, is_open: bool, *, told: bool) -> None:
        self._is_open = is_open
        if is_open:
            self._fill()
        self._body.setVisible(is_open)
        self.why.setText(tr("Less") if is_open else tr("Why, and what else would do"))
        if told:
            self.opened.emit(self.value.quantity, is_open)

    def explain(self, explained: "Explanation") -> None:
        """Say the margin, and have inputs and neighbours ready: they are filled in when the card is open, since to lay out the words of
        many closed cards takes longer than a blink.
        """
        self.explained = explained
        if explained.margin is not None:
            self.margin.setText(explained.margin)
            is_short = (explained.value.margin_percent or 0.0) < -1e-6
            set_state(self.margin, "danger" if is_short else "done")
            self.margin.show()
        if self._is_open:
            self._fill()

    def _fill(self) -> None:
        explained = self.explained
        if explained is None or self._inner.count():
            return
        for line in explained.inputs:
            self._inner.addWidget(self._input_row(line.name, line.text, line.place))
        for words, text in ((tr("Smaller"), explained.smaller), (tr("Larger"), explained.larger)):
            if text:
                self._inner.addWidget(label(f"{words}: {text}"))
        self._inner.addWidget(self._hand_buttons())
        self._editor = self._build_editor()
        self._editor.hide()
        self._inner.addWidget(self._editor)

    def _input_row(self, name: str, text: str, place: str | None) -> QWidget:
        row = QWidget()
        layout = QHBoxLayout(row)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        layout.addWidget(label(name, role="quiet"), 1)
        if place is None:
            layout.addWidget(label(text), 1, Qt.AlignmentFlag.AlignTop)
            return row
        go = button(f"{text} →", role="link", tip=tr("Go to where this is decided"))
        go.setAccessibleName(f"{self.quantity}: {name}")
        go.clicked.connect(lambda: self.place_requested.emit(place))
        layout.addWidget(go, 1)
        return row

    def _hand_buttons(self) -> QWidget:
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        words = tr("Set by hand") if self.value.reason is None else tr("Change")
        self.by_hand = button(words, role="link")
        self.by_hand.setAccessibleName(f"{tr('Set by hand')}: {self.quantity}")
        self.by_hand.clicked.connect(self._on_by_hand_clicked)
        row.addWidget(self.by_hand)
        if self.value.reason is not None:
            self.back = button(tr("Compute it again"), role="link")
            self.back.clicked.connect(lambda: self.computed_again.emit(self.value.key))
            row.addWidget(self.back)
        row.addStretch()
        return holder

    def _build_editor(self) -> QWidget:
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(4)
        self.number = QLineEdit(self.value.text)
        self.number.setAccessibleName(f"{self.quantity} {tr('by hand')}")
        self.reason = QLineEdit(self.value.reason or "")
        self.reason.setAccessibleName(f"{self.quantity} {tr('reason')}")
        self.reason.setPlaceholderText(tr("why: it stands in the job"))
        self.said = label("", role="danger")
        self.said.hide()
        self.keep = button(tr("Keep this"), role="primary")
        self.keep.setAccessibleName(f"{tr('Keep')} {self.quantity}")
        self.keep.clicked.connect(self._on_keep_clicked)
        for line in (self.number, self.reason):
            line.returnPressed.connect(self._on_keep_clicked)
        for widget in (self.number, self.reason, self.said, self.keep):
            column.addWidget(widget)
        return holder

    def _on_by_hand_clicked(self) -> None:
        self._editor.setVisible(not self._editor.isVisible())
        if self._editor.isVisible():
            self.number.setFocus()
            self.number.selectAll()

    def _on_keep_clicked(self) -> None:
        from riktig.job.overrides import read_typed

        try:
            number = read_typed(self.number.text(), self.value.unit)
        except BadNumber as error:
            self._say(str(error))
            return
        if not self.reason.text().strip():
            self._say(tr("Write why: whoever reads the job after you will ask."))
            self.reason.setFocus()
            return
        self.hand_set.emit(self.value.key, number, self.reason.text().strip())

    def _say(self, text: str) -> None:
        self.said.setText(text)
        self.said.show()
