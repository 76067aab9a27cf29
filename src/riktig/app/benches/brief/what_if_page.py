"""Owns the what-if page: sliders for air, fault current and a motor's power, and what would follow from them."""

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout, QHBoxLayout, QSlider, QVBoxLayout, QWidget

from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.widgets import button, card, clear_layout, label
from riktig.plan.basis.sized import quantity_words
from riktig.plan.changes.what_if import Wish, apply_wish

if TYPE_CHECKING:
    from riktig.desk.outlook import Outlook
    from riktig.job.model import Job, Starter
    from riktig.plan.panel import PanelTotals
    from riktig.plan.plan import Plan

_AIR_C = tuple(float(c) for c in range(61))
_FAULT_KA = (
    1.0, 2.0, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 14.0, 16.0, 18.0, 20.0, 22.0, 25.0, 30.0, 35.0, 42.0, 50.0, 65.0, 85.0, 100.0,
)  # fmt: skip
_MOST_CHANGES = 24
_MOST_NAMED = 4


class StepSlider(QWidget):
    """A slider over listed values; the value that stands now is always one of them, and marked in words."""

    moved = Signal()

    def __init__(self, name: str, unit: str) -> None:
        super().__init__()
        self.unit = unit
        self._steps: tuple[float, ...] = ()
        self._now = 0.0
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName(name)
        self.slider.setMinimumHeight(30)
        self.slider.valueChanged.connect(self._on_slider_changed)
        self._name = label(name, role="quiet")
        self._value = label("", bold=True, points=1)
        self._was = label("", role="quiet")
        for text in (self._name, self._value, self._was):
            text.setWordWrap(False)
        head = QHBoxLayout()
        head.setSpacing(10)
        head.addWidget(self._name, 1)
        head.addWidget(self._was)
        head.addWidget(self._value)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addLayout(head)
        column.addWidget(self.slider)

    def show_value(self, now: float, steps: Sequence[float], *, keeps: float | None = None) -> None:
        """Take over what stands now, and stand there, or at `keeps`."""
        self._now = now
        self._steps = tuple(sorted({*steps, now, *([keeps] if keeps is not None else [])}))
        self.slider.blockSignals(True)
        self.slider.setRange(0, len(self._steps) - 1)
        self.slider.setPageStep(max(1, len(self._steps) // 10))
        self.slider.setValue(bisect_left(self._steps, now if keeps is None else keeps))
        self.slider.blockSignals(False)
        self._write()

    @property
    def value(self) -> float | None:
        """What the slider stands at; None where that is what stands now."""
        at = self._steps[self.slider.value()] if self._steps else self._now
        return None if at == self._now else at

    def _write(self) -> None:
        at = self.value
        self._value.setText(f"{self._now if at is None else at:g} {self.unit}")
        self._was.setText(f"{tr('now')} {self._now:g} {self.unit}" if at is not None else "")

    def _on_slider_changed(self, _: int) -> None:
        self._write()
        self.moved.emit()


class WhatIfPage(QWidget):
    """Asks the worker for what would follow; only the newest question is asked while one is under way."""

    outlook_changed = Signal(object)
    touched = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._plan: Plan | None = None
        self._is_asking = False
        self._is_behind = False
        self.air = StepSlider(tr("Air around the panel"), "°C")
        self.fault = StepSlider(tr("Fault current at the panel"), "kA")
        self.motor = QComboBox()
        self.motor.setAccessibleName(tr("Motor of the what-if"))
        self.motor.activated.connect(lambda _: self._on_motor_activated())
        self.power = StepSlider(tr("Its power"), "kW")
        for slider, what in ((self.air, "heat"), (self.fault, "chain"), (self.power, "feeder")):
            slider.moved.connect(partial(self._on_slider_moved, what))
        self.keep = button(tr("Take it over"), role="primary", tip=tr("Change the job to what the sliders say"))
        self.keep.clicked.connect(self._on_keep_clicked)
        self.back = button(tr("Back to the job"))
        self.back.clicked.connect(self.put_back)
        self._result = QVBoxLayout()
        self._result.setContentsMargins(0, 6, 0, 0)
        self._result.setAlignment(Qt.AlignmentFlag.AlignTop)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 8, 0)
        column.addWidget(self._build_sliders())
        column.addLayout(self._result)
        column.addStretch()

    def _build_sliders(self) -> QFrame:
        inner = QVBoxLayout()
        inner.setContentsMargins(14, 10, 14, 12)
        inner.setSpacing(8)
        inner.addWidget(
            label(tr("Move a slider: sizes, heat and the weakest part follow. The job stays as it is."), role="quiet")
        )
        for widget in (self.air, self.fault, self.motor, self.power):
            inner.addWidget(widget)
        row = QHBoxLayout()
        row.addWidget(self.keep)
        row.addWidget(self.back)
        inner.addLayout(row)
        return card(inner)

    @property
    def wish(self) -> Wish:
        """What the sliders say."""
        power = self.power.value
        name = self.motor.currentData() if power is not None else None
        return Wish(ambient=self.air.value, fault_ka=self.fault.value, starter=name, power=power)

    def show_job(self, job: "Job") -> None:
        """Take over what stands now; sliders that were moved stay where they are."""
        self.air.show_value(job.enclosure.ambient, _AIR_C, keeps=self.air.value)
        self.fault.show_value(job.supply.available_ka, _FAULT_KA, keeps=self.fault.value)
        chosen = self.motor.currentData()
        self.motor.clear()
        for starter in job.starters:
            self.motor.addItem(f"{starter.name}  {starter.title}".strip(), starter.name)
        place = self.motor.findData(chosen)
        self.motor.setCurrentIndex(max(place, 0))
        self._show_power(keeps=self.power.value if place >= 0 else None)

    def _starter(self) -> "Starter | None":
        job = self._session.job
        return job.starter(self.motor.currentData() or "") if job is not None else None

    def _show_power(self, *, keeps: float | None = None) -> None:
        from riktig.standards import iec_60947_4_1, nec

        starter = self._starter()
        self.power.setVisible(starter is not None)
        if starter is None:
            return
        is_kw = starter.kw is not None
        self.power.unit = "kW" if is_kw else "hp"
        steps = iec_60947_4_1.listed_powers_kw() if is_kw else nec.listed_powers_hp(starter.phases)
        self.power.show_value((starter.kw if is_kw else starter.hp) or 0.0, steps, keeps=keeps)

    def show_plan(self, plan: "Plan") -> None:
        """Compute again what the sliders say, from a new Plan."""
        self._plan = plan
        self._ask()

    def select(self, owner: str) -> None:
        """Take the selected motor as the one that the power belongs to, unless another is being moved."""
        place = self.motor.findData(owner)
        if place >= 0 and place != self.motor.currentIndex() and self.power.value is None:
            self.motor.setCurrentIndex(place)
            self._show_power()

    def put_back(self) -> None:
        """Let all sliders stand where the job is."""
        job = self._session.job
        if job is not None:
            self.air.show_value(job.enclosure.ambient, _AIR_C)
            self.fault.show_value(job.supply.available_ka, _FAULT_KA)
            self._show_power()
            self._ask()

    def _on_motor_activated(self) -> None:
        self._show_power()
        self.touched.emit("feeder")
        self._ask()

    def _on_slider_moved(self, what: str) -> None:
        self.touched.emit(what)
        self._ask()

    def _ask(self) -> None:
        is_moved = not self.wish.is_empty
        self.keep.setEnabled(is_moved)
        self.back.setEnabled(is_moved)
        if not is_moved:
            self._show_outlook(None)
        elif self._is_asking:
            self._is_behind = True
        else:
            from riktig.desk.outlook import make_outlook

            self._is_asking, self._is_behind = True, False
            question = partial(make_outlook, wish=self.wish, starter=self.motor.currentData())
            self._session.worker.ask(question, self._take_outlook)

    def _take_outlook(self, outlook: "Outlook | None") -> None:
        self._is_asking = False
        if self._is_behind:
            self._ask()
        if outlook is not None and outlook.wish == self.wish:
            self._show_outlook(outlook)

    def _on_keep_clicked(self) -> None:
        wish = self.wish
        told = [f"{wish.ambient:g} °C"] if wish.ambient is not None else []
        told += [f"{wish.fault_ka:g} kA"] if wish.fault_ka is not None else []
        told += [f"{wish.starter} {wish.power:g} {self.power.unit}"] if wish.power is not None else []
        self._session.apply(partial(apply_wish, wish=wish), ", ".join(told))

    # -- what would follow

    def _show_outlook(self, outlook: "Outlook | None") -> None:
        clear_layout(self._result)
        self.outlook_changed.emit(outlook)
        if self._plan is None:
            return
        if outlook is None:
            self._result.addWidget(self._totals(self._plan.panel, self._plan.job.supply.available_ka))
            return
        tags, wished = self._plan.tags, outlook.wish.fault_ka
        self._result.addWidget(self._totals(outlook.panel, wished or self._plan.job.supply.available_ka))
        for heading, role, findings in (
            (tr("would have to be mended"), "caution", outlook.new),
            (tr("would be mended"), "good", outlook.gone),
        ):
            for finding in findings:
                inner = QVBoxLayout()
                inner.setContentsMargins(10, 6, 10, 6)
                inner.setSpacing(2)
                inner.addWidget(label(heading, bold=True))
                inner.addWidget(label(finding.message))
                self._result.addWidget(card(inner, role))
        self._result.addWidget(self._changes(outlook, tags))

    def _totals(self, after: "PanelTotals", fault: float) -> QFrame:
        assert self._plan is not None
        before, box = self._plan.panel, self._plan.job.enclosure
        weakest = [self._plan.tags.get(d, d) for d in after.sccr_limited_by]
        is_strong, is_cool = after.sccr_ka >= fault - 1e-9, after.heat.inside_c <= box.inside_max + 1e-9
        more = f" +{len(weakest) - _MOST_NAMED}" if len(weakest) > _MOST_NAMED else ""
        stands = _verdict(is_strong, f"{fault:g} kA {tr('at the panel')}")
        warms = _verdict(is_cool, f"{tr('allowed')} {box.inside_max:g} °C")
        rows = (
            (tr("Panel stands"), f"{before.sccr_ka:g} kA", f"{after.sccr_ka:g} kA", stands, is_strong),
            (tr("Weakest"), "", ", ".join(weakest[:_MOST_NAMED]) + more, "", True),
            (tr("Air inside"), f"{before.heat.inside_c:.0f} °C", f"{after.heat.inside_c:.0f} °C", warms, is_cool),
            (tr("Full load"), f"{before.full_load_a:.1f} A", f"{after.full_load_a:.1f} A", "", True),
        )
        grid = QGridLayout()
        grid.setContentsMargins(14, 8, 14, 8)
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(3, 1)
        for row, (name, was, then, verdict, is_good) in enumerate(rows):
            grid.addWidget(label(name, role="quiet"), row, 0)
            grid.addWidget(label(was if was != then else "", role="quiet"), row, 1)
            grid.addWidget(label(then, bold=True), row, 2, 1, 1 if verdict else 2)
            if verdict:
                grid.addWidget(label(verdict, role="done" if is_good else "danger"), row, 3)
        return card(grid)

    def _changes(self, outlook: "Outlook", tags: Mapping[str, str]) -> QFrame:
        grid = QGridLayout()
        grid.setContentsMargins(14, 8, 14, 8)
        grid.setVerticalSpacing(3)
        grid.setColumnStretch(1, 1)
        shown = outlook.changes[:_MOST_CHANGES]
        words = tr("What would change") if shown or outlook.parts else tr("No size and no part would change.")
        grid.addWidget(label(words, bold=True), 0, 0, 1, 4)
        for row, change in enumerate(shown, 1):
            grid.addWidget(label(tags.get(change.subject, change.subject), bold=True), row, 0)
            grid.addWidget(label(quantity_words(change.quantity), role="quiet"), row, 1)
            grid.addWidget(label(change.before, role="quiet"), row, 2)
            then = f"→ {change.after}" + (f"  {tr('too small')}" if change.is_short else "")
            grid.addWidget(label(then, role="danger" if change.is_short else "", bold=True), row, 3)
        row = len(shown) + 1
        if len(outlook.changes) > len(shown):
            grid.addWidget(label(f"{tr('and')} {len(outlook.changes) - len(shown)} {tr('more')}", role="quiet"), row, 1)
        told = [(c.subject, f"{c.before} → {c.after}", "") for c in outlook.parts]
        told += [(device, f"{tr('no part has')} {lacking}", "danger") for device, lacking in outlook.unmet]
        for place, (device, text, role) in enumerate(told[:_MOST_CHANGES], row + 1):
            grid.addWidget(label(tags.get(device, device), bold=True), place, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(label(text, role=role), place, 1, 1, 3)
        return card(grid)


def _verdict(is_good: bool, against: str) -> str:
    return f"✓ {tr('enough')}: {against}" if is_good else f"✗ {tr('not enough')}: {against}"
