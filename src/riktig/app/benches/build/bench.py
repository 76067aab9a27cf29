"""Owns the Build bench: one large card with the next step, worked by keyboard alone."""

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QProgressBar, QVBoxLayout

from riktig.app.benches.bench import Bench
from riktig.drawings.open_panel import draw_ways, open_shift
from riktig.app.canvas.view import DrawingView
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, card, label
from riktig.desk.bundle import Bundle
from riktig.plan.answers.lookup import Lookup
from riktig.plan.plan import Plan
from riktig.record.operations import Operation, Phase
from riktig.record.progress import Progress

CAUTION = "Work dead: isolate, lock off, prove dead. Excepted circuits and a second supply stay live."
FOLLOWING = 7


class BuildBench(Bench):
    """Enter ticks the step on the card, Backspace takes the last tick back."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._plan: Plan | None = None
        self._lookup: Lookup | None = None
        self._progress: Progress | None = None
        self._phase = label("", role="quiet", points=1)
        self._title = label("", points=14, bold=True)
        self._detail = label("", points=3)
        self._count = label("", role="quiet")
        self.done = button(tr("Done  (Enter)"), role="primary")
        self.done.setMinimumHeight(52)
        self.done.clicked.connect(self.tick_next)
        self.back = button(tr("Take back  (Backspace)"), role="big")
        self.back.clicked.connect(self.take_back)
        self.view = DrawingView(theme, tr("Plate with the place of the step"))
        self.view.picked.connect(hub.select)
        self._following = QListWidget()
        self._following.setAccessibleName(tr("Following steps"))
        self._following.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._rework = QListWidget()
        self._rework.setAccessibleName(tr("Rework"))
        self._rework.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        for listed in (self._following, self._rework):
            listed.setWordWrap(True)
            listed.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._rework_title = label(tr("Rework"), bold=True)
        self._rework_done = button(tr("Rework done"), role="big")
        self._rework_done.clicked.connect(self._on_rework_done_clicked)
        self._bars: dict[Phase, QProgressBar] = {}
        for widget in (self.done, self.back, self._rework_done):
            widget.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        layout = QHBoxLayout(self)
        layout.addLayout(self._build_work(), 3)
        layout.addLayout(self._build_board(), 1)

    def _build_work(self) -> QVBoxLayout:
        buttons = QHBoxLayout()
        buttons.addWidget(self.done, 2)
        buttons.addWidget(self.back, 1)
        inner = QVBoxLayout()
        inner.setContentsMargins(20, 14, 20, 16)
        inner.setSpacing(8)
        for widget in (self._phase, self._title, self._detail):
            inner.addWidget(widget)
        inner.addLayout(buttons)
        inner.addWidget(self._count)
        column = QVBoxLayout()
        column.addWidget(card(inner))
        column.addWidget(self.view, 1)
        warning = QVBoxLayout()
        warning.setContentsMargins(10, 6, 10, 6)
        warning.addWidget(label(tr(CAUTION)))
        column.addWidget(card(warning, "caution"))
        return column

    def _build_board(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.addWidget(label(tr("Stages"), bold=True))
        for phase in Phase:
            bar = QProgressBar()
            bar.setAccessibleName(phase.value)
            bar.setMinimumHeight(26)
            self._bars[phase] = bar
            column.addWidget(bar)
        column.addWidget(label(tr("Then"), bold=True))
        column.addWidget(self._following, 2)
        column.addWidget(self._rework_title)
        column.addWidget(self._rework, 1)
        column.addWidget(self._rework_done)
        return column

    def show_bundle(self, bundle: Bundle, lookup: Lookup) -> None:
        """Show the open panel of the Job now."""
        self._plan, self._lookup = bundle.plan, lookup
        self.view.show_drawing(bundle.open_panel, shift=open_shift(bundle.plan))

    def show_progress(self, progress: Progress) -> None:
        """Show the next step, what follows, and how far each stage is."""
        self._progress = progress
        operation = progress.next_operation
        closed = progress.why_closed(operation.key) if operation is not None else ""
        self.done.setEnabled(operation is not None and not closed and self.session.record.may_record)
        self.done.setToolTip(closed)
        if operation is None:
            self._phase.setText(tr("Build"))
            self._title.setText(tr("All steps are done"))
            self._detail.setText(tr("Go on with the tests: Alt+0."))
        else:
            self._phase.setText(f"{operation.phase.value.capitalize()}  ·  {operation.batch}")
            self._title.setText(operation.title)
            self._detail.setText(
                f"{operation.detail}\n✗ {closed.capitalize()} (Door, Alt+4)." if closed else operation.detail
            )
        total = len(progress.operations)
        self._count.setText(f"{len(progress.done)} of {total} steps done on unit {self.session.record.unit}")
        self.back.setEnabled(self.session.record.last_tick() is not None)
        self._show_lists(progress)
        self._show_place(operation)

    def _show_lists(self, progress: Progress) -> None:
        waiting = [op for op in progress.operations if op.key not in progress.done]
        self._following.clear()
        self._following.addItems([op.title for op in waiting[1 : FOLLOWING + 1]])
        for phase, bar in self._bars.items():
            members = [op for op in progress.operations if op.phase is phase]
            done = sum(op.key in progress.done for op in members)
            bar.setMaximum(max(len(members), 1))
            bar.setValue(done)
            mark = "✓ " if done == len(members) else ""
            bar.setFormat(f"{mark}{phase.value}  {done} / {len(members)}")
        self._rework.clear()
        self._rework.addItems([line.text for line in progress.rework])
        has_rework = bool(progress.rework)
        for widget in (self._rework, self._rework_title, self._rework_done):
            widget.setVisible(has_rework)

    def _show_place(self, operation: Operation | None) -> None:
        if self._plan is None or self._lookup is None:
            return
        ref = operation.ref if operation is not None else ""
        self.view.mark((ref,) if not ref.startswith("wire:") else ())
        wires = self._lookup.conductors(ref) if ref.startswith("wire:") else ()
        self.view.show_overlay(draw_ways(self._plan, wires))

    def tick_next(self) -> None:
        """Tick the step on the card."""
        operation = self._progress.next_operation if self._progress is not None else None
        if operation is not None:
            self.session.record.tick(operation)

    def take_back(self) -> None:
        """Withdraw the newest tick."""
        key = self.session.record.last_tick()
        if key is not None:
            self.session.record.untick(key)

    def _on_rework_done_clicked(self) -> None:
        if self._progress is None:
            return
        row = max(self._rework.currentRow(), 0)
        if row < len(self._progress.rework):
            line = self._progress.rework[row]
            operation = next((op for op in self._progress.operations if op.key == line.key), None)
            if operation is not None:
                self.session.record.tick(operation)
            else:
                self.session.record.tick_removed(line.key)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in {Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space}:
            self.tick_next()
        elif event.key() == Qt.Key.Key_Backspace:
            self.take_back()
        else:
            super().keyPressEvent(event)

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.view.set_theme(theme)
