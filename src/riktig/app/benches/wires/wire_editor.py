"""Owns the line that leads a selected wire to other terminals of its number, and lets it go again."""

from functools import partial

from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout

from riktig.app.session import Session
from riktig.app.text import tr
from riktig.app.widgets import button, label
from riktig.job.ledger import ChoiceState
from riktig.plan.changes.wires import hold_link, release_link
from riktig.plan.plan import Plan
from riktig.plan.wiring.conductors import Conductor
from riktig.plan.wiring.links import link_key


class WireEditor(QFrame):
    """Both ends of the wire as choices among the terminals of its number."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._wire: Conductor | None = None
        self.begin, self.end = QComboBox(), QComboBox()
        self.begin.setAccessibleName(tr("Lead the wire from"))
        self.end.setAccessibleName(tr("Lead the wire to"))
        self.hold = button(tr("Lead it so"), tip=tr("It stays; the other wires of its number follow"))
        self.hold.clicked.connect(self._on_hold_clicked)
        self.loose = button(tr("Leave it to Riktig"), role="link")
        self.loose.clicked.connect(self._on_loose_clicked)
        self.state = label("", role="quiet")
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.addWidget(self.begin, 0, 0)
        grid.addWidget(self.end, 0, 1)
        grid.addWidget(self.hold, 0, 2)
        grid.addWidget(self.state, 1, 0, 1, 2)
        grid.addWidget(self.loose, 1, 2)
        self.hide()

    def show_wire(self, wire: Conductor | None, plan: Plan) -> None:
        """Take over the selected wire; a factory join or a core cannot be led otherwise."""
        self._wire = wire if wire is not None and wire.kind == "wire" else None
        self.setVisible(self._wire is not None)
        if self._wire is None:
            return
        points = [t for p in plan.potentials if p.number == self._wire.number for t in p.net.terminals]
        points += [clamp.id for clamp in plan.clamps if clamp.number == self._wire.number]
        points += [t for t in (self._wire.a, self._wire.b) if t not in points]
        for box, at in ((self.begin, self._wire.a), (self.end, self._wire.b)):
            box.clear()
            for point in points:
                box.addItem(plan.terminal_label(point), point)
            box.setCurrentIndex(box.findData(at))
        job = self._session.job
        choice = job.ledger.links.get(link_key(self._wire.a, self._wire.b)) if job is not None else None
        state = choice.state if choice is not None else ChoiceState.AUTO
        words = {
            ChoiceState.KEPT: tr("led by a person"),
            ChoiceState.FROZEN: tr("released"),
            ChoiceState.AUTO: tr("chained by Riktig"),
        }
        self.state.setText(words[state])
        self.loose.setVisible(state is ChoiceState.KEPT)

    def _on_hold_clicked(self) -> None:
        if self._wire is not None:
            a, b = self.begin.currentData(), self.end.currentData()
            words = f"wire {self._wire.number} from {self.begin.currentText()} to {self.end.currentText()}"
            self._session.apply(partial(hold_link, a=a, b=b), words)

    def _on_loose_clicked(self) -> None:
        if self._wire is not None:
            edit = partial(release_link, a=self._wire.a, b=self._wire.b)
            self._session.apply(edit, f"wire {self._wire.number} left to Riktig")
