"""Owns the card of one motor: what a person decides, and what follows from it with the reasons."""

from functools import partial
from typing import Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QVBoxLayout,
)

from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.widgets import button, label
from riktig.job.edits import change_starter, duplicate_starter, remove
from riktig.job.model import Job, Starter
from riktig.plan.plan import Plan
from riktig.plan.sizing import SizedValue

_SHOWN = (
    ("motor_current", "Motor"),
    ("protective_rating", "Breaker"),
    ("contactor_rating", "Contactor"),
    ("overload_setting", "Set to"),
    ("conductor_section", "Wire"),
    ("cable_section", "Cable"),
    ("voltage_drop", "Drop"),
)


class MotorCard(QFrame):
    """One starter. Each change is one edit; computed values open their reason when clicked."""

    selected = Signal(str)

    def __init__(self, session: Session, starter: Starter) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session = session
        self._name = starter.name
        self._is_filling = False
        self._make_fields()
        self._values = QGridLayout()
        self._values.setHorizontalSpacing(14)
        self._values.setVerticalSpacing(2)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.setSpacing(6)
        layout.addLayout(self._build_head())
        layout.addLayout(self._build_choices())
        layout.addLayout(self._values)

    def _make_fields(self) -> None:
        self.title = QLineEdit()
        self.title.setAccessibleName(f"{self._name} {tr('what it drives')}")
        self.title.setPlaceholderText(tr("what it drives"))
        self.power = QDoubleSpinBox()
        self.power.setAccessibleName(f"{self._name} {tr('power')}")
        self.power.setRange(0.06, 1000)
        self.power.setDecimals(2)
        self.power.setKeyboardTracking(False)
        self.unit = QComboBox()
        self.power.setMinimumHeight(30)
        self.unit.addItems(["kW", "hp"])
        self.unit.setAccessibleName(f"{self._name} {tr('unit of power')}")
        self.buttons_at, self.motor_at = QComboBox(), QComboBox()
        for box in (self.buttons_at, self.motor_at):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(6)
        self.buttons_at.setAccessibleName(f"{self._name} {tr('buttons at')}")
        self.motor_at.setAccessibleName(f"{self._name} {tr('motor at')}")
        self.run_lamp, self.trip_lamp = QCheckBox(tr("run lamp")), QCheckBox(tr("trip lamp"))
        self.title.editingFinished.connect(lambda: self._send(title=self.title.text()))
        self.power.valueChanged.connect(lambda _: self._send_power())
        self.unit.activated.connect(lambda _: self._send_power())
        self.buttons_at.activated.connect(lambda _: self._send(buttons_at=(self.buttons_at.currentText(),)))
        self.motor_at.activated.connect(lambda _: self._send(motor_at=self.motor_at.currentText()))
        for lamp in (self.run_lamp, self.trip_lamp):
            lamp.toggled.connect(lambda _: self._send(lamps=self._lamps()))

    def _build_head(self) -> QHBoxLayout:
        copy = button(tr("Duplicate"), tip=tr("Add a motor like this one"))
        copy.clicked.connect(self._on_copy_clicked)
        drop = button(tr("Remove"), tip=tr("Take this motor out; undo brings it back"))
        drop.clicked.connect(self._on_drop_clicked)
        head = QHBoxLayout()
        head.addWidget(label(self._name, points=6, bold=True))
        head.addWidget(self.title, 1)
        head.addWidget(copy)
        head.addWidget(drop)
        return head

    def _build_choices(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.addWidget(label(tr("Direct on line"), role="quiet"), 0, 0)
        power = QHBoxLayout()
        power.addWidget(self.power, 1)
        power.addWidget(self.unit)
        grid.addLayout(power, 0, 1)
        grid.addWidget(self.run_lamp, 0, 2)
        grid.addWidget(self.trip_lamp, 0, 3)
        grid.addWidget(label(tr("Buttons at"), role="quiet"), 1, 0)
        grid.addWidget(self.buttons_at, 1, 1)
        grid.addWidget(label(tr("Motor at"), role="quiet"), 1, 2)
        grid.addWidget(self.motor_at, 1, 3)
        for column in (1, 3):
            grid.setColumnStretch(column, 1)
        return grid

    def show_starter(self, starter: Starter, job: Job) -> None:
        """Fill the fields from the Job; one that is being edited is left alone."""
        self._is_filling = True
        if not self.title.hasFocus():
            self.title.setText(starter.title)
        value = starter.kw if starter.kw is not None else starter.hp
        if value is not None and value != self.power.value():
            self.power.setValue(value)
        self.unit.setCurrentText("kW" if starter.kw is not None else "hp")
        places = list(dict.fromkeys(["field", *(place.name for place in job.locations)]))
        _fill(self.buttons_at, ["door", *[p for p in places if p != "field"]], starter.buttons_at[0])
        _fill(self.motor_at, places, starter.motor_at)
        self.run_lamp.setChecked("run" in starter.lamps)
        self.trip_lamp.setChecked("trip" in starter.lamps)
        self._is_filling = False

    def show_plan(self, plan: Plan) -> None:
        """Show the computed values of this motor."""
        subjects = {self._name, *(f"{self._name}.{role}" for role in "QKF")}
        by_quantity: dict[str, SizedValue] = {v.quantity: v for v in plan.sizing if v.subject in subjects}
        column = 0
        for quantity, name in _SHOWN:
            value = by_quantity.get(quantity)
            if value is None:
                continue
            self._show_value(column, tr(name), value)
            column += 1

    def _show_value(self, column: int, name: str, value: SizedValue) -> None:
        text = f"{value.inputs['size']}" if "size" in value.inputs else f"{value.value:.3g} {value.unit}"
        head, body = self._cell(0, column), self._cell(1, column)
        head.setText(name)
        body.setText(text)
        for cell in (head, body):
            cell.setToolTip(f"{value.formula}\n{value.source}")

    def _cell(self, row: int, column: int) -> Any:
        item = self._values.itemAtPosition(row, column)
        if item is None:
            made = label("", role="quiet") if row == 0 else label("", points=2, bold=True)
            made.setWordWrap(False)
            made.setTextInteractionFlags(Qt.TextInteractionFlag.NoTextInteraction)
            self._values.addWidget(made, row, column)
            return made
        return item.widget()

    def set_selected(self, is_selected: bool) -> None:
        """Show whether something of this motor is selected."""
        self.setProperty("selected", is_selected)
        self.style().unpolish(self)
        self.style().polish(self)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.selected.emit(self._name)
        super().mousePressEvent(event)

    def _lamps(self) -> tuple[str, ...]:
        pairs = (("run", self.run_lamp), ("trip", self.trip_lamp))
        return tuple(name for name, box in pairs if box.isChecked())

    def _send_power(self) -> None:
        value = self.power.value()
        is_kw = self.unit.currentText() == "kW"
        self._send(kw=value if is_kw else None, hp=None if is_kw else value)

    def _send(self, **changes: Any) -> None:
        job = self._session.job
        starter = job.starter(self._name) if job is not None else None
        if self._is_filling or starter is None:
            return
        if any(getattr(starter, key) != value for key, value in changes.items()):
            words = next(iter(changes))
            self._session.apply(partial(change_starter, name=self._name, **changes), f"{self._name}: {words}")

    def _on_copy_clicked(self) -> None:
        self._session.apply(partial(duplicate_starter, name=self._name), f"copy of {self._name}")

    def _on_drop_clicked(self) -> None:
        self._session.apply(partial(remove, field="starters", name=self._name), f"without {self._name}")


def _fill(box: QComboBox, words: list[str], current: str) -> None:
    if [box.itemText(i) for i in range(box.count())] != words:
        box.clear()
        box.addItems(words)
    box.setCurrentText(current)
