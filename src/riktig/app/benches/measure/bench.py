"""Owns the Test bench: the test phase by phase, its step with the probe points on plate and door, a verdict at once, and the way from there
to a fault, to practising and to the report.
"""

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from riktig.app.benches.bench import Bench
from riktig.app.benches.measure.exceptions import Exceptions
from riktig.app.benches.measure.following import Following
from riktig.app.benches.measure.meter_line import MeterBar, MeterReader
from riktig.app.benches.measure.phases_panel import PhasesPanel
from riktig.app.benches.measure.practice_page import PracticePage
from riktig.app.benches.measure.probe_view import show_probes
from riktig.app.benches.measure.simulated import SimulatedChoice
from riktig.app.benches.measure.step_card import StepCard
from riktig.app.benches.measure.trail_panel import TrailPanel
from riktig.app.canvas.view import DrawingView
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, card, label
from riktig.desk.bundle import Bundle
from riktig.desk.proof_errands import derive_script, write_test_report
from riktig.drawings.open_panel import open_shift
from riktig.job.script_edits import keep_derived
from riktig.plan.answers.lookup import Lookup
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.prove.steps import CAUTION, PREPARATIONS, Phase, Step, Unit
from riktig.record.progress import Progress
from riktig.record.testing import Testing

if TYPE_CHECKING:
    from riktig.job.scripts import Script

_PROBE = "probe"
"""In place of the key of a step: a measurement on the way to a fault."""


class MeasureBench(Bench):
    """Steps in working order. A reading is typed, or taken from the meter; the verdict stands at once."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self._plan: Plan | None = None
        self._lookup: Lookup | None = None
        self._testing: Testing | None = None
        self._step: Step | None = None
        self._chosen: str | None = None
        self._travel_m = (0.0, 0.0)
        self._asked: tuple[int, str] = (0, "")
        """The number of the last question to the meter, and of which step it was."""
        self.card, self.side, self.trail = StepCard(), PhasesPanel(), TrailPanel()
        self.entry, self.reading, self.verdict = self.card.entry, self.card.reading, self.card.verdict
        self.acknowledge = button(tr("I take this on  (F3)"), role="primary")
        self.acknowledge.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.exceptions = Exceptions(session, hub, self.card, self.acknowledge)
        self.following = Following(session, self.card, self.trail, self._show_probes)
        self.meter, self.reader, self.fault = MeterBar(), MeterReader(self), SimulatedChoice(session)
        self.practice = PracticePage(session, theme)
        self.view = DrawingView(theme, tr("Plate with the probe points"))
        self.beside = self.trail
        self._lay_out()
        self._wire()

    def _lay_out(self) -> None:
        self._caution = label("")
        warning = QVBoxLayout()
        warning.setContentsMargins(10, 6, 10, 6)
        warning.addWidget(self._caution)
        warning.addWidget(self.acknowledge)
        work = QVBoxLayout()
        work.addWidget(self.card)
        work.addWidget(self.view, 1)
        work.addWidget(card(warning, "caution"))
        self.practise = button(tr("Practise"), tip=tr("Find faults that are hidden in a simulated panel"))
        self.report = button(tr("Report  (F12)"), tip=tr("Write what was tested as PDF and as a workbook"))
        row = QHBoxLayout()
        row.addWidget(self.practise)
        row.addWidget(self.report)
        side = QVBoxLayout()
        side.addWidget(self.side, 1)
        side.addWidget(self.meter)
        side.addWidget(self.fault)
        side.addLayout(row)
        page = QWidget()
        layout = QHBoxLayout(page)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addLayout(work, 5)
        layout.addLayout(side, 2)
        self._pages = QStackedWidget()
        self._pages.addWidget(page)
        self._pages.addWidget(self.practice)
        QHBoxLayout(self).addWidget(self._pages)

    def _wire(self) -> None:
        self.card.judged.connect(self._on_card_judged)
        self.card.take_requested.connect(self.take_reading)
        self.card.next_requested.connect(self.go_next)
        self.card.find_requested.connect(self._on_card_find_requested)
        self.card.refused.connect(self.hub.message_posted.emit)
        self.side.phase_chosen.connect(self._on_side_phase_chosen)
        self.side.step_chosen.connect(self._go_to)
        self.side.derive_requested.connect(self._on_side_derive_requested)
        self.following.ended.connect(self._show_all)
        self.following.found.connect(self._go_to)
        self.following.suspect_picked.connect(self.hub.select)
        self.following.mended.connect(self.fault.mend)
        self.view.picked.connect(self.hub.select)
        self.reader.answered.connect(self._on_reader_answered)
        self.reader.refused.connect(self._on_reader_refused)
        self.session.record.file_changed.connect(self.reader.close)
        self.practise.clicked.connect(self._on_practise_clicked)
        self.practice.closed.connect(partial(self._pages.setCurrentIndex, 0))
        self.report.clicked.connect(self.write_report)

    # -- what is shown

    def show_bundle(self, bundle: Bundle, lookup: Lookup) -> None:
        """Show the open panel; the simulated meter reads the panel as it is designed now."""
        self._plan, self._lookup = bundle.plan, lookup
        self.view.show_drawing(bundle.open_panel, shift=open_shift(bundle.plan))
        self.fault.take_plan(bundle.plan)
        self.practice.show_plan(bundle)
        self.following.take_plan(bundle.plan)

    def show_progress(self, progress: Progress) -> None:
        """Show the steps with their verdicts, and the one at hand."""
        self._testing = testing = progress.testing
        self._travel_m = progress.work.travel_m
        self.following.take_testing(testing)
        if self._chosen not in testing.by_key:
            first = next((step for step in testing.steps if testing.is_open(step)), None)
            first = first or next(iter(testing.steps), None)
            self._chosen = first.key if first is not None else None
        self._show_all()

    def _show_all(self) -> None:
        testing = self._testing
        if testing is None or self._chosen is None:
            return
        self._step = step = testing.by_key[self._chosen]
        self.exceptions.take_step(step)
        self.side.show_testing(testing, step.phase, self._chosen, self._travel_m)
        if not self.following.is_on:
            self._show_step(testing, step)

    def _show_step(self, testing: Testing, step: Step) -> None:
        shut = testing.why_shut(step)
        self.card.show_step(
            step, self._ends_words(step), testing.readings.get(step.key), testing.skipped.get(step.key), shut
        )
        self.card.waive.setVisible(bool(testing.left(step.phase)) and not step.phase.is_live)
        photos = testing.photos.get(step.key, ())
        if photos:
            self.card.tell(tr("Photos: {names}").format(names=", ".join(photos)))
        asks = bool(shut) and testing.is_proved_dead and testing.caution is None
        self._caution.setText(tr(CAUTION if asks else PREPARATIONS[step.phase]))
        self.acknowledge.setVisible(asks)
        wires = self._lookup.conductors(f"wire:{step.wire}") if step.wire and self._lookup is not None else ()
        self._show_probes(step.a, step.b, wires)
        self.view.mark((step.of,) if step.of else ())

    def _show_probes(self, a: Sequence[str], b: Sequence[str], wires: Sequence[Conductor] = ()) -> None:
        if self._plan is not None:
            show_probes(self.view, self._plan, a, b, wires)

    def _ends_words(self, step: Step) -> str:
        """Return in words where the probes go and what must be read."""
        if self._plan is None or not step.is_read:
            return step.group
        many = len(step.a) + len(step.b) > 4
        sides = [
            f"{name}  "
            + (
                tr("{count} clips").format(count=len(side))
                if many and len(side) > 1
                else "  ".join(map(self._plan.terminal_label, side))
            )
            for name, side in (("A", step.a), ("B", step.b))
            if side  # of some steps the manual of a device says where
        ]
        return "\n".join(filter(None, (step.group, "     ".join((*sides, step.limit_words)))))

    # -- judging

    def take_reading(self) -> None:
        """Ask the meter for the reading; what it answers counts for the step that was shown then."""
        panel, step, probe = self.fault.panel, self._step, self.following.probe
        if panel is None or step is None:
            return
        if probe is not None:
            self._ask_meter(_PROBE, Unit.OHM, lambda unit: panel.between((probe.a,), probe.b))
        elif (
            step.is_read and not self.following.is_on and self._testing is not None and not self._testing.why_shut(step)
        ):
            self._ask_meter(step.key, step.unit, lambda unit: panel.read(step))

    def _ask_meter(self, of: str, unit: Unit, probes: Callable[[Unit], float]) -> None:
        number = self.reader.ask(self.meter.where, unit, probes)
        if number:  # else the answer to the question before is still under way, and counts for what it was asked for
            self._asked = number, of

    def _on_reader_answered(self, number: int, reading: float, meter: str) -> None:
        asked, of = self._asked
        if number != asked:
            return
        if of == _PROBE:
            self.following.take_reading(reading)
        elif self._step is not None and of == self._step.key:
            self.session.record.tests.judge(self._step, reading, self.meter.words_of(meter))

    def _on_reader_refused(self, number: int, why: str) -> None:
        if number == self._asked[0]:
            self.card.tell(why)
            self.hub.message_posted.emit(why)

    def _on_card_judged(self, reading: float) -> None:
        if self.following.is_on:
            self.following.take_reading(reading)
        elif self._step is not None:
            self.session.record.tests.judge(self._step, reading, self.meter.words_of("") if self._step.is_read else "")

    def _on_card_find_requested(self) -> None:
        self.following.begin(self._step)

    def go_next(self) -> None:
        """Go to the next step that is open, else to the next one."""
        testing = self._testing
        if testing is None or not testing.steps:
            return
        keys = [step.key for step in testing.steps]
        at = keys.index(self._chosen) if self._chosen in keys else -1
        behind = [*testing.steps[at + 1 :], *testing.steps[: at + 1]]
        found = next((step for step in behind if testing.is_open(step) and step.phase not in testing.waived), behind[0])
        self._go_to(found.key)
        self.entry.setFocus()

    def _go_to(self, key: str) -> None:
        self.following.end()
        if self._testing is not None and key in self._testing.by_key:
            self._chosen = key
            self._show_all()

    def _on_side_phase_chosen(self, name: str) -> None:
        testing = self._testing
        if testing is not None:
            steps = testing.steps_of(Phase(name))
            self._go_to(next((step for step in steps if testing.is_open(step)), steps[0]).key)

    # -- what takes its time

    def _on_side_derive_requested(self) -> None:
        self.side.derive.setEnabled(False)
        self.session.long.ask(derive_script, self._take_script)

    def _take_script(self, script: "Script | None") -> None:
        self.side.derive.setEnabled(True)
        if script is not None:
            self.session.apply(partial(keep_derived, script=script), tr("function test derived"))

    def write_report(self) -> None:
        """Write the report of this unit to a folder that is chosen."""
        folder = QFileDialog.getExistingDirectory(self, tr("Folder for the report"))
        if folder and self._testing is not None:
            question = partial(
                write_test_report, folder=Path(folder), testing=self._testing, unit=self.session.record.unit
            )
            self.session.long.ask(question, self._take_report)

    def _take_report(self, said: str | None) -> None:
        self.hub.message_posted.emit(said if said is not None else tr("stopped: no report is written"))

    def _on_practise_clicked(self) -> None:
        self.following.end()  # F7 takes it up again: what was measured is in the Record
        self.practice.open_page()
        self._pages.setCurrentWidget(self.practice)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        confirm = self.exceptions.acknowledge if self.acknowledge.isVisible() else self.trail.tell_mended
        act = {
            Qt.Key.Key_F2: self.trail.tell_found, Qt.Key.Key_F3: confirm, Qt.Key.Key_F4: self.exceptions.waive,
            Qt.Key.Key_F5: self.take_reading, Qt.Key.Key_F6: self.go_next, Qt.Key.Key_F7: self._on_card_find_requested,
            Qt.Key.Key_F8: self.exceptions.skip, Qt.Key.Key_F9: self.exceptions.choose_photo, Qt.Key.Key_F12: self.write_report,
        }.get(Qt.Key(event.key()))  # fmt: skip
        looks = self._step is not None and not self._step.is_read and not self.following.is_on
        if self._pages.currentWidget() is self.practice:
            self.practice.take_key(event)
        elif act is not None:
            act()
        elif looks and event.key() in {Qt.Key.Key_Plus, Qt.Key.Key_Minus}:
            self._on_card_judged(1.0 if event.key() == Qt.Key.Key_Plus else 0.0)
        else:
            super().keyPressEvent(event)

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.view.set_theme(theme)
        self.practice.show_theme(theme)
