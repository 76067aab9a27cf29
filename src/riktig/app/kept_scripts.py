"""Owns how many of the scripts that a job keeps pass on its circuit: the worker plays them while nobody changes it. Knows no screen."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer, Signal

from riktig.app.worker import Worker
from riktig.desk.errands import passes

if TYPE_CHECKING:
    from riktig.job.model import Job

_IDLE_MS = 1000
"""So long nothing was changed before they are played: each takes the worker a while, in which an edit would wait."""


class KeptScripts(QObject):
    """Has them played, one after the other, and tells the outcome of the newest Job."""

    played = Signal(object)

    def __init__(self, worker: Worker, parent: QObject) -> None:
        super().__init__(parent)
        self._worker, self._number = worker, 0
        self._names: tuple[str, ...] = ()
        self._outcomes: list[bool] = []
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(_IDLE_MS)
        self._timer.timeout.connect(self._play_next)
        self.passing: tuple[int, int] | None = None
        """How many pass, of how many; None until that is known, or where none is kept."""

    def play(self, job: "Job | None") -> None:
        """Let the worker play the scripts of a job once nobody changes it any more."""
        self._number += 1
        self.passing = None
        self._outcomes = []
        self._names = tuple(script.name for script in job.scripts) if job is not None else ()
        if self._names:
            self._timer.start()
        else:
            self._timer.stop()

    def _play_next(self) -> None:
        name = self._names[len(self._outcomes)]
        self._worker.ask(partial(passes, name=name), partial(self._take, self._number))

    def _take(self, number: int, outcome: bool | None) -> None:
        if number != self._number:
            return
        self._outcomes.append(bool(outcome))
        if len(self._outcomes) < len(self._names):
            self._play_next()
            return
        self.passing = (sum(self._outcomes), len(self._names))
        self.played.emit(self.passing)
