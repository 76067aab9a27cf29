"""Owns the phases of the test and the steps of the one that is open, each with how it stands. Must not judge anything."""

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from riktig.app.text import tr
from riktig.app.widgets import button, label
from riktig.prove.steps import Phase, Step
from riktig.record.testing import Testing

_ROLE = Qt.ItemDataRole.UserRole


class PhasesPanel(QWidget):
    """The phases with their counts, and the steps of one of them."""

    phase_chosen = Signal(str)
    step_chosen = Signal(str)
    derive_requested = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.phases = self._list(tr("Phases of the test"))
        self.phases.setObjectName("tight")
        self.phases.itemClicked.connect(lambda item: self.phase_chosen.emit(item.data(_ROLE)))
        self.steps = self._list(tr("Steps"))
        self.steps.itemClicked.connect(self._on_steps_clicked)
        self.derive = button(tr("Derive the function test"))
        self.derive.setToolTip(
            tr("Works out from the circuit what to do and what must be seen, and keeps it with the job")
        )
        self.derive.clicked.connect(self.derive_requested.emit)
        self._count = label("", bold=True)
        self._travel = label("", role="quiet")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self._count)
        layout.addWidget(self.phases)
        layout.addWidget(self.derive)
        layout.addWidget(self._travel)
        layout.addWidget(self.steps, 1)

    def _list(self, name: str) -> QListWidget:
        made = QListWidget()
        made.setAccessibleName(name)
        made.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        made.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        return made

    def _on_steps_clicked(self, item: QListWidgetItem) -> None:
        if item.data(_ROLE):
            self.step_chosen.emit(item.data(_ROLE))

    def show_testing(
        self, testing: Testing, phase: Phase, chosen: str | None, travel_m: tuple[float, float] = (0.0, 0.0)
    ) -> None:
        """Show how the test stands, the steps of a phase and the one at hand; how far the hands go, and would along the schematic."""
        words = tr("Hands go {ours:g} m, along the schematic {drawn:g} m").format(ours=travel_m[0], drawn=travel_m[1])
        self._travel.setText(words)
        self._travel.setVisible(phase is Phase.THROUGH and bool(travel_m[0]))
        passed = sum(reading.is_passed for reading in testing.readings.values())
        failed = len(testing.readings) - passed
        self._count.setText(f"✓ {passed}   ✗ {failed}   of {len(testing.steps)}")
        self._show_phases(testing, phase)
        self.steps.clear()
        group = ""
        for step in testing.steps_of(phase):
            if step.group != group:
                group = step.group
                self._add_heading(group)
            item = QListWidgetItem(f"{_mark(testing, step)}  {step.title}")
            item.setData(_ROLE, step.key)
            item.setToolTip(step.title)
            self.steps.addItem(item)
            if step.key == chosen:
                self.steps.setCurrentItem(item)
        self.derive.setVisible(phase is Phase.FUNCTION)

    def _add_heading(self, words: str) -> None:
        heading = QListWidgetItem(words)
        heading.setFlags(Qt.ItemFlag.NoItemFlags)
        font = heading.font()
        font.setBold(True)
        heading.setFont(font)
        heading.setToolTip(words)
        self.steps.addItem(heading)

    def _show_phases(self, testing: Testing, chosen: Phase) -> None:
        self.phases.clear()
        for phase in testing.phases:
            steps = testing.steps_of(phase)
            done = sum(not testing.is_open(step) for step in steps)
            failed = sum(step in testing.failed for step in steps)
            is_shut = phase.is_live and bool(testing.why_shut(steps[0]))
            mark = (
                "✗"
                if failed
                else "✓"
                if done == len(steps)
                else "w"
                if phase in testing.waived
                else "–"
                if is_shut
                else "·"
            )
            tail = tr("waived") if phase in testing.waived else tr("shut") if is_shut else f"{done}/{len(steps)}"
            item = QListWidgetItem(f"{mark}  {phase.value}  {tail}")
            item.setData(_ROLE, phase.value)
            self.phases.addItem(item)
            if phase is chosen:
                self.phases.setCurrentItem(item)
        rows = self.phases.count()
        self.phases.setFixedHeight(rows * max(self.phases.sizeHintForRow(0), 1) + 6)


def _mark(testing: Testing, step: Step) -> str:
    reading = testing.readings.get(step.key)
    if reading is None:
        return "»" if step.key in testing.skipped else "·"
    return "✓" if reading.is_passed else "✗"
