"""Owns when Python's collector passes in the window: while nothing comes from the worker. Must not know what is collected."""

from PySide6.QtCore import QObject, QTimer

from riktig.app.session import Session
from riktig.desk.heap import hold_off, set_apart, tidy

IDLE_MS = 20_000
"""A pass holds the window up for 20 to 90 ms with 100 starters: only in a pause in which nobody is in the middle of something."""


class IdleCollector(QObject):
    """Collects where nothing has been edited for a while; a pass in the middle of an edit of a large job would hold the window up."""

    def __init__(self, session: Session, parent: QObject, idle_ms: int = IDLE_MS) -> None:
        super().__init__(parent)
        hold_off()
        self._session = session
        self._file: object = None
        self._timer = QTimer(self)
        self._timer.setInterval(idle_ms)
        self._timer.timeout.connect(self._pass)
        self._timer.start()
        session.stale_changed.connect(lambda _: self._timer.start())

    def _pass(self) -> None:
        file = self._session.file
        if file is None or self._session.is_stale:
            return
        if file is self._file:
            tidy()
        else:
            self._file = file
            set_apart()
