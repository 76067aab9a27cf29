"""Owns how far an edit or a question is that takes its time, and stopping it. Must not know what it does."""

from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import QObject, Signal

from riktig.app.worker import Worker
from riktig.desk.messages import LongQuestion


class LongWork(QObject):
    """One long edit or question at a time: it has ended when the worker has settled, refused, failed or answered it."""

    told = Signal(float)
    """How far it is, 0 to 1; 1 when it has ended, one way or the other."""

    def __init__(self, worker: Worker, parent: QObject) -> None:
        super().__init__(parent)
        self._worker = worker
        self._number = 0
        self._is_question = False
        worker.progress_told.connect(self._on_worker_progress_told)
        worker.work_failed.connect(self._on_worker_ended)
        for ended in (worker.job_settled, worker.edit_refused):
            ended.connect(self._on_worker_edit_ended)

    def begin(self, number: int) -> None:
        """Follow the edit of that number."""
        self._number, self._is_question = number, False
        self.told.emit(0.0)

    def ask(self, question: LongQuestion, take: Callable[[Any], None]) -> None:
        """Ask the worker and follow how far it is; `take` gets the answer, None where it was stopped or there is no Plan."""
        self._number, self._is_question = self._worker.ask_long(question, partial(self._take, take)), True
        self.told.emit(0.0)

    def _take(self, take: Callable[[Any], None], answer: Any) -> None:
        self._end()
        take(answer)

    def stop(self) -> bool:
        """Ask it to stop; the Job then stays as it was. Return whether there is one."""
        if self._number:
            self._worker.stop_long(self._number)
        return bool(self._number)

    def _on_worker_progress_told(self, number: int, share: float) -> None:
        if number == self._number:
            self.told.emit(min(share, 0.99))

    def _on_worker_edit_ended(self, number: int, *_: object) -> None:
        if not self._is_question:  # edits may pass a question by
            self._on_worker_ended(number)

    def _on_worker_ended(self, number: int, *_: object) -> None:
        if self._number and number >= self._number:
            self._end()

    def _end(self) -> None:
        self._number = 0
        self.told.emit(1.0)
