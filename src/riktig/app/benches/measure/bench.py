"""Owns the Test bench: the test phase by phase, its step with the probe points on plate and door, the way to a fault, and practising."""

import shutil
from collections.abc import Callable, Sequence
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QFileDialog, QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from riktig.app.benches.bench import Bench
from riktig.app.benches.measure.meter_line import MeterBar, MeterReader
from riktig.app.benches.measure.phases_panel import PhasesPanel
from riktig.app.benches.measure.practice_page import PracticePage
from riktig.app.benches.measure.probe_view import area_of, draw_probes
from riktig.app.benches.measure.step_card import StepCard, value_words
from riktig.app.benches.measure.trail_panel import TrailPanel
from riktig.app.canvas.view import DrawingView
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, card, label
from riktig.desk.bundle import Bundle
from riktig.desk.proof_errands import Observed, SuspectLine, Trail, derive_script, follow_fault, write_test_report
from riktig.drawings.open_panel import open_shift
from riktig.plan.answers.lookup import Lookup
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.prove.steps import CAUTION, PREPARATIONS, Phase, Step, Unit
from riktig.record.progress import Progress
from riktig.record.testing import Testing
from riktig.standins.panel import SimulatedPanel

if TYPE_CHECKING:
    from riktig.job.scripts import Script


class MeasureBench(Bench):
    """Steps in working order. A reading is typed, or taken from the meter; the verdict stands at once."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self._plan: Plan | None = None
        self._lookup: Lookup | None = None
        self._testing: Testing | None = None
        self._step: Step | None = None
        self._chosen: str | None = None
        self._phase: Phase | None = None
        self._trail: Trail | None = None
        self._asks_reason_of: Phase | Step | None = None
        self._asked: tuple[int, str] = (0, "")
        self._readings: list[tuple[str, tuple[str, ...], float]] = []
        self._is_weighing = False
        self.panel: SimulatedPanel | None = None
        """What the simulated meter reads."""
        self._build_parts()
        self._pages = QStackedWidget()
        page = QWidget()
        layout = QHBoxLayout(page)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addLayout(self._build_work(), 5)
        layout.addLayout(self._build_side(), 2)
        self._pages.addWidget(page)
        self._pages.addWidget(self.practice)
        outer = QHBoxLayout(self)
        outer.addWidget(self._pages)

    def _build_parts(self) -> None:
        self.card = StepCard()
        self.entry, self.reading, self.verdict = self.card.entry, self.card.reading, self.card.verdict
        self.card.judged.connect(self._on_card_judged)
        self.card.take_requested.connect(self.take_reading)
        self.card.next_requested.connect(self.go_next)
        self.card.find_requested.connect(self.find_fault)
        self.card.skip_requested.connect(self._on_card_skip_requested)
        self.card.waive_requested.connect(self._on_card_waive_requested)
        self.card.photo_requested.connect(self._on_card_photo_requested)
        self.card.reason_given.connect(self._on_card_reason_given)
        self.card.refused.connect(self.hub.message_posted.emit)
        self.side = PhasesPanel()
        self.list = self.side.steps
        self.side.phase_chosen.connect(self._on_side_phase_chosen)
        self.side.step_chosen.connect(self._go_to)
        self.side.derive_requested.connect(self._on_side_derive_requested)
        self.trail = TrailPanel()
        self.trail.picked.connect(self._on_trail_picked)
        self.trail.found.connect(self._on_trail_found)
        self.trail.mended.connect(self._on_trail_mended)
        self.beside = self.trail
        self.view = DrawingView(self.theme, tr("Plate with the probe points"))
        self.view.picked.connect(self.hub.select)
        self.meter = MeterBar()
        self.reader = MeterReader(self)
        self.reader.answered.connect(self._on_reader_answered)
        self.reader.refused.connect(self._on_reader_refused)
        self.session.record.file_changed.connect(self.reader.close)
        self.fault = FaultChoice()
        self.fault.activated.connect(self._on_fault_activated)
        self.practice = PracticePage(self.session, self.theme)
        self.practice.closed.connect(self.end_practice)
        self.practise = button(tr("Practise"), tip=tr("Find faults that are hidden in a simulated panel"))
        self.practise.clicked.connect(self.begin_practice)
        self.report = button(tr("Report  (F12)"), tip=tr("Write what was tested as PDF and as a workbook"))
        self.report.clicked.connect(self.write_report)

    def _build_work(self) -> QVBoxLayout:
        warning = QVBoxLayout()
        warning.setContentsMargins(10, 6, 10, 6)
        self._caution = label("")
        warning.addWidget(self._caution)
        self.acknowledge = button(tr("I take this on  (F3)"), role="primary")
        self.acknowledge.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.acknowledge.clicked.connect(self.acknowledge_caution)
        warning.addWidget(self.acknowledge)
        column = QVBoxLayout()
        column.addWidget(self.card)
        column.addWidget(self.view, 1)
        column.addWidget(card(warning, "caution"))
        return column

    def _build_side(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.addWidget(self.side, 1)
        column.addWidget(self.meter)
        column.addWidget(self.fault)
        row = QHBoxLayout()
        row.addWidget(self.practise)
        row.addWidget(self.report)
        column.addLayout(row)
        return column

    # -- what is shown

    def show_bundle(self, bundle: Bundle, lookup: Lookup) -> None:
        """Show the open panel; the simulated meter reads the panel as it is designed now."""
        self._plan, self._lookup = bundle.plan, lookup
        self.view.show_drawing(bundle.open_panel, shift=open_shift(bundle.plan))
        self.fault.take_plan(bundle.plan)
        self.panel = SimulatedPanel(bundle.plan)
        self.practice.show_plan(bundle)
        self._end_search()

    def show_progress(self, progress: Progress) -> None:
        """Show the steps with their verdicts, and the one at hand."""
        self._testing = testing = progress.testing
        self.trail.show_found(testing.faults)
        if self._chosen not in testing.by_key:
            first = next((step for step in testing.steps if testing.is_open(step)), None) or next(
                iter(testing.steps), None
            )
            self._chosen = first.key if first is not None else None
        if self._chosen is not None:
            self._phase = testing.by_key[self._chosen].phase
        self._show_all()

    def _show_all(self) -> None:
        testing = self._testing
        if testing is None or self._chosen is None or self._phase is None:
            return
        self._step = testing.by_key[self._chosen]
        self.side.show_testing(testing, self._phase, self._chosen)
        if self._trail is None:
            self._show_step(testing, self._step)

    def _show_step(self, testing: Testing, step: Step) -> None:
        if self._plan is None:
            return
        shut = testing.why_shut(step)
        self.card.waive.setVisible(bool(testing.left(step.phase)) and not step.phase.is_live)
        self.card.show_step(
            step, self._ends_words(step), testing.readings.get(step.key), testing.skipped.get(step.key), shut
        )
        photos = testing.photos.get(step.key, ())
        if photos:
            self.card.tell(tr("Photos: {names}").format(names=", ".join(photos)))
        asks = (
            bool(shut) and testing.caution is None and not any(testing.left(p) for p in testing.phases if not p.is_live)
        )
        self._caution.setText(tr(CAUTION if asks else PREPARATIONS[step.phase]))
        self.acknowledge.setVisible(asks)
        wire = self._lookup.conductors(f"wire:{step.wire}") if step.wire and self._lookup is not None else ()
        self._show_probes(step.a, step.b, wire)
        self.view.mark((step.of,) if step.of else ())

    def _show_probes(self, a: Sequence[str], b: Sequence[str], wires: Sequence[Conductor] = ()) -> None:
        """Show where the probes go, as close as lets one know the place."""
        if self._plan is None:
            return
        self.view.show_overlay(draw_probes(self._plan, a, b, wires))
        area = area_of(self._plan, (*a, *b)) if a and b else None
        if area is not None:
            self.view.show_part(*area)
        else:
            self.view.fit()

    def _ends_words(self, step: Step) -> str:
        """Return in words where the probes go and what must be read."""
        if self._plan is None or not step.a or not step.is_read:
            return step.group
        if len(step.a) + len(step.b) > 4:
            ends = tr("A  {a} clips     B  {b} clips").format(a=len(step.a), b=len(step.b))
        else:
            a, b = ("  ".join(map(self._plan.terminal_label, side)) for side in (step.a, step.b))
            ends = f"A  {a}     B  {b}"
        heading = f"{step.group}\n" if step.group else ""
        return f"{heading}{ends}     {limit_words(step)}"

    # -- judging

    def take_reading(self) -> None:
        """Ask the meter for the reading; what it answers counts for the step that was shown then."""
        if self.panel is None or self._step is None:
            return
        panel, step, trail = self.panel, self._step, self._trail
        if self._is_weighing:
            return
        if trail is not None and trail.probe is not None:
            probe = trail.probe
            self._ask_meter("probe", Unit.OHM, lambda unit: panel.between((probe.a,), probe.b))
            return
        if not step.is_read or (self._testing is not None and self._testing.why_shut(step)):
            return
        self._ask_meter(step.key, step.unit, lambda unit: panel.read(step))

    def _ask_meter(self, of: str, unit: Unit, probes: Callable[[Unit], float]) -> None:
        number = self.reader.ask(self.meter.where, unit, probes)
        if number:  # else the answer to the question before is still under way, and counts for what it was asked for
            self._asked = number, of

    def _on_reader_answered(self, number: int, reading: float, meter: str) -> None:
        asked, of = self._asked
        if number != asked:
            return
        if of == "probe" and self._trail is not None:
            self._take_probe(reading)
        elif self._step is not None and of == self._step.key:
            self.session.record.judge(self._step, reading, self.meter.words_of(meter))

    def _on_reader_refused(self, number: int, why: str) -> None:
        if number == self._asked[0]:
            self.card.tell(why)
            self.hub.message_posted.emit(why)

    def _on_card_judged(self, reading: float) -> None:
        if self._trail is not None:
            self._take_probe(reading)
        elif self._step is not None:
            self.session.record.judge(self._step, reading, self.meter.words_of("") if self._step.is_read else "")

    def go_next(self) -> None:
        """Go to the next step that is open, else to the next one."""
        self._end_search()
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
        self._end_search()
        if self._testing is not None and key in self._testing.by_key:
            self._chosen = key
            self._phase = self._testing.by_key[key].phase
            self._show_all()

    def _on_side_phase_chosen(self, name: str) -> None:
        testing = self._testing
        if testing is None:
            return
        steps = testing.steps_of(Phase(name))
        self._go_to(next((step for step in steps if testing.is_open(step)), steps[0]).key)

    # -- leaving out, waiving, photos, caution

    def _on_card_skip_requested(self) -> None:
        if self._step is not None:
            self._asks_reason_of = self._step
            self.card.ask_reason(tr("Why is this step left out? Enter keeps it with your name."))

    def _on_card_waive_requested(self) -> None:
        if self._phase is not None and not self._phase.is_live:
            self._asks_reason_of = self._phase
            self.card.ask_reason(
                tr("Why is {phase} waived? Enter keeps it with your name.").format(phase=self._phase.value)
            )

    def _on_card_reason_given(self, reason: str) -> None:
        of, self._asks_reason_of = self._asks_reason_of, None
        if isinstance(of, Step):
            self.session.record.skip(of, reason)
        elif of is not None:
            self.session.record.waive(of, reason)
        self.setFocus()

    def acknowledge_caution(self) -> None:
        """Take the caution on before anything is live; it is kept with the name of who is signed in."""
        if self.acknowledge.isVisible():
            self.session.record.acknowledge(CAUTION)

    def _on_card_photo_requested(self) -> None:
        name, _ = QFileDialog.getOpenFileName(
            self, tr("A picture of this step"), "", tr("Pictures (*.jpg *.jpeg *.png)")
        )
        if name:
            self.attach(Path(name))

    def attach(self, picture: Path) -> None:
        """Copy a picture beside the job and note it with the step."""
        file = self.session.file
        if file is None or self._step is None:
            return
        folder = file.path.with_suffix(".photos")
        try:
            folder.mkdir(exist_ok=True)
            name = f"{datetime.now():%Y%m%d-%H%M%S}-{picture.name}"
            shutil.copyfile(picture, folder / name)
        except OSError as error:
            self.hub.message_posted.emit(
                tr("the picture cannot be copied to {folder} ({why})").format(folder=folder, why=error.strerror)
            )
            return
        self.session.record.attach_photo(self._step, name)

    # -- the function test

    def _on_side_derive_requested(self) -> None:
        self.side.derive.setEnabled(False)
        self.session.long.ask(derive_script, self._take_script)

    def _take_script(self, script: "Script | None") -> None:
        self.side.derive.setEnabled(True)
        if script is not None:
            self.session.apply(partial(_keep_derived, script=script), tr("function test derived"))

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

    # -- the way to a fault

    def find_fault(self) -> None:
        """Look for the fault that made a step fail: from now on the card shows what to measure next."""
        if self._testing is None or not self._testing.failed:
            return
        self._readings = list(self._testing.probes)
        self._ask_trail()

    def _ask_trail(self) -> None:
        testing = self._testing
        if testing is None:
            return
        verdicts = tuple((key, reading.is_passed) for key, reading in testing.readings.items())
        before = tuple(self.session.record.found_before().items())
        seen = Observed(verdicts=verdicts, readings=tuple(self._readings), before=before)
        self._is_weighing = True
        self.card.tell(tr("Weighing the suspects…"))
        self.session.worker.ask(partial(follow_fault, seen=seen), self._take_trail)

    def _take_trail(self, trail: Trail | None) -> None:
        self._is_weighing = False
        self.card.tell("")
        if trail is None or self._plan is None:
            return
        self._trail = trail
        self.trail.show_trail(trail)
        probe = trail.probe
        if probe is None or (trail.suspects and trail.suspects[0].share > 0.95):
            self._trail = Trail(suspects=trail.suspects, count=trail.count, probe=None)
            self.card.show_probe(
                tr("Found: look, and choose on the right what it is"), trail.suspects[0].words if trail.suspects else "",
                tr("No measurement tells more. F2: this is it."), may=False,
            )  # fmt: skip
            return
        a, b = self._plan.terminal_label(probe.a), "  ".join(map(self._plan.terminal_label, probe.b))
        together = tr(" clipped together") if len(probe.b) > 1 else ""
        self.card.show_probe(
            tr("Find the fault: measurement {n}").format(n=len(self._readings) + 1), f"A  {a}     B  {b}{together}",
            tr("Either answer halves what is left: joined is up to 2 Ω. About {s:.0f} s.").format(s=probe.seconds),
        )  # fmt: skip
        self._show_probes((probe.a,), probe.b)
        self.entry.setFocus()

    def _take_probe(self, ohms: float) -> None:
        probe = self._trail.probe if self._trail is not None else None
        if probe is None or self._is_weighing:
            return
        self.session.record.note_probe(probe.a, probe.b, ohms)
        self._readings.append((probe.a, probe.b, ohms))
        self.reading.setText(value_words(Unit.OHM, ohms))
        self._ask_trail()

    def _on_trail_picked(self, line: SuspectLine) -> None:
        if self._plan is not None and self._trail is not None and self._trail.probe is None:
            self._show_probes(line.at[:1], line.at[1:])

    def _on_trail_found(self, line: SuspectLine) -> None:
        self.session.record.find_fault(line.key, line.words, line.mend, line.slip, line.retest)
        self._end_search()
        if line.retest:
            self._go_to(line.retest[0])

    def _on_trail_mended(self, key: str) -> None:
        self.session.record.tick_removed(key)
        if self.panel is not None and self._plan is not None and self.fault.holds(key):
            self.fault.setCurrentIndex(0)
            self.panel = SimulatedPanel(self._plan)

    def _end_search(self) -> None:
        if self._trail is not None:
            self._trail = None
            self.trail.show_trail(None)
            self._show_all()

    # -- the simulated panel, practising

    def _on_fault_activated(self, index: int) -> None:
        if self._plan is not None:
            self.panel = SimulatedPanel(self._plan, self.fault.built_at(index))

    def begin_practice(self) -> None:
        """Practise: nothing of it goes into the Record."""
        self.practice.open_page()
        self._pages.setCurrentWidget(self.practice)

    def end_practice(self) -> None:
        """Go back to the test."""
        self._pages.setCurrentIndex(0)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        act = {
            Qt.Key.Key_F2: self.trail.tell_found, Qt.Key.Key_F3: self._on_f3, Qt.Key.Key_F4: self._on_card_waive_requested,
            Qt.Key.Key_F5: self.take_reading, Qt.Key.Key_F6: self.go_next, Qt.Key.Key_F7: self.find_fault,
            Qt.Key.Key_F8: self._on_card_skip_requested, Qt.Key.Key_F9: self._on_card_photo_requested,
            Qt.Key.Key_F12: self.write_report,
        }.get(Qt.Key(event.key()))  # fmt: skip
        looks = self._step is not None and not self._step.is_read and self._trail is None
        if self._pages.currentIndex() == 1:
            self.practice.take_key(event)
        elif act is not None:
            act()
        elif looks and event.key() in {Qt.Key.Key_Plus, Qt.Key.Key_Minus}:
            self._on_card_judged(1.0 if event.key() == Qt.Key.Key_Plus else 0.0)
        else:
            super().keyPressEvent(event)

    def _on_f3(self) -> None:
        if self.acknowledge.isVisible():
            self.acknowledge_caution()
        else:
            self.trail.tell_mended()

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.view.set_theme(theme)
        self.practice.show_theme(theme)


class FaultChoice(QComboBox):
    """Which fault the simulated panel has; the list is made when it is opened, for a large panel has thousands."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(tr("Fault in the simulated panel"))
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(12)
        self.setToolTip(tr("What the simulated meter reads: the panel as designed, or with a fault put in on purpose"))
        self._plan: Plan | None = None
        self._faults: list[object] = []

    def take_plan(self, plan: Plan) -> None:
        """Begin anew with another Plan, as designed."""
        self._plan = plan
        self._faults = []
        self.clear()
        self.addItem(tr("Simulated panel: as designed"))

    def fill(self) -> None:
        """List the faults that can be put in."""
        from riktig.prove.faults import list_faults

        if self._plan is not None and not self._faults:
            self._faults = [fault for fault in list_faults(self._plan) if fault.built is not None]
            self.addItems([fault.words for fault in self._faults])  # type: ignore[attr-defined]

    def showPopup(self) -> None:
        self.fill()
        super().showPopup()

    def built_at(self, index: int):  # type: ignore[no-untyped-def]
        """Return how the panel is built with the fault of that row."""
        from riktig.live.built import AS_PLANNED

        return self._faults[index - 1].built if index > 0 else AS_PLANNED  # type: ignore[attr-defined]

    def holds(self, key: str) -> bool:
        """Return whether the fault of an event's subject is the one that is put in."""
        index = self.currentIndex()
        return index > 0 and key == f"fault:{self._faults[index - 1].key}"  # type: ignore[attr-defined]


def limit_words(step: Step) -> str:
    """Return in words what must be read."""
    low, high = (value_words(step.unit, limit) for limit in (step.low, step.high))
    if step.high == float("inf"):
        return tr("at least {low}").format(low=low)
    return tr("at most {high}").format(high=high) if step.low == 0 else tr("{low} to {high}").format(low=low, high=high)


def _keep_derived(job, script):  # type: ignore[no-untyped-def]
    """Return the Job with a derived function test in place of the one before."""
    from riktig.job.script_edits import keep_derived

    return keep_derived(job, script)
