"""Owns the pipe to the worker process as signals. Must not know widgets."""

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, QSocketNotifier, Signal

from riktig.desk.inbox import pack_message, pack_stop
from riktig.desk.process import Edit, Helper, LongEdit, Question, start_helper

PROCESS_ENDED = "the worker process ended unexpectedly"


class Worker(QObject):
    """The worker process as the window sees it; started with the first message if it does not run yet."""

    job_settled = Signal(int, object)
    job_loaded = Signal(int, object)
    """A loaded Job as it settles now, where that is another one than was kept."""
    revision_made = Signal(int, object)
    bundle_ready = Signal(int, object)
    sheets_ready = Signal(int, object)
    work_ready = Signal(int, object)
    edit_refused = Signal(int, str)
    work_failed = Signal(int, str)
    progress_told = Signal(int, object)
    """Share that is done and the best cost so far of a long edit."""
    _answered = Signal(int, object)

    def __init__(self, helper: Helper | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._helper: Helper | None = None
        self._notifier: QSocketNotifier | None = None
        self._number = 0
        self._asked: dict[int, Callable[[Any], None]] = {}
        self._answered.connect(self._on_self_answered)
        self._signals = {
            "job": self.job_settled,
            "loaded": self.job_loaded,
            "issued": self.revision_made,
            "bundle": self.bundle_ready,
            "sheets": self.sheets_ready,
            "work": self.work_ready,
            "refused": self.edit_refused,
            "failed": self.work_failed,
            "answer": self._answered,
            "progress": self.progress_told,
        }
        if helper is not None:
            self._adopt(helper)

    def _adopt(self, helper: Helper) -> None:
        self._helper = helper
        self._notifier = QSocketNotifier(helper.pipe.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._on_pipe_readable)

    def load(self, job: object) -> int:
        """Make a settled Job the present one; return the number of the request."""
        return self._send("load", job)

    def edit(self, edit: Edit | LongEdit, *, takes_time: bool = False) -> int:
        """Apply an edit to the present Job; return the number of the request. One that takes its time tells how far it is."""
        return self._send("long" if takes_time else "edit", edit)

    def stop_long(self, number: int) -> None:
        """Ask the long edit of that number to stop, begun or not; the Job then stays as it was."""
        if self._helper is not None:
            self._helper.pipe.send_bytes(pack_stop(number))

    def issue(self, name: str) -> int:
        """Release the present Job under a revision name; return the number of the request."""
        return self._send("issue", name)

    def ask(self, question: Question, take: Callable[[Any], None]) -> None:
        """Ask something of the present Plan; `take` gets the answer, None if there is no Plan or it cannot be answered."""
        self._asked[self._send("ask", question)] = take

    def _on_self_answered(self, number: int, answer: Any) -> None:
        self._asked.pop(number)(answer)

    def _send(self, kind: str, value: Any) -> int:
        if self._helper is None:
            self._adopt(start_helper())
        assert self._helper is not None
        self._number += 1
        self._helper.pipe.send_bytes(pack_message(kind, self._number, value))
        return self._number

    def _on_pipe_readable(self) -> None:
        assert self._helper is not None
        try:
            kind, number, value = self._helper.pipe.recv()
        except (EOFError, OSError):
            self.stop()
            self.work_failed.emit(self._number, PROCESS_ENDED)
            return
        self._signals[kind].emit(number, value)

    def stop(self) -> None:
        """End the process; nothing of it stays alive."""
        if self._helper is None or self._notifier is None:
            return
        helper, self._helper = self._helper, None
        self._asked.clear()
        self._notifier.setEnabled(False)
        self._notifier.deleteLater()
        self._notifier = None
        helper.pipe.close()
        helper.process.join(1)
        if helper.process.is_alive():
            helper.process.kill()
            helper.process.join()
        helper.process.close()
