"""Owns following a fault on the Test bench: what the worker says of the suspects, the measurement that it asks for, and what is found. Must
not weigh suspects, nor ask meters.
"""

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QObject, Signal

from riktig.app.benches.measure.step_card import StepCard
from riktig.app.benches.measure.trail_panel import TrailPanel
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.desk.proof_errands import Observed, SuspectLine, Trail, explain_function, follow_fault
from riktig.plan.plan import Plan
from riktig.prove.search import SURE, Probe
from riktig.prove.steps import Phase, Step, Unit, value_words
from riktig.record.testing import Testing

ShowProbes = Callable[[Sequence[str], Sequence[str]], None]


class Following(QObject):
    """The way to a fault, from the step that failed to what is to be mended. Each measurement is in the Record before the next is asked."""

    ended = Signal()
    found = Signal(str)
    """A fault is in the Record: the key of the first step that is open again, "" for none."""
    mended = Signal(str)
    suspect_picked = Signal(str)
    """A suspect is looked at: its ref, so that the drawings of the other benches show it too."""

    def __init__(self, session: Session, card: StepCard, panel: TrailPanel, show_probes: ShowProbes) -> None:
        super().__init__(panel)
        self._session, self._card, self._panel, self._show_probes = session, card, panel, show_probes
        self._plan: Plan | None = None
        self._testing: Testing | None = None
        self._trail: Trail | None = None
        self._readings: list[tuple[str, tuple[str, ...], float]] = []
        self.is_weighing = False
        """Whether the worker is asked: nothing is measured meanwhile."""
        panel.picked.connect(self._on_panel_picked)
        panel.found.connect(self._on_panel_found)
        panel.mended.connect(self._on_panel_mended)

    @property
    def is_on(self) -> bool:
        """Whether a fault is followed."""
        return self._trail is not None

    @property
    def probe(self) -> Probe | None:
        """What is to be measured now, None where nothing is."""
        return self._trail.probe if self._trail is not None and not self.is_weighing else None

    def take_plan(self, plan: Plan) -> None:
        """Take over another Plan; what was followed in the one before is given up."""
        self._plan = plan
        self.end()

    def take_testing(self, testing: Testing) -> None:
        """Take over how the test stands."""
        self._testing = testing
        self._panel.show_found(testing.faults)

    def begin(self, step: Step | None) -> None:
        """Follow the fault that made a step fail; what was measured on the way before counts. Of a function that failed the faults are told
        that would come to light there.
        """
        testing = self._testing
        if testing is None or self.is_weighing:
            return
        parts = step.key.split(":") if step is not None and step.phase is Phase.FUNCTION else []
        if len(parts) > 3 and step in testing.failed:
            self.is_weighing = True
            explain = partial(explain_function, script=parts[1], number=int(parts[2]), seen=self._observed(testing))
            self._session.long.ask(explain, self._take)
        elif any(not failed.phase.is_live for failed in testing.failed):
            self._readings = list(testing.probes)
            self._ask()

    def _ask(self) -> None:
        if self._testing is None:
            return
        self.is_weighing = True
        self._card.tell(tr("Weighing the suspects…"))
        self._session.worker.ask(partial(follow_fault, seen=self._observed(self._testing)), self._take)

    def _observed(self, testing: Testing) -> Observed:
        """Return all that is known of the panel so far."""
        file = self._session.file
        return Observed(
            verdicts=tuple((key, reading.is_passed) for key, reading in testing.readings.items()),
            readings=tuple(self._readings),
            before=tuple(self._session.record.tests.found_before().items()),
            file=file.path if file is not None else None,
        )

    def _take(self, trail: Trail | None) -> None:
        self.is_weighing = False
        self._card.tell("")
        if trail is None or self._plan is None:
            return
        if not trail.suspects:
            self._card.tell(
                tr(
                    "{n} faults explain this: go on with the other steps of the phase, each of them tells many apart."
                ).format(n=trail.count)
                if trail.count
                else tr("no single fault of wiring explains this: measure again, look, or suspect two faults at once")
            )
            return
        self._trail = trail
        self._panel.show_trail(trail)
        likeliest = trail.suspects[0]
        probe = trail.probe
        if probe is None or likeliest.share > SURE:
            self._trail = Trail(suspects=trail.suspects, count=trail.count, probe=None)
            self._card.show_probe(
                tr("Found: look, and choose on the right what it is")
                if likeliest.share > SURE
                else tr("No measurement tells these apart: look at each"),
                likeliest.words, tr("F2: this is it, the one that is chosen on the right."), may=False,
            )  # fmt: skip
            return
        label = self._plan.terminal_label
        together = tr(" clipped together") if len(probe.b) > 1 else ""
        self._card.show_probe(
            tr("Find the fault: measurement {n}").format(n=len(self._readings) + 1),
            f"A  {label(probe.a)}     B  {'  '.join(map(label, probe.b))}{together}",
            tr("Either answer tells suspects apart: joined is up to 2 Ω. About {s:.0f} s.").format(s=probe.seconds),
        )
        self._show_probes((probe.a,), probe.b)
        self._card.entry.setFocus()

    def take_reading(self, ohms: float) -> None:
        """Take the reading of the measurement that was asked for."""
        probe = self.probe
        if probe is None:
            return
        self._session.record.tests.note_probe(probe.a, probe.b, ohms)
        self._readings.append((probe.a, probe.b, ohms))
        self._card.reading.setText(value_words(Unit.OHM, ohms))
        self._ask()

    def _on_panel_picked(self, line: SuspectLine) -> None:
        self.suspect_picked.emit(line.ref)
        if self._trail is not None and self._trail.probe is None:
            self._show_probes(line.at[:1], line.at[1:])

    def _on_panel_found(self, line: SuspectLine) -> None:
        self._session.record.tests.find_fault(line.key, line.words, line.mend, line.slip, line.retest)
        self.end()
        self.found.emit(line.retest[0] if line.retest else "")

    def _on_panel_mended(self, key: str) -> None:
        self._session.record.tick_removed(key)
        self.mended.emit(key)

    def end(self) -> None:
        """Follow it no more."""
        if self._trail is not None:
            self._trail = None
            self._panel.show_trail(None)
            self.ended.emit()
