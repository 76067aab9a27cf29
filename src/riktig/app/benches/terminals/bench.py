"""Owns the Terminals bench: the strips as they stand on the rail, and their order."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QHBoxLayout, QSpinBox, QVBoxLayout

from riktig.app.benches.bench import Bench
from riktig.app.canvas.view import DrawingView
from riktig.app.hub import Hub
from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.theme.theme import Theme
from riktig.app.widgets import button, label
from riktig.desk.bundle import Bundle
from riktig.job.edits import change_part
from riktig.plan.changes.strips import move_clamp, reorder_strips
from riktig.plan.net.strips import clamp_words

if TYPE_CHECKING:
    from riktig.drawings.display import Drawing
    from riktig.plan.answers.lookup import Lookup
    from riktig.plan.plan import Plan

LEAST_SCALE = 3.2
"""Pixels per mm below which markers cannot be read; the strips are panned then."""


def ask_strips(plan: "Plan") -> "Drawing":
    """Return the drawing of the strips; asked of the worker."""
    from riktig.drawings.strips import draw_strips

    return draw_strips(plan)


class TerminalsBench(Bench):
    """A click selects a terminal, a wire or its number everywhere; two buttons move the terminal along its strip."""

    def __init__(self, session: Session, hub: Hub, theme: Theme) -> None:
        super().__init__(session, hub, theme)
        self._bundle: Bundle | None = None
        self._clamp: str | None = None
        self.view = DrawingView(theme, tr("Terminal strips"), least_scale=LEAST_SCALE)
        self.view.picked.connect(hub.select)
        self._words = label("", role="quiet")
        self.left = button(tr("← Move left"))
        self.left.clicked.connect(lambda: self._move(-1))
        self.right = button(tr("Move right →"))
        self.right.clicked.connect(lambda: self._move(1))
        self.order = button(
            tr("Order by practice"), tip=tr("Strips ordered afresh; wires follow, and what is held stays")
        )
        self.order.clicked.connect(lambda: session.apply(reorder_strips, "order the strips"))
        self.spare = QSpinBox()
        self.spare.setAccessibleName(tr("Spare terminals in percent"))
        self.spare.setRange(0, 100)
        self.spare.setSuffix(f" % {tr('spare')}")
        self.spare.setToolTip(tr("Spare terminals of each strip; from a release on they are used up"))
        self.spare.editingFinished.connect(self._on_spare_entered)
        foot = QHBoxLayout()
        foot.addWidget(self._words, 1)
        for widget in (self.spare, self.left, self.right, self.order):
            foot.addWidget(widget)
        layout = QVBoxLayout(self)
        layout.addWidget(self.view, 1)
        layout.addLayout(foot)

    def show_bundle(self, bundle: Bundle, lookup: "Lookup") -> None:
        """Ask for the strips of the Plan as it is now."""
        self._bundle = bundle
        self.spare.setValue(bundle.plan.job.practice.spare_terminals)
        self.session.worker.ask(ask_strips, partial(self._take_strips, bundle, lookup))

    def _take_strips(self, bundle: Bundle, lookup: "Lookup", drawing: "Drawing | None") -> None:
        if drawing is not None and bundle is self._bundle:
            self.view.show_drawing(drawing)
            self.show_selection(self.hub.selection, lookup)

    def show_selection(self, ref: str, lookup: "Lookup") -> None:
        """Mark what is selected, and say what the selected terminal joins."""
        self.view.mark(lookup.marks(ref) if ref else ())
        self.view.centre_on(ref)
        clamp = self._bundle.plan.clamp_by_id.get(ref) if self._bundle is not None else None
        self._clamp = ref if clamp is not None else None
        for widget in (self.left, self.right):
            widget.setEnabled(clamp is not None)
        if clamp is not None and self._bundle is not None:
            part = self._bundle.plan.clamp_parts[clamp.id]
            self._words.setText(f"{clamp.id}: {clamp_words(clamp)}, {part.title}, {part.torque_nm:g} N m")
        else:
            self._words.setText(tr("Click a terminal or a wire. Inside is drawn away from the cable entry."))

    def _on_spare_entered(self) -> None:
        job, share = self.session.job, self.spare.value()
        if job is not None and share != job.practice.spare_terminals:
            edit = partial(change_part, field="practice", spare_terminals=share)
            self.session.apply(edit, f"{share} % spare terminals")

    def _move(self, step: int) -> None:
        if self._clamp is None:
            return
        strip = self._clamp.partition(":")[0]
        self.session.apply(partial(move_clamp, clamp=self._clamp, step=step), f"move {self._clamp}")
        clamps: list[str] = (
            [c.id for c in self._bundle.plan.clamps if c.strip == strip] if self._bundle is not None else []
        )
        place = min(max(clamps.index(self._clamp) + step, 0), len(clamps) - 1) if self._clamp in clamps else 0
        if clamps:
            self.hub.select(clamps[place])

    def show_theme(self, theme: Theme) -> None:
        """Draw in another look."""
        super().show_theme(theme)
        self.view.set_theme(theme)
