"""Owns how far an edit is that takes its time, and stopping it. Must not know what it does."""

from PySide6.QtCore import QObject, Signal

from riktig.app.worker import Worker


class LongWork(QObject):
    """One long edit at a time: it has ended when the worker has settled, refused or failed it."""

    told = Signal(float)
    """How far it is, 0 to 1; 1 when it has ended, one way or the other."""

    def __init__(self, worker: Worker, parent: QObject) -> None:
        super().__init__(parent)
        self._worker = worker
        self._number = 0
        worker.progress_told.connect(self._on_worker_progress_told)
        for ended in (worker.job_settled, worker.edit_refused, worker.work_failed):
            ended.connect(self._on_worker_ended)

    def begin(self, number: int) -> None:
        """Follow the request of that number."""
        self._number = number
        self.told.emit(0.0)

    def stop(self) -> bool:
        """Ask it to stop; the Job then stays as it was. Return whether there is one."""
        if self._number:
            self._worker.stop_long(self._number)
        return bool(self._number)

    def _on_worker_progress_told(self, number: int, share: float) -> None:
        if number == self._number:
            self.told.emit(min(share, 0.99))

    def _on_worker_ended(self, number: int, *_: object) -> None:
        if self._number and number >= self._number:
            self._number = 0
            self.told.emit(1.0)
