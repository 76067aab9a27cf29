"""Owns the card on which a cut-out is measured twice before it is cut. Must not judge the entries."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QDoubleSpinBox, QFrame, QGridLayout, QHBoxLayout, QVBoxLayout

from riktig.app.text import tr
from riktig.app.widgets import button, label, set_state
from riktig.record.cutouts import CutoutCheck, CutoutState

_ROLES = {
    CutoutState.AGREED: ("✓", "done"),
    CutoutState.APART: ("✗", "danger"),
    CutoutState.OFF: ("✗", "danger"),
    CutoutState.ONCE: ("◐", ""),
    CutoutState.BLANK: ("○", "quiet"),
}
MARKS = {state: mark for state, (mark, _) in _ROLES.items()}


class MeasureCard(QFrame):
    """What is planned, two boxes for what was measured, and what that comes to. The first entry stays hidden until there are two."""

    measured = Signal(float, float)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("card")
        self._title = label("", bold=True)
        self._planned = label("", mono=True)
        self.state = label("")
        self._entries = label("", role="quiet")
        self.x_box, self.y_box = self._box("x"), self._box("y")
        self.enter = button(tr("Measured"), role="primary")
        self.enter.setMinimumHeight(40)
        self.enter.clicked.connect(self._on_enter_clicked)
        grid = QGridLayout()
        for column, (name, box) in enumerate((("x", self.x_box), ("y", self.y_box))):
            grid.addWidget(label(f"{name} mm", role="quiet"), 0, column)
            grid.addWidget(box, 1, column)
        row = QHBoxLayout()
        row.addWidget(self.enter)
        inner = QVBoxLayout(self)
        inner.setContentsMargins(10, 8, 10, 8)
        for widget in (self._title, self._planned):
            inner.addWidget(widget)
        inner.addLayout(grid)
        inner.addLayout(row)
        inner.addWidget(self.state)
        inner.addWidget(self._entries)

    def _box(self, name: str) -> QDoubleSpinBox:
        box = QDoubleSpinBox()
        box.setAccessibleName(f"{name} {tr('as measured, mm')}")
        box.setRange(-1.0, 5000.0)
        box.setDecimals(1)
        box.setSpecialValueText(" ")
        box.setValue(-1.0)
        box.setMinimumHeight(40)
        box.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        return box

    def show_check(self, check: CutoutCheck | None, name: str) -> None:
        """Show a cut-out, or that none is selected."""
        for widget in (self.x_box, self.y_box, self.enter):
            widget.setEnabled(check is not None)
        for box in (self.x_box, self.y_box):
            box.setValue(-1.0)
        if check is None:
            self._title.setText(tr("Measure before you cut"))
            self._planned.setText("")
            self.state.setText(tr("Select a cut-out. Two entries must agree before its step opens."))
            set_state(self.state, "quiet")
            self._entries.setText("")
            return
        planned = check.planned
        self._title.setText(f"{name}, {planned.where}, {planned.size}")
        self._planned.setText(f"{planned.x:g} / {planned.y:g} ± {planned.tolerance:g}")
        mark, role = _ROLES[check.state]
        self.state.setText(f"{mark} {check.words}")
        set_state(self.state, role)
        texts = [f"{e.x:g} / {e.y:g}  {e.person}" for e in check.entries]
        self._entries.setText(
            "\n".join(texts) if len(texts) > 1 else tr("one entry, shown with the second") if texts else ""
        )

    def _on_enter_clicked(self) -> None:
        if self.x_box.value() >= 0 and self.y_box.value() >= 0:
            self.measured.emit(self.x_box.value(), self.y_box.value())
        else:
            self.state.setText(tr("✗ type both, in mm from the datum"))
            set_state(self.state, "danger")
