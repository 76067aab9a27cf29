"""Owns practising on a simulated panel: faults that nobody knows are hidden in it, it is measured and operated, and how well they are found
is told. Must not touch the Record.
"""

import time
from collections.abc import Sequence
from functools import partial
from random import SystemRandom
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QComboBox, QHBoxLayout, QListWidget, QVBoxLayout, QWidget

from riktig.app.benches.measure.operating import Operating, completer, entry
from riktig.app.benches.measure.probe_view import show_probes
from riktig.app.canvas.view import DrawingView
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, card, label
from riktig.desk.practice_errands import Hidden, Model, hide_fault, show_best_way
from riktig.desk.proof_errands import name_faults
from riktig.drawings.open_panel import open_shift
from riktig.live.built import AS_PLANNED, Built
from riktig.live.resistance import LEADS_OHM
from riktig.prove.practice import PATIENCE, WRONG_COSTS, Effort, points_of
from riktig.prove.steps import Unit, value_words
from riktig.refusal import Refusal, sentence_of

if TYPE_CHECKING:
    from riktig.desk.bundle import Bundle
    from riktig.plan.plan import Plan
    from riktig.standins.operated import OperatedPanel

LEVELS = (
    "1  one wire open",
    "2  one slip of any kind",
    "3  two slips at once",
    "4  switched on, a function fails",
)


class PracticePage(QWidget):
    """A hidden fault, two probes and a hand at the switches; then what it is, and how that compares with the best way."""

    closed = Signal()

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session = session
        self._plan: Plan | None = None
        self._panel: OperatedPanel | None = None
        self._hidden: list[Hidden] = []
        self._asked: tuple[Hidden, ...] = ()
        self._measured = self._wrong = 0
        self._started, self._took = 0.0, 0.0
        self._model: Model | None = None
        self._is_given_up = self._is_asking = False
        self._ends: dict[str, str] = {}
        self._faults: frozenset[str] = frozenset()
        self.view = DrawingView(theme, tr("Plate with the probe points"))
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addLayout(self._build_work(), 5)
        layout.addLayout(self._build_side(), 2)

    def _build_work(self) -> QVBoxLayout:
        self._hint = label(_FIRST, points=2, bold=True)
        self.level = QComboBox()
        self.level.setAccessibleName(tr("How hard"))
        self.level.addItems([tr(level) for level in LEVELS])
        self.begin = button(tr("Begin"), role="primary")
        self.begin.clicked.connect(self.hide_one)
        self.give_up = button(tr("Show me"), tip=tr("Give up: what it is, and the best way to it"))
        self.give_up.clicked.connect(self.reveal)
        self.back = button(tr("Back to the test"))
        self.back.clicked.connect(self.closed.emit)
        self.operating = Operating()
        self.operating.switched.connect(self._on_operating_switched)
        self.operating.done.connect(self._on_operating_done)
        self.a, self.b = entry(tr("Probe A: tag:mark")), entry(tr("Probe B: tag:mark"))
        self.reading = label("–", points=14, bold=True, mono=True)
        self.reading.setWordWrap(False)
        self.measure = button(tr("Measure  (F5)"), role="primary")
        self.measure.setMinimumHeight(44)
        self.measure.clicked.connect(self.take_reading)
        self.accused = entry(tr("What is it? Type a wire or a tag, then choose"))
        self.accuse = button(tr("It is this"), role="big")
        self.accuse.setMinimumHeight(44)
        self.accuse.clicked.connect(self.judge)
        inner = QVBoxLayout()
        inner.setContentsMargins(18, 10, 18, 10)
        inner.addLayout(_row((self.level, 3), (self.begin, 2), (self.give_up, 2), (self.back, 2)))
        inner.addWidget(self._hint)
        inner.addWidget(self.operating)
        inner.addLayout(_row((self.a, 3), (self.b, 3), (self.measure, 2), (self.reading, 3)))
        inner.addLayout(_row((self.accused, 6), (self.accuse, 2)))
        column = QVBoxLayout()
        column.addWidget(card(inner))
        column.addWidget(self.view, 1)
        return column

    def _build_side(self) -> QVBoxLayout:
        self._score = label("", bold=True)
        self.log = QListWidget()
        self.log.setAccessibleName(tr("What was done"))
        self.log.setWordWrap(True)
        self.log.setTextElideMode(Qt.TextElideMode.ElideNone)
        self.log.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.log.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column = QVBoxLayout()
        column.addWidget(label(tr("The way so far"), points=3, bold=True))
        column.addWidget(self._score)
        column.addWidget(self.log, 1)
        column.addWidget(label(tr(_CAUTION), role="quiet"))
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
            for end in (self.a, self.b):
                end.setCompleter(completer(sorted(self._ends), end))
        self._show_state()

    # -- hiding

    def hide_one(self) -> None:
        """Hide a fault that nobody has seen."""
        seed, level = SystemRandom().randrange(2**31), self.level.currentIndex() + 1
        self.begin.setEnabled(False)
        if self._is_asking:  # the way to what was hidden before is not wanted any more
            self._session.long.stop()
        self._hint.setText(tr("Hiding something…"))
        self._session.worker.ask(name_faults, self._take_faults)
        self._session.long.ask(partial(hide_fault, seed=seed, level=level), partial(self._take_hidden, self._plan))

    def _take_faults(self, faults: "tuple[tuple[str, str, Built], ...] | None") -> None:
        self._faults = frozenset(words for words, _, _ in faults or ())
        self.accused.setCompleter(completer(sorted(self._faults), self.accused))

    def _take_hidden(self, asked_of: "Plan | None", hidden: "tuple[Hidden, ...] | None") -> None:
        from riktig.standins.operated import OperatedPanel

        self.begin.setEnabled(True)
        plan = self._plan
        if plan is None or plan is not asked_of:
            self._hint.setText(tr("The job has changed meanwhile: begin anew."))
            return
        if not hidden:
            self._hint.setText(tr("No fault was found that shows so in this panel: choose another level."))
            return
        self._hidden, self._asked = list(hidden), hidden
        built = AS_PLANNED
        for one in hidden:
            built = built.and_also(one.built)
        self._panel = OperatedPanel(plan, built, is_on=not hidden[0].step)
        self.operating.show_actions(self._panel.actions)
        self._measured = self._wrong = 0
        self._started, self._is_given_up, self._model = time.monotonic(), False, None
        self.log.clear()
        shown = ";  ".join(one.shows for one in hidden)
        self._hint.setText(tr("{shown}. Find out why.").format(shown=shown[:1].upper() + shown[1:]))
        for line, end in zip((self.a, self.b), hidden[0].at or ("", ""), strict=True):
            line.setText(plan.terminal_label(end) if end else "")
        self.a.setFocus()
        self._show_state()
        self._is_asking = True
        self._session.long.ask(partial(show_best_way, hidden=hidden), partial(self._take_model, hidden))

    def _take_model(self, hidden: "tuple[Hidden, ...]", model: Model | None) -> None:
        if hidden is not self._asked:
            return
        self._is_asking, self._model = False, model
        if self._is_done and model is not None:
            self._tell_model(model)
        self._show_state()

    # -- hands

    def _on_operating_switched(self, is_on: bool) -> None:
        if self._panel is not None:
            self._tell_seen(tr("supply on") if is_on else tr("supply off"), self._panel.switch(is_on=is_on))

    def _on_operating_done(self, words: str) -> None:
        if self._panel is None:
            return
        try:
            seen = self._panel.operate(words)
        except Refusal as error:
            self._score.setText(sentence_of(error))
            return
        self.operating.take_done()
        self._tell_seen(words, seen)

    def _tell_seen(self, words: str, seen: Sequence[str]) -> None:
        self._tell(f"{words}:  {', '.join(seen) or tr('nothing changes')}")
        self._show_state()

    def take_reading(self) -> None:
        """Measure between the two probes."""
        ends = [self._ends.get(line.text().strip()) for line in (self.a, self.b)]
        a, b = ends
        if self._panel is None or a is None or b is None:
            wrong = next((line.text() for line, end in zip((self.a, self.b), ends, strict=True) if end is None), "")
            self.reading.setText("–")
            self._score.setText(
                tr("Begin first.")
                if self._panel is None
                else tr("No terminal is called {text}.").format(text=wrong or "?")
            )
            return
        measured = self._panel.read(a, b)
        value = measured.value + (LEADS_OHM if measured.unit is Unit.OHM else 0.0)
        words = value_words(measured.unit, value)
        self.reading.setText(words)
        self._measured += 1
        self._tell(f"{self._measured}.  {self.a.text()} – {self.b.text()}:  {words}")
        if self._plan is not None:
            show_probes(self.view, self._plan, (a,), (b,))
        self._show_state()

    def _tell(self, words: str) -> None:
        self.log.addItem(words)
        self.log.scrollToBottom()

    # -- judging

    def judge(self) -> None:
        """Judge what somebody says that it is."""
        text = self.accused.text().strip()
        if not self._hidden or self._plan is None:
            return
        if text not in self._faults:
            self._score.setText(tr("Choose one of the faults that are offered while you type."))
            return
        hit = next((one for one in self._hidden if one.words == text), None)
        self._tell(f"{'✓' if hit else '✗'}  {text}")
        self.accused.clear()
        if hit is None:
            self._wrong += 1
        else:
            self._hidden.remove(hit)
        self._end_if_done()

    def reveal(self) -> None:
        """Give up: tell what is hidden."""
        for one in self._hidden:
            self._tell(f"→  {one.words}")
        self._is_given_up = bool(self._hidden) or self._is_given_up
        self._hidden.clear()
        self._end_if_done()

    def _end_if_done(self) -> None:
        if self._is_done:
            self._took = time.monotonic() - self._started
            self._hint.setText(tr("Given up: look at the best way, then begin again.") if self._is_given_up else
                               tr("Found. Begin again for another one."))  # fmt: skip
            if self._model is not None:
                self._tell_model(self._model)
        self._show_state()

    def _tell_model(self, model: Model) -> None:
        self._tell(tr("The best way from what was known, dead:"))
        for number, words in enumerate(model.words, 1):
            self._tell(f"  {number}.  {words}")
        if not model.words:
            self._tell(tr("  nothing to measure: only this one explains it"))

    @property
    def _is_done(self) -> bool:
        return self._panel is not None and not self._hidden

    @property
    def points(self) -> int:
        """How good the way was, 0 to 100, against the best one."""
        if self._is_given_up or self._model is None:
            return 0
        return points_of(self._model.effort, Effort(measurements=self._measured, seconds=self._took), self._wrong)

    def _show_state(self) -> None:
        panel, is_done = self._panel, self._is_done
        seconds = self._took if is_done else time.monotonic() - self._started
        measured = tr("one measurement") if self._measured == 1 else tr("{n} measurements").format(n=self._measured)
        counts = tr("{measured}, {w} wrong, {s:.0f} s").format(measured=measured, w=self._wrong, s=seconds)
        if not is_done:
            self._score.setText(counts if panel is not None else "")
        elif self._is_given_up:
            self._score.setText(tr("Given up after {counts}.").format(counts=counts))
        elif self._model is None:
            self._score.setText(tr("Found: {counts}. Working out the best way…").format(counts=counts))
        else:
            best = self._model.effort
            told = tr("Found: {counts}. The best way: {n} measurements, {s:.0f} s of handwork. {points} of 100 points.")
            self._score.setText(told.format(counts=counts, n=best.measurements, s=best.seconds, points=self.points))
        self._score.setToolTip(tr(_HOW_COUNTED).format(patience=PATIENCE, wrong=WRONG_COSTS))
        for widget in (self.measure, self.accuse, self.give_up):
            widget.setEnabled(panel is not None and not is_done)
        self.operating.show_state(
            is_on=panel is not None and panel.is_on, running=panel.running if panel is not None else (), may=panel is not None
        )  # fmt: skip

    def take_key(self, event: QKeyEvent) -> None:
        """Take a key that the bench got: F5 measures, F6 operates, F7 switches the supply."""
        actions = {Qt.Key.Key_F5: self.take_reading, Qt.Key.Key_F6: self.operating.operate,
                   Qt.Key.Key_F7: self.operating.turn_supply}  # fmt: skip
        if event.key() in actions:
            actions[Qt.Key(event.key())]()

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        self.view.set_theme(theme)


_FIRST = (
    "Choose how hard, then begin: something is wired wrongly in a simulated panel. Nothing here goes into the Record."
)
_CAUTION = "On a real panel: prove dead first, measure dead wherever that tells, and leave live work to whoever local law lets do it."
_HOW_COUNTED = (
    "50 points for measurements and 50 for time, each against the best way; reading drawings may take {patience:g} times the handwork. "
    "A wrong accusation costs {wrong}."
)


def _row(*widgets: tuple[QWidget, int]) -> QHBoxLayout:
    row = QHBoxLayout()
    for widget, share in widgets:
        row.addWidget(widget, share)
    return row
