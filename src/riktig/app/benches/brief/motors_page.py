"""Owns the page of motors: the supply, a card for each motor, and changes to many of them at once."""

from functools import partial
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QDoubleSpinBox, QFrame, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from riktig.app.benches.brief.motor_card import MotorCard, offered_for
from riktig.app.benches.brief.paste_panel import PastePanel
from riktig.app.field_form import FieldForm
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.widgets import button, card, label
from riktig.job.edits import add_starter, change_part, change_starters, free_name
from riktig.job.model import Job, Starter
from riktig.job.practice import Standard
from riktig.plan.basis.sized import SizedValue
from riktig.plan.plan import Plan

_SHOWN_ROLES = frozenset({"", *"QKFA"})
"""Whose values stand on a card: the motor's, and those of its protection, contactor, overload, drive or soft starter."""
_SYSTEMS = ("3ph+n", "3ph", "1ph3w", "1ph+n")
_BULK = (
    "kind",
    "control",
    "supply",
    "buttons_at",
    "motor_at",
    "isolator",
    "hours",
    "thermistor",
    "restart",
    "overload_contact",
)
_OPEN_AT_MOST = 3
"""With more motors than this, cards stand closed."""


class MotorsPage(QWidget):
    """Cards in the order of the brief. With several motors the cards are closed but for the selected one."""

    selected = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._cards: dict[str, MotorCard] = {}
        self._is_filling = False
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 8, 0)
        self._column.addWidget(self._build_supply())
        self._column.addLayout(self._build_tools())
        self.paste_panel = PastePanel(session)
        self.paste_panel.closed.connect(self.paste_panel.hide)
        self.paste_panel.hide()
        self._column.addWidget(self.paste_panel)
        self.bulk = self._build_bulk()
        self.bulk.hide()
        self._column.addWidget(self.bulk)
        self._first = self._column.count()
        self._column.addStretch()

    def _build_supply(self) -> QFrame:
        self.volts = self._spin(tr("Supply volts"), 24, 1000, 0, " V")
        self.system = QComboBox()
        self.system.addItems(list(_SYSTEMS))
        self.system.setAccessibleName(tr("Supply system"))
        self.fault = self._spin(tr("Fault current"), 0.1, 200, 1, " kA")
        self.ambient = self._spin(tr("Ambient temperature"), -20, 60, 0, " °C")
        self.box_width = self._spin(tr("Enclosure width"), 200, 5000, 0, " mm")
        self.box_height = self._spin(tr("Enclosure height"), 200, 5000, 0, " mm")
        self._connect_supply()
        grid = QGridLayout()
        grid.setContentsMargins(14, 8, 14, 8)
        grid.setVerticalSpacing(4)
        cells = (
            (tr("Supply"), self.system, self.volts),
            (tr("Fault, air"), self.fault, self.ambient),
            (tr("Enclosure"), self.box_width, self.box_height),
        )
        for row, (words, one, other) in enumerate(cells):
            grid.addWidget(label(words, role="quiet"), row, 0)
            grid.addWidget(one, row, 1)
            grid.addWidget(other, row, 2)
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(2, 1)
        return card(grid)

    def _connect_supply(self) -> None:
        self._spins = {
            ("supply", "volts"): self.volts,
            ("supply", "fault_ka"): self.fault,
            ("enclosure", "ambient"): self.ambient,
            ("enclosure", "width"): self.box_width,
            ("enclosure", "height"): self.box_height,
        }
        for (part, key), spin in self._spins.items():
            spin.valueChanged.connect(lambda value, p=part, k=key: self._send(p, k, value))
        self.system.activated.connect(lambda _: self._send("supply", "system", self.system.currentText()))

    @staticmethod
    def _spin(name: str, low: float, high: float, decimals: int, suffix: str) -> QDoubleSpinBox:
        spin = QDoubleSpinBox()
        spin.setAccessibleName(name)
        spin.setToolTip(name)
        spin.setRange(low, high)
        spin.setDecimals(decimals)
        spin.setSuffix(suffix)
        spin.setKeyboardTracking(False)
        spin.setMinimumSize(90, 28)
        return spin

    def _build_tools(self) -> QHBoxLayout:
        self.add = button(tr("Add a motor"))
        self.add.clicked.connect(self._on_add_clicked)
        self.paste = button(tr("Paste a list"), tip=tr("Rows copied from a spreadsheet"))
        self.paste.clicked.connect(self._on_paste_clicked)
        self.many = button(tr("Change several"), tip=tr("One change to all ticked motors"))
        self.many.setCheckable(True)
        self.many.toggled.connect(self._on_many_toggled)
        row = QHBoxLayout()
        row.setSpacing(6)
        for widget in (self.add, self.paste, self.many):
            row.addWidget(widget)
        return row

    def _build_bulk(self) -> QFrame:
        self.bulk_form = FieldForm(Starter, _BULK, spoken=tr("Of all ticked:"), always=True)
        self.bulk_form.changed.connect(self._on_bulk_changed)
        self._count = label("", role="quiet")
        every = button(tr("Tick all"), role="link")
        every.clicked.connect(lambda: self._tick_all(not all(c.tick.isChecked() for c in self._cards.values())))
        head = QHBoxLayout()
        head.addWidget(self._count, 1)
        head.addWidget(every)
        column = QVBoxLayout()
        column.setContentsMargins(14, 8, 14, 8)
        column.addLayout(head)
        column.addWidget(self.bulk_form)
        return card(column)

    def _send(self, part: str, key: str, value: Any) -> None:
        job = self._session.job
        if not self._is_filling and job is not None and getattr(getattr(job, part), key) != value:
            self._session.apply(partial(change_part, field=part, **{key: value}), f"{part}: {key}")

    def show_job(self, job: Job) -> None:
        """Fill the page from the Job."""
        self._is_filling = True
        self.volts.setValue(job.supply.volts)
        self.system.setCurrentText(job.supply.system)
        self.fault.setValue(job.supply.available_ka)
        self.ambient.setValue(job.enclosure.ambient)
        self.box_width.setValue(job.enclosure.width)
        self.box_height.setValue(job.enclosure.height)
        self._is_filling = False
        names = [starter.name for starter in job.starters]
        for name in [n for n in self._cards if n not in names]:
            gone = self._cards.pop(name)
            gone.hide()
            gone.deleteLater()
        for place, starter in enumerate(job.starters):
            if starter.name not in self._cards:
                self._make_card(starter, place, is_open=len(names) <= _OPEN_AT_MOST)
            self._cards[starter.name].show_starter(starter, job)
        self.add.setEnabled(bool(job.controls))
        self.paste.setEnabled(bool(job.controls))
        if job.starters:
            self.bulk_form.show_values(job.starters[0], offered_for(job))

    def editor(self, table: str, field: str) -> QWidget | None:
        """Return where something is decided: of a motor by its name, or of supply and enclosure; None if not on this page."""
        if table in self._cards:
            return self._cards[table].editor(field)
        return self._spins.get((table, field))

    def _make_card(self, starter: Starter, place: int, *, is_open: bool) -> None:
        made = MotorCard(self._session, starter)
        made.selected.connect(self.selected)
        made.tick.toggled.connect(lambda _: self._show_count())
        made.tick.setVisible(self.many.isChecked())
        made.set_open(is_open)
        self._cards[starter.name] = made
        self._column.insertWidget(self._first + place, made)

    @property
    def cards(self) -> dict[str, MotorCard]:
        """The cards by motor."""
        return self._cards

    def show_plan(self, plan: Plan) -> None:
        """Show the computed values on the cards."""
        values: dict[str, list[SizedValue]] = {}
        for value in plan.sizing:
            owner, _, role = value.subject.partition(".")
            if role in _SHOWN_ROLES:
                values.setdefault(owner, []).append(value)
        for starter in plan.job.starters:
            if starter.name in self._cards and starter.name in plan.motors:
                self._cards[starter.name].show_values(starter, values.get(starter.name, ()))

    def select(self, owner: str) -> MotorCard | None:
        """Mark the card of a motor, and return it."""
        for name, shown in self._cards.items():
            shown.set_selected(name == owner)
        return self._cards.get(owner)

    def _on_add_clicked(self) -> None:
        job = self._session.job
        if job is None or not job.controls:
            return
        is_ul = job.practice.standard is Standard.UL
        power: dict[str, Any] = {"hp": 2.0} if is_ul else {"kw": 1.5}
        phases = 3 if len(job.supply.lines) == 3 else 1
        starter = Starter(
            name=free_name(job, "M"), supply=job.controls[0].name, lamps=("run", "trip"), phases=phases, **power
        )
        self._session.apply(partial(add_starter, starter=starter), f"add {starter.name}")

    def _on_paste_clicked(self) -> None:
        self.paste_panel.setVisible(not self.paste_panel.isVisible())
        if self.paste_panel.isVisible():
            self.paste_panel.begin()

    def _on_many_toggled(self, is_on: bool) -> None:
        self.bulk.setVisible(is_on)
        for shown in self._cards.values():
            shown.tick.setVisible(is_on)
        self._show_count()

    def _tick_all(self, is_on: bool) -> None:
        for shown in self._cards.values():
            shown.tick.setChecked(is_on)

    def _ticked(self) -> tuple[str, ...]:
        return tuple(name for name, shown in self._cards.items() if shown.tick.isChecked())

    def _show_count(self) -> None:
        count = len(self._ticked())
        self._count.setText(
            f"{tr('Each change goes to')} {count} {tr('ticked motors')}" if count else tr("Tick the motors to change")
        )

    def _on_bulk_changed(self, field: str, value: Any) -> None:
        names = self._ticked()
        if names:
            words = f"{field} of {len(names)} motors"
            self._session.apply(partial(change_starters, names=names, **{field: value}), words)
