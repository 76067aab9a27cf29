"""Owns the Brief bench: supply and motor cards, and the single-line diagram growing beside them."""

from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QDoubleSpinBox,
    QFrame,
    QGridLayout,
    QProgressBar,
    QSplitter,
    QVBoxLayout,
    QWidget,
)

from riktig.app.benches.bench import Bench
from riktig.app.benches.motor_card import MotorCard
from riktig.app.canvas.view import DrawingView
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, card, label, scrolled
from riktig.app.worker_process import Bundle
from riktig.job.edits import add_starter, change_part, free_name
from riktig.job.model import Job, Standard, Starter
from riktig.plan.lookup import Lookup

LEAST_SCALE = 2.0
"""Pixels per mm below which the diagram is not made to fit any more, but panned."""
_SYSTEMS = ("3ph+n", "3ph", "1ph3w", "1ph+n")


class BriefBench(Bench):
    """What is wanted on the left, what it becomes on the right."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self._cards: dict[str, MotorCard] = {}
        self._is_filling = False
        self._column = QVBoxLayout()
        self._column.setContentsMargins(0, 0, 8, 0)
        self._column.addWidget(self._build_supply())
        self.add = button(tr("Add a motor"), role="big")
        self.add.clicked.connect(self._on_add_clicked)
        self._column.addWidget(self.add)
        self._column.addStretch()
        holder = QWidget()
        holder.setLayout(self._column)
        self.view = DrawingView(theme, tr("Single-line diagram"), least_scale=LEAST_SCALE)
        self.view.picked.connect(hub.select)
        self.fit = QProgressBar()
        self.fit.setAccessibleName(tr("How full the plate is"))
        self.fit.setMaximum(100)
        right = QVBoxLayout()
        right.addWidget(self.view, 1)
        right.addWidget(self.fit)
        side = QFrame()
        side.setLayout(right)
        splitter = QSplitter(Qt.Orientation.Horizontal)
        splitter.addWidget(scrolled(holder))
        splitter.addWidget(side)
        splitter.setSizes([548, 282])
        layout = QVBoxLayout(self)
        layout.addWidget(splitter)
        session.job_changed.connect(self._on_session_job_changed)

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
        grid.setContentsMargins(14, 10, 14, 10)
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
        fields = (
            (self.volts, "supply", "volts"),
            (self.fault, "supply", "fault_ka"),
            (self.ambient, "enclosure", "ambient"),
            (self.box_width, "enclosure", "width"),
            (self.box_height, "enclosure", "height"),
        )
        for spin, part, key in fields:
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
        spin.setMinimumSize(90, 30)
        return spin

    def _send(self, part: str, key: str, value: Any) -> None:
        job = self.session.job
        if not self._is_filling and job is not None and getattr(getattr(job, part), key) != value:
            self.session.apply(partial(change_part, field=part, **{key: value}), f"{part}: {key}")

    def _on_session_job_changed(self, job: Job) -> None:
        self._is_filling = True
        self.volts.setValue(job.supply.volts)
        self.system.setCurrentText(job.supply.system)
        self.fault.setValue(job.supply.fault_ka)
        self.ambient.setValue(job.enclosure.ambient)
        self.box_width.setValue(job.enclosure.width)
        self.box_height.setValue(job.enclosure.height)
        self._is_filling = False
        self._show_cards(job)
        self.setEnabled(not self.session.is_read_only)

    def _show_cards(self, job: Job) -> None:
        names = [starter.name for starter in job.starters]
        for name in [n for n in self._cards if n not in names]:
            gone = self._cards.pop(name)
            gone.hide()
            gone.deleteLater()
        for place, starter in enumerate(job.starters):
            if starter.name not in self._cards:
                made = MotorCard(self.session, starter)
                made.selected.connect(self.hub.select)
                self._cards[starter.name] = made
                self._column.insertWidget(place + 1, made)
            self._cards[starter.name].show_starter(starter, job)
        self.add.setEnabled(bool(job.controls))

    def motor_card(self, name: str) -> MotorCard:
        """Return the card of a motor."""
        return self._cards[name]

    def show_bundle(self, bundle: Bundle, lookup: Lookup) -> None:
        """Show the diagram, the values on the cards and how full the plate is."""
        plan = bundle.plan
        if self.session.job is not None and not self._cards:
            self._on_session_job_changed(self.session.job)
        self.view.show_drawing(bundle.single_line)
        for name, shown in self._cards.items():
            if name in plan.motors:
                shown.show_plan(plan)
        used = plan.plate.height_used
        percent = round(100 * used / plan.plate.height)
        self.fit.setValue(min(percent, 100))
        words = tr("fits") if percent <= 100 else tr("does not fit")
        self.fit.setFormat(f"{words}: {used:.0f} of {plan.plate.height:.0f} mm")

    def show_selection(self, ref: str, lookup: Lookup) -> None:
        """Mark the motor that the selection belongs to."""
        self.view.mark(lookup.marks(ref) if ref else ())
        self.view.centre_on(ref)
        device = lookup.device(ref) if ref else None
        owner = (device or "").partition(".")[0]
        for name, shown in self._cards.items():
            shown.set_selected(name == owner)

    def _on_add_clicked(self) -> None:
        job = self.session.job
        if job is None or not job.controls:
            return
        is_ul = job.practice.standard is Standard.UL
        power: dict[str, Any] = {"hp": 2.0} if is_ul else {"kw": 1.5}
        phases = 3 if len(job.supply.lines) == 3 else 1
        starter = Starter(
            name=free_name(job, "M"), supply=job.controls[0].name, lamps=("run", "trip"), phases=phases, **power
        )
        self.session.apply(partial(add_starter, starter=starter), f"add {starter.name}")

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.view.set_theme(theme)
