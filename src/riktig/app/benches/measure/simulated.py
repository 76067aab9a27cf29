"""Owns the simulated panel that the simulated meter reads: as designed, or with a fault put in on purpose. Must not measure."""

from PySide6.QtWidgets import QComboBox

from riktig.app.session import Session
from riktig.app.text import tr
from riktig.desk.proof_errands import name_faults
from riktig.live.built import AS_PLANNED, Built
from riktig.plan.plan import Plan
from riktig.standins.panel import SimulatedPanel


class SimulatedChoice(QComboBox):
    """Which fault the simulated panel has; the worker names them when it is opened first, for a large panel has thousands."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setAccessibleName(tr("Fault in the simulated panel"))
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(12)
        self.setToolTip(tr("What the simulated meter reads: the panel as designed, or with a fault put in on purpose"))
        self._plan: Plan | None = None
        self._faults: tuple[tuple[str, str, Built], ...] = ()
        self.panel: SimulatedPanel | None = None
        """The panel as it is now, None while no job is open."""
        self.activated.connect(self._on_activated)

    def take_plan(self, plan: Plan) -> None:
        """Begin anew with another Plan, as designed."""
        self._plan, self._faults = plan, ()
        self.clear()
        self.addItem(tr("Simulated panel: as designed"))
        self.panel = SimulatedPanel(plan)

    def showPopup(self) -> None:
        if self._faults or self._plan is None:
            super().showPopup()
        else:
            self._session.worker.ask(name_faults, self._take_faults)

    def _take_faults(self, faults: tuple[tuple[str, str, Built], ...] | None) -> None:
        if faults and not self._faults:
            self._faults = faults
            self.addItems([words for words, _, _ in faults])
        super().showPopup()

    def _on_activated(self, index: int) -> None:
        if self._plan is not None:
            self.panel = SimulatedPanel(self._plan, self._faults[index - 1][2] if index > 0 else AS_PLANNED)

    def mend(self, key: str) -> None:
        """Take a fault out again, if the one of that key is put in."""
        index = self.currentIndex()
        if index > 0 and key == f"fault:{self._faults[index - 1][1]}":
            self.setCurrentIndex(0)
            self._on_activated(0)
