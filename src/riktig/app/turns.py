"""Owns doing long work in steps between which the window paints and listens. Must not know what the steps do."""

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer


class Turns(QObject):
    """Calls a step again and again, in every second turn of the event loop: what a step changed is painted in the turn between."""

    def __init__(self, step: Callable[[], None], parent: QObject) -> None:
        super().__init__(parent)
        self._step = step
        self._is_own = False
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._go_on)

    def start(self) -> None:
        """Go on with steps until stopped."""
        if not self._timer.isActive():
            self._is_own = False
            self._timer.start()

    def stop(self) -> None:
        """Make no step any more."""
        self._timer.stop()

    def _go_on(self) -> None:
        self._is_own = not self._is_own
        if not self._is_own:
            self._step()
