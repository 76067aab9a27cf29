"""Owns practising on a simulated panel: faults that nobody knows are hidden in it, and how well they are found is told. Must not touch the
Record.
"""

import time
from functools import partial
from math import isinf
from random import SystemRandom
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QCompleter, QHBoxLayout, QLineEdit, QListWidget, QVBoxLayout, QWidget

from riktig.app.benches.measure.probe_view import draw_probes
from riktig.app.canvas.view import DrawingView
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, card, label
from riktig.desk.proof_errands import Hidden, hide_fault, name_faults, score
from riktig.drawings.open_panel import open_shift
from riktig.live.built import AS_PLANNED, Built
from riktig.live.resistance import LEADS_OHM
from riktig.units.numbers import format_ohms

if TYPE_CHECKING:
    from riktig.desk.bundle import Bundle
    from riktig.plan.plan import Plan
    from riktig.standins.panel import SimulatedPanel

LEVELS = ("1  one wire open", "2  one slip of any kind", "3  two slips at once")


class PracticePage(QWidget):
    """A hidden fault, two probes, one reading; then what it is, and how that compares with the best way."""

    closed = Signal()

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session = session
        self._plan: Plan | None = None
        self._panel: SimulatedPanel | None = None
        self._hidden: list[Hidden] = []
        self._found = self._measured = self._wrong = 0
        self._best, self._started = 0, 0.0
        self._ends: dict[str, str] = {}
        self._faults: frozenset[str] = frozenset()
        self.view = DrawingView(theme, tr("Plate with the probe points"))
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addLayout(self._build_work(), 5)
        layout.addLayout(self._build_side(), 2)

    def _build_work(self) -> QVBoxLayout:
        self._title = label(tr("Practise finding faults"), points=8, bold=True)
        self._hint = label(
            tr(
                "Choose how hard, then begin: a fault is hidden in the simulated panel. Nothing here goes into the Record."
            )
        )
        self.level = QComboBox()
        self.level.setAccessibleName(tr("How hard"))
        self.level.addItems([tr(level) for level in LEVELS])
        self.begin = button(tr("Begin"), role="primary")
        self.begin.clicked.connect(self.hide_one)
        self.back = button(tr("Back to the test"))
        self.back.clicked.connect(self.closed.emit)
        self.a, self.b = self._end(tr("Probe A: tag:mark")), self._end(tr("Probe B: tag:mark"))
        self.reading = label("–", points=26, bold=True, mono=True)
        self.measure = button(tr("Measure  (F5)"), role="primary")
        self.measure.setMinimumHeight(44)
        self.measure.clicked.connect(self.take_reading)
        self.accused = QLineEdit()
        self.accused.setPlaceholderText(tr("What is it? Type a wire or a tag, then choose"))
        self.accused.setAccessibleName(tr("The fault"))
        self.accused.setMinimumHeight(44)
        self.accuse = button(tr("It is this"), role="big")
        self.accuse.setMinimumHeight(44)
        self.accuse.clicked.connect(self.judge)
        inner = QVBoxLayout()
        inner.setContentsMargins(18, 10, 18, 10)
        inner.addWidget(self._title)
        inner.addWidget(self._hint)
        for widgets in (((self.level, 2), (self.begin, 1), (self.back, 1)), ((self.a, 2), (self.b, 2), (self.measure, 2)),
                        ((self.reading, 1),), ((self.accused, 4), (self.accuse, 1))):  # fmt: skip
            row = QHBoxLayout()
            for widget, share in widgets:
                row.addWidget(widget, share)
            inner.addLayout(row)
        column = QVBoxLayout()
        column.addWidget(card(inner))
        column.addWidget(self.view, 1)
        return column

    def _end(self, hint: str) -> QLineEdit:
        made = QLineEdit()
        made.setPlaceholderText(hint)
        made.setAccessibleName(hint)
        made.setMinimumHeight(44)
        return made

    def _build_side(self) -> QVBoxLayout:
        self._score = label("", bold=True)
        self.log = QListWidget()
        self.log.setAccessibleName(tr("What was done"))
        self.log.setWordWrap(True)
        column = QVBoxLayout()
        column.addWidget(label(tr("The way so far"), points=3, bold=True))
        column.addWidget(self._score)
        column.addWidget(self.log, 1)
        return column

    def show_plan(self, bundle: "Bundle") -> None:
        """Take over another Plan; what was hidden in the one before is given up."""
        self._plan, self._bundle = bundle.plan, bundle
        self._panel, self._hidden, self._ends = None, [], {}

    def open_page(self) -> None:
        """Draw the panel and offer its terminals; nothing is hidden yet."""
        plan = self._plan
        if plan is None:
            return
        self.view.show_drawing(self._bundle.open_panel, shift=open_shift(plan))
        if not self._ends:
            self._ends = {plan.terminal_label(end): end for c in plan.conductors for end in (c.a, c.b)}
            for entry in (self.a, self.b):
                entry.setCompleter(_completer(sorted(self._ends), entry))
        self._show_state()

    def hide_one(self) -> None:
        """Hide a fault that nobody has seen."""
        seed, level = SystemRandom().randrange(2**31), self.level.currentIndex() + 1
        self.begin.setEnabled(False)
        self._session.worker.ask(name_faults, self._take_faults)
        self._session.worker.ask(partial(hide_fault, seed=seed, level=level), self._take_hidden)

    def _take_faults(self, faults: "tuple[tuple[str, str, Built], ...] | None") -> None:
        self._faults = frozenset(words for words, _, _ in faults or ())
        self.accused.setCompleter(_completer(sorted(self._faults), self.accused))

    def _take_hidden(self, hidden: "tuple[Hidden, ...] | None") -> None:
        from riktig.standins.panel import SimulatedPanel

        self.begin.setEnabled(True)
        plan = self._plan
        if not hidden or plan is None:
            return
        self._hidden = list(hidden)
        built = AS_PLANNED
        for one in hidden:
            built = built.and_also(one.built)
        self._panel = SimulatedPanel(plan, built)
        self._found = self._measured = self._wrong = 0
        self._best, self._started = sum(one.best for one in hidden), time.monotonic()
        self.log.clear()
        by_key = (
            {step.key: step for step in self._session.record.progress.testing.steps}
            if self._session.record.progress
            else {}
        )
        failed = [by_key[one.first] for one in hidden if one.first in by_key]
        self._hint.setText(
            tr("This step failed: {title}. Measure until you know why.").format(
                title="; ".join(s.title for s in failed)
            )
        )
        if failed:
            self.a.setText(plan.terminal_label(failed[0].a[0]))
            self.b.setText(plan.terminal_label(failed[0].b[0]))
        self.a.setFocus()
        self._show_state()

    def take_reading(self) -> None:
        """Measure between the two probes."""
        ends = [self._ends.get(entry.text().strip()) for entry in (self.a, self.b)]
        if self._panel is None or ends[0] is None or ends[1] is None:
            wrong = next((entry.text() for entry, end in zip((self.a, self.b), ends, strict=True) if end is None), "")
            self.reading.setText("–")
            self._score.setText(
                tr("Begin first.")
                if self._panel is None
                else tr("No terminal is called {text}.").format(text=wrong or "?")
            )
            return
        ohms = self._panel.between((ends[0],), (ends[1],)) + LEADS_OHM
        words = "OL" if isinf(ohms) else format_ohms(ohms)
        self.reading.setText(words)
        self._measured += 1
        self.log.addItem(f"{self._measured}.  {self.a.text()} – {self.b.text()}:  {words}")
        if self._plan is not None:
            self.view.show_overlay(draw_probes(self._plan, (ends[0],), (ends[1],), ()))
        self._show_state()

    def judge(self) -> None:
        """Judge what somebody says that it is."""
        text = self.accused.text().strip()
        if not self._hidden or self._plan is None:
            return
        if text not in self._faults:
            self._score.setText(tr("Choose one of the faults that are offered while you type."))
            return
        hit = next((one for one in self._hidden if one.words == text), None)
        self.log.addItem(f"{'✓' if hit else '✗'}  {text}")
        self.accused.clear()
        if hit is None:
            self._wrong += 1
        else:
            self._hidden.remove(hit)
            self._found += 1
        self._show_state()

    @property
    def points(self) -> int:
        """How good the way was, 0 to 100: the best way against measurements and wrong accusations."""
        return score(self._best, self._measured, self._wrong)

    def _show_state(self) -> None:
        is_done = self._found > 0 and not self._hidden
        seconds = time.monotonic() - self._started if self._started else 0.0
        counts = tr("{n} measurements, {w} wrong, {s:.0f} s").format(n=self._measured, w=self._wrong, s=seconds)
        if is_done:
            self._score.setText(tr("Found. {counts}. The best way takes {best}: {points} of 100 points.").format(
                counts=counts, best=self._best, points=self.points))  # fmt: skip
            self._hint.setText(tr("Found. Begin again for another one."))
        elif self._panel is not None:
            self._score.setText(counts)
        for widget in (self.measure, self.accuse):
            widget.setEnabled(self._panel is not None and not is_done)

    def take_key(self, event: QKeyEvent) -> None:
        """Take a key that the bench got: F5 measures."""
        if event.key() == Qt.Key.Key_F5:
            self.take_reading()

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        self.view.set_theme(theme)


def _completer(words: list[str], parent: QWidget) -> QCompleter:
    made = QCompleter(words, parent)
    made.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
    made.setFilterMode(Qt.MatchFlag.MatchContains)
    made.setMaxVisibleItems(12)
    return made
