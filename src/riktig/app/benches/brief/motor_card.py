"""Owns the card of one motor: what a person decides, and what follows from it with the reasons."""

from collections.abc import Iterable
from functools import partial
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDoubleSpinBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QMenu,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from riktig.app.benches.brief.value_grid import ValueGrid
from riktig.app.field_form import FieldForm
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.widgets import button, label
from riktig.job.edits import change_starter, duplicate_starter
from riktig.job.model import Job, Starter
from riktig.plan.basis.sized import SizedValue

NO_BREAK = "\u00a0"
KIND_WORDS = {
    "dol": "Direct on line",
    "reversing": "Reversing",
    "star-delta": "Star-delta",
    "drive": "Speed drive",
    "soft": "Soft starter",
    "pump": "Level pump",
}
_SHOWN = (
    ("motor_current", "Motor"),
    ("protective_rating", "Breaker"),
    ("contactor_rating", "Contactor"),
    ("drive_rating", "Rated"),
    ("overload_setting", "Set to"),
    ("conductor_section", "Wire"),
    ("cable_section", "Cable"),
    ("voltage_drop", "Drop"),
)
_IN_ROW = 3
_LAMPS = ("run", "trip", "ready")
_FLAGS = (
    ("isolator", "isolator"),
    ("hours", "hours counter"),
    ("thermistor", "thermistor"),
    ("key", "key switch"),
)
_PLACES = ("control", "supply", "buttons_at", "motor_at")
_MORE = (
    "protection", "curve", "start_ratio", "start_seconds", "trip_class", "selector", "auto", "needs", "controller", "feedback",
    "restart", "estop_at", "runs_while", "never_with", "level", "speed", "star_seconds", "overload_contact", "power",
    "hold_to_run", "limits", "legends", "interlock", "amps", "motor_volts", "efficiency", "cos_phi", "service_factor", "phases", "duty",
)  # fmt: skip
_ONLY = {
    "level": {"pump"},
    "speed": {"drive"},
    "star_seconds": {"star-delta"},
    "motor_volts": {"star-delta"},
    "hold_to_run": {"dol", "reversing"},
    "limits": {"reversing"},
    "legends": {"reversing"},
    "interlock": {"reversing"},
}


def offered_for(job: Job, name: str = "") -> dict[str, list[str]]:
    """Return the words that the fields of a starter may be chosen from."""
    places = [place.name for place in job.locations]
    others = [s.name for s in job.starters if s.name != name]
    return {
        "supply": [c.name for c in job.controls],
        "buttons_at": ["door", *places],
        "motor_at": list(dict.fromkeys(["field", *places])),
        "estop_at": ["door", *places],
        "controller": [c.name for c in job.controllers],
        "level": [level.name for level in job.levels],
        "power": [extra.name for extra in job.extra_supplies],
        "runs_while": others,
        "never_with": others,
    }


class MotorCard(QFrame):
    """One starter: a line while it is closed, all its options when it is open. Each change is one edit."""

    selected = Signal(str)

    def __init__(self, session: Session, starter: Starter) -> None:
        super().__init__()
        self.setObjectName("card")
        self._session = session
        self._name = starter.name
        self._is_filling = False
        self._is_open = False
        self._kind_shown = ""
        self._more: FieldForm | None = None
        self._body: QWidget | None = None
        self._shown: tuple[Starter | None, tuple[SizedValue, ...]] = (None, ())
        self.tick = QCheckBox()
        self.tick.setAccessibleName(f"{self._name} {tr('in bulk changes')}")
        self.tick.setToolTip(tr("Take this motor into bulk changes"))
        self.title = QLineEdit()
        self.title.setAccessibleName(f"{self._name} {tr('what it drives')}")
        self.title.setPlaceholderText(tr("what it drives"))
        self.title.editingFinished.connect(lambda: self._send(title=self.title.text()))
        self._brief = label("", role="quiet")
        self._layout = QVBoxLayout(self)
        self._layout.setContentsMargins(14, 8, 14, 8)
        self._layout.setSpacing(6)
        self._layout.addLayout(self._build_head())
        self._layout.addWidget(self._brief)

    def _make_fields(self) -> None:
        self.power = QDoubleSpinBox()
        self.power.setAccessibleName(f"{self._name} {tr('power')}")
        self.power.setRange(0.06, 1340)
        self.power.setDecimals(2)
        self.power.setKeyboardTracking(False)
        self.power.setMinimumHeight(30)
        self.unit = QComboBox()
        self.unit.addItems(["kW", "hp"])
        self.unit.setAccessibleName(f"{self._name} {tr('unit of power')}")
        self.kind = QComboBox()
        self.kind.setAccessibleName(f"{self._name} {tr('how it starts')}")
        for kind, words in KIND_WORDS.items():
            self.kind.addItem(tr(words), kind)
        self.lamps = {lamp: _chip(tr(f"{lamp} lamp"), self._name) for lamp in _LAMPS}
        self.flags = {flag: _chip(tr(words), self._name) for flag, words in _FLAGS}
        self.places = FieldForm(Starter, _PLACES, spoken=self._name)
        self.more = button(tr("More options"), role="link")
        self._values = ValueGrid()

    def _connect_fields(self) -> None:
        self.power.valueChanged.connect(lambda _: self._send_power())
        self.unit.activated.connect(lambda _: self._send_power())
        self.kind.activated.connect(lambda _: self._send_kind(self.kind.currentData()))
        for chip in self.lamps.values():
            chip.toggled.connect(lambda _: self._send(lamps=self._lamps()))
        for flag, chip in self.flags.items():
            chip.toggled.connect(lambda value, key=flag: self._send(**{key: value}))
        self.places.changed.connect(lambda field, value: self._send(**{field: value}))
        self.more.clicked.connect(self._on_more_clicked)

    def _build_head(self) -> QHBoxLayout:
        self.menu = QPushButton(tr("Actions"))
        self.menu.setAccessibleName(f"{self._name} {tr('actions')}")
        menu = QMenu(self.menu)
        menu.addAction(tr("Duplicate")).triggered.connect(self._on_copy_clicked)
        self._detach = menu.addAction(tr("Turn into plain circuit"))
        self._detach.triggered.connect(self._on_detach_triggered)
        menu.addAction(tr("Remove")).triggered.connect(self._on_drop_clicked)
        self.menu.setMenu(menu)
        self.fold = button(tr("Open"))
        self.fold.setAccessibleName(f"{self._name} {tr('options')}")
        self.fold.clicked.connect(lambda: self.set_open(not self._is_open))
        head = QHBoxLayout()
        head.setSpacing(6)
        name = label(self._name, points=4, bold=True)
        name.setMinimumWidth(44)
        name.setWordWrap(False)
        for widget, stretch in ((self.tick, 0), (name, 0), (self.title, 1), (self.menu, 0), (self.fold, 0)):
            head.addWidget(widget, stretch)
        return head

    def _build_body(self) -> QWidget:
        """Build the options; a closed card has none yet, so that a hundred of them open quickly."""
        self._make_fields()
        self._connect_fields()
        power = QHBoxLayout()
        power.setSpacing(6)
        power.addWidget(self.power, 2)
        power.addWidget(self.unit, 1)
        power.addWidget(self.kind, 3)
        chips = QGridLayout()
        chips.setSpacing(5)
        for place, chip in enumerate([*self.lamps.values(), *self.flags.values()]):
            chips.addWidget(chip, place // _IN_ROW, place % _IN_ROW)
        body = QWidget()
        self._column = QVBoxLayout(body)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(6)
        self._column.addLayout(power)
        self._column.addLayout(chips)
        self._column.addWidget(self.places)
        self._column.addWidget(self.more)
        self._column.addWidget(self._values)
        return body

    @property
    def summary(self) -> str:
        """What the card says of the motor while it is closed."""
        return self._brief.text()

    def set_open(self, is_open: bool) -> None:
        """Show all options, or the one line that sums them up."""
        self._is_open = is_open
        if is_open and self._body is None:
            self._body = self._build_body()
            self._layout.addWidget(self._body)
            job = self._session.job
            starter = job.starter(self._name) if job is not None else None
            if job is not None and starter is not None:
                self.show_starter(starter, job)
            self._show_values()
        if self._body is not None:
            self._body.setVisible(is_open)
        self._brief.setVisible(not is_open)
        self.fold.setText(tr("Close") if is_open else tr("Open"))

    def _on_more_clicked(self) -> None:
        self._show_more_options(self._more is None or not self._more.isVisible())

    def _show_more_options(self, is_shown: bool) -> None:
        if self._more is None:
            self._make_more(self._kind_shown)
        assert self._more is not None
        self._more.setVisible(is_shown)
        self.more.setText(tr("Fewer options") if is_shown else tr("More options"))

    def editor(self, field: str) -> QWidget | None:
        """Return the field of the opened card where something is decided, None if it is not decided here."""
        self.set_open(True)
        if field in {"kw", "hp"}:
            return self.power
        if field == "kind":
            return self.kind
        if field in _MORE:
            self._show_more_options(True)
            assert self._more is not None
            return self._more.editors.get(field)
        return self.places.editors.get(field)

    def _make_more(self, kind: str) -> None:
        fields = [field for field in _MORE if kind in _ONLY.get(field, {kind})]
        self._more = FieldForm(Starter, fields, spoken=self._name)
        self._more.changed.connect(lambda field, value: self._send(**{field: value}))
        self._column.insertWidget(4, self._more)
        job = self._session.job
        starter = job.starter(self._name) if job is not None else None
        if job is not None and starter is not None:
            self._more.show_values(starter, offered_for(job, self._name))

    def show_starter(self, starter: Starter, job: Job) -> None:
        """Fill the fields from the Job; one that is being edited is left alone."""
        self._is_filling = True
        if not self.title.hasFocus():
            self.title.setText(starter.title)
        self._detach.setText(tr("Back to a starter") if starter.detached else tr("Turn into plain circuit"))
        if starter != self._shown[0]:
            self._shown = (None, ())
            self._brief.setText(f"{sum_up(starter)}\n…")
        if self._body is not None:
            self._body.setEnabled(not starter.detached)
            self._fill_body(starter, job)
        self._is_filling = False

    def _fill_body(self, starter: Starter, job: Job) -> None:
        value = starter.kw if starter.kw is not None else starter.hp
        if value is not None and value != self.power.value():
            self.power.setValue(value)
        self.unit.setCurrentText("kW" if starter.kw is not None else "hp")
        self.kind.setCurrentIndex(self.kind.findData(starter.kind))
        for lamp, chip in self.lamps.items():
            chip.setChecked(lamp in starter.lamps)
        for flag, chip in self.flags.items():
            chip.setChecked(bool(getattr(starter, flag)))
        self.places.show_values(starter, offered_for(job, self._name))
        self._show_more(starter, job)

    def _show_more(self, starter: Starter, job: Job) -> None:
        if self._more is not None and starter.kind != self._kind_shown:
            was_visible = self._more.isVisible()
            self._more.hide()
            self._more.deleteLater()
            self._make_more(starter.kind)
            self._more.setVisible(was_visible)
        elif self._more is not None:
            self._more.show_values(starter, offered_for(job, self._name))
        self._kind_shown = starter.kind

    def show_values(self, starter: Starter, values: Iterable[SizedValue]) -> None:
        """Show what this motor was computed to, of its own values and those of its parts."""
        now = (starter, tuple(values))
        if now != self._shown:
            self._shown = now
            self._show_values()

    def _show_values(self) -> None:
        starter, values = self._shown
        by_quantity: dict[str, SizedValue] = {}
        for value in values:
            by_quantity.setdefault(value.quantity, value)
        shown = [(name, by_quantity[quantity]) for quantity, name in _SHOWN if quantity in by_quantity]
        if self._body is not None:
            self._values.show_values(shown)
        if starter is not None:
            words = "  ·  ".join(f"{tr(name).lower()} {value.text.replace(' ', NO_BREAK)}" for name, value in shown[:4])
            self._brief.setText(f"{sum_up(starter)}\n{words}")

    def set_selected(self, is_selected: bool) -> None:
        """Show whether something of this motor is selected."""
        if self.property("selected") != is_selected:
            self.setProperty("selected", is_selected)
            self.style().unpolish(self)
            self.style().polish(self)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.selected.emit(self._name)
        super().mousePressEvent(event)

    def _lamps(self) -> tuple[str, ...]:
        return tuple(lamp for lamp, chip in self.lamps.items() if chip.isChecked())

    def _send_power(self) -> None:
        value = self.power.value()
        is_kw = self.unit.currentText() == "kW"
        self._send(kw=value if is_kw else None, hp=None if is_kw else value)

    def _send_kind(self, kind: str) -> None:
        """Change the kind, and let go of what only the old kind has."""
        fields = Starter.model_fields
        dropped = {
            key: fields[key].default for key, kinds in _ONLY.items() if kind not in kinds and key != "motor_volts"
        }
        if kind == "pump":
            dropped |= {"control": None, "selector": None}
        self._send(kind=kind, **dropped)

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

    def _on_detach_triggered(self) -> None:
        from riktig.plan.changes.detach import attach_starter, detach_starter

        job = self._session.job
        starter = job.starter(self._name) if job is not None else None
        if starter is None:
            return
        if starter.detached:
            self._session.apply(partial(attach_starter, name=self._name), f"{self._name}: a starter again")
        else:
            self._session.apply(partial(detach_starter, name=self._name), f"{self._name}: plain circuit")

    def _on_drop_clicked(self) -> None:
        from riktig.plan.changes.detach import remove_starter

        self._session.apply(partial(remove_starter, name=self._name), f"without {self._name}")


def _chip(words: str, name: str) -> QPushButton:
    chip = button(words, role="chip")
    chip.setCheckable(True)
    chip.setAccessibleName(f"{name} {words}")
    return chip


def sum_up(starter: Starter) -> str:
    """Return a starter in one line: power, how it starts, how it is controlled."""
    power = f"{starter.kw:g} kW" if starter.kw is not None else f"{starter.hp:g} hp"
    control = tr("hand-off-auto") if starter.has_hand else tr(starter.mode)
    plain = f"  ·  {tr('plain circuit')}" if starter.detached else ""
    return f"{power}  ·  {tr(KIND_WORDS[starter.kind]).lower()}  ·  {control}{plain}"
