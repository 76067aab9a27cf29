"""Owns what is made ready before a move by hand, and a move that is kept but not shown yet. Must not say whether it is good."""

from collections.abc import Generator

from PySide6.QtCore import QObject, QTimer

from riktig.app.session import Session
from riktig.app.turns import Turns
from riktig.desk.bundle import Bundle, moving_bundle
from riktig.plan.place.faults import PlateFault, find_faults
from riktig.plan.place.layout import PlateLayout

LOOK_MS = 300
"""So long after a plate is shown its faults are looked for: what is settled of a move has come by then."""


class KnownFaults(QObject):
    """What is wrong with a plate already; looked for a moment after it is shown, so that a move need not."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._plate: PlateLayout | None = None
        self._faults: tuple[PlateFault, ...] | None = None
        self._turn = QTimer(self)
        self._turn.setSingleShot(True)
        self._turn.setInterval(LOOK_MS)
        self._turn.timeout.connect(lambda: self.faults)

    def take(self, plate: PlateLayout) -> None:
        """Take over a plate."""
        if plate is not self._plate:
            self._plate, self._faults = plate, None
            self._turn.start()

    @property
    def faults(self) -> tuple[PlateFault, ...]:
        """What is wrong with it, none without a plate."""
        if self._faults is None:
            self._faults = find_faults(self._plate) if self._plate is not None else ()
        return self._faults


class Ahead(QObject):
    """What follows at once from a move: made and shown over some turns, so that no key holds the window up for long."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._before: Bundle | None = None
        self._steps: Generator[None, None, Bundle] | None = None
        self._made: Bundle | None = None
        self._turns = Turns(self._go_on, self)

    def begin(self, before: Bundle, layout: PlateLayout) -> None:
        """Take over what is shown now, and the plate as a move leaves it."""
        self._before, self._steps, self._made = before, moving_bundle(before, layout), None
        self._turns.start()

    def show(self) -> None:
        """Show at once what waits: the hand is about to do more on this plate."""
        while self._before is not None:
            self._go_on()

    def _go_on(self) -> None:
        is_wanted = self._before is not None and self._before is self._session.bundle  # nothing newer is shown
        if is_wanted and self._steps is not None:
            try:
                next(self._steps)
            except StopIteration as end:
                self._steps, self._made = None, end.value
            return
        made = self._made
        self._before = self._steps = self._made = None
        self._turns.stop()
        if is_wanted and made is not None:
            self._session.show_ahead(made)
