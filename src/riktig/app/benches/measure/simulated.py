"""Owns the simulated panel that the simulated meter reads: as designed, or with a fault put in on purpose. Must not measure."""

from PySide6.QtWidgets import QComboBox

from riktig.app.text import tr
from riktig.live.built import AS_PLANNED
from riktig.plan.plan import Plan
from riktig.prove.faults import Fault, list_faults
from riktig.standins.panel import SimulatedPanel


class SimulatedChoice(QComboBox):
    """Which fault the simulated panel has; the list is made when it is opened, for a large panel has thousands."""

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(tr("Fault in the simulated panel"))
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(12)
        self.setToolTip(tr("What the simulated meter reads: the panel as designed, or with a fault put in on purpose"))
        self._plan: Plan | None = None
        self._faults: list[Fault] = []
        self.panel: SimulatedPanel | None = None
        """The panel as it is now, None while no job is open."""
        self.activated.connect(self._on_activated)

    def take_plan(self, plan: Plan) -> None:
        """Begin anew with another Plan, as designed."""
        self._plan, self._faults = plan, []
        self.clear()
        self.addItem(tr("Simulated panel: as designed"))
        self.panel = SimulatedPanel(plan)

    def fill(self) -> None:
        """List the faults that can be put in."""
        if self._plan is not None and not self._faults:
            self._faults = [fault for fault in list_faults(self._plan) if fault.built is not None]
            self.addItems([fault.words for fault in self._faults])

    def showPopup(self) -> None:
        self.fill()
        super().showPopup()

    def _on_activated(self, index: int) -> None:
        if self._plan is not None:
            built = self._faults[index - 1].built if index > 0 else AS_PLANNED
            self.panel = SimulatedPanel(self._plan, built or AS_PLANNED)

    def mend(self, key: str) -> None:
        """Take a fault out again, if the one of that key is put in."""
        index = self.currentIndex()
        if index > 0 and key == f"fault:{self._faults[index - 1].key}":
            self.setCurrentIndex(0)
            self._on_activated(0)
