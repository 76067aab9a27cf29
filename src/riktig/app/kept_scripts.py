"""Owns how many of the scripts that a job keeps pass on its circuit: the worker plays them when all else is there. Knows no screen."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from riktig.app.worker import Worker
from riktig.desk.errands import count_passing

if TYPE_CHECKING:
    from riktig.job.model import Job


class KeptScripts(QObject):
    """Has them played and tells the outcome of the newest."""

    played = Signal(object)

    def __init__(self, worker: Worker, parent: QObject) -> None:
        super().__init__(parent)
        self._worker, self._number = worker, 0
        self.passing: tuple[int, int] | None = None
        """How many pass, of how many; None until that is known, or where none is kept."""

    def play(self, job: "Job | None") -> None:
        """Let the worker play the scripts of a job."""
        self._number += 1
        self.passing = None
        if job is not None and job.scripts:
            self._worker.ask(count_passing, partial(self._take, self._number))

    def _take(self, number: int, passing: tuple[int, int] | None) -> None:
        if number == self._number:
            self.passing = passing
            self.played.emit(passing)
