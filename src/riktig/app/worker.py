"""Owns the pipe to the worker process as signals, and what the window has of the values that come piece by piece. Must not know widgets."""

import contextlib
import pickle
import sys
import threading
from collections import deque
from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, Qt, Signal

from riktig.app.turns import Turns
from riktig.desk.bundle import Bundle
from riktig.desk.deltas import Delta, Receiver, patch
from riktig.desk.helper import Helper, start_helper
from riktig.desk.inbox import pack_end, pack_stop, pack_wish
from riktig.desk.messages import (
    Answer,
    Apply,
    Ask,
    EarlyReady,
    Edit,
    Expect,
    Failed,
    FindingsReady,
    Issue,
    Issued,
    Load,
    Loaded,
    LongEdit,
    LongQuestion,
    PlanReady,
    Progress,
    Question,
    Refused,
    Settled,
    SheetsReady,
    Told,
    Wish,
    WorkReady,
)
from riktig.desk.packing import unpack

if TYPE_CHECKING:
    from riktig.job.model import Job

_TRIED_AGAIN = (ImportError, AttributeError, pickle.UnpicklingError)
"""What the reading thread leaves to the window's own: modules may be half loaded there."""
READER_TURN_S = 0.0005
"""So long at most the reading thread goes on where the window wants to: at Python's 5 ms each painting waits several times."""
PROCESS_ENDED = "the worker process ended unexpectedly"


class Worker(QObject):
    """The worker process as the window sees it; started with the first message if it does not run yet."""

    job_settled = Signal(int, object, bytes)
    """The Job after an edit, and as it is stored."""
    job_loaded = Signal(int, object)
    """A loaded Job as it settles now, where that is another one than was kept."""
    revision_made = Signal(int, object, bytes, bytes)
    """The Job as released; Job and Plan as they are stored."""
    bundle_ready = Signal(int, object)
    early_ready = Signal(int, object)
    """What an edit does to motors, before it is settled."""
    findings_ready = Signal(int, object)
    sheets_ready = Signal(int, object)
    work_ready = Signal(int, object)
    edit_refused = Signal(int, str)
    work_failed = Signal(int, str)
    progress_told = Signal(int, float)
    """Share that is done of a long edit or question."""

    _arrived = Signal(object, object)

    def __init__(self, helper: Helper | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._helper: Helper | None = None
        self._reader: threading.Thread | None = None
        self._number = 0
        self._asked: dict[int, Callable[[Any], None]] = {}
        self._loading: dict[int, Job] = {}
        self._mirror = Receiver()
        self._come: deque[tuple[Helper, Any]] = deque()
        self._turns = Turns(self._take_next, self)
        self._arrived.connect(self._on_arrived, Qt.ConnectionType.QueuedConnection)
        if helper is not None:
            self._adopt(helper)

    def _adopt(self, helper: Helper) -> None:
        self._helper, self._mirror = helper, Receiver()
        sys.setswitchinterval(READER_TURN_S)
        self._reader = threading.Thread(target=self._read, args=(helper,), daemon=True, name="riktig-reader")
        self._reader.start()

    def _read(self, helper: Helper) -> None:
        """Take answers off the pipe and unpack them, in a thread of its own, so that the window does not wait for a large one."""
        while True:
            raw: bytes | None = None
            with contextlib.suppress(EOFError, OSError):
                raw = helper.pipe.recv_bytes()
            answer: Any = raw
            if raw is not None:
                with contextlib.suppress(*_TRIED_AGAIN):
                    answer = unpack(raw)
            with contextlib.suppress(RuntimeError):  # the window is gone
                self._arrived.emit(helper, answer)
            if answer is None:
                return

    def expect(self, packed: bytes) -> None:
        """Let the worker compute what follows from a stored Job while the window reads it, to load it then."""
        self._send(Expect(packed))

    def load(self, job: "Job") -> int:
        """Make a settled Job the present one; return the number of the request."""
        number = self._send(Load(job))
        self._loading[number] = job
        return number

    def edit(self, edit: Edit | LongEdit, *, takes_time: bool = False, wants_early: bool = False) -> int:
        """Apply an edit to the present Job; return the number of the request. One that takes its time tells how far it is; what it
        does to motors is told first where that is wanted.
        """
        return self._send(Apply(edit, takes_time, wants_early))

    def stop_long(self, number: int) -> None:
        """Ask the long edit or question of that number to stop, begun or not; the Job then stays as it was."""
        if self._helper is not None:
            self._helper.pipe.send_bytes(pack_stop(number))

    def issue(self, name: str) -> int:
        """Release the present Job under a revision name; return the number of the request."""
        return self._send(Issue(name))

    def ask(self, question: Question, take: Callable[[Any], None]) -> None:
        """Ask something of the present Plan; `take` gets the answer, None if there is no Plan or it cannot be answered."""
        self._asked[self._send(Ask(question))] = take

    def ask_long(self, question: LongQuestion, take: Callable[[Any], None]) -> int:
        """Ask what takes its time and tells how far it is; return the number of the request. Stopped, its answer is None."""
        number = self._send(Ask(question, takes_time=True))
        self._asked[number] = take
        return number

    def _send(self, wish: Wish) -> int:
        if self._helper is None:
            self._adopt(start_helper())
        assert self._helper is not None
        self._number += 1
        with contextlib.suppress(ConnectionError):  # of a process that has ended its reader tells
            self._helper.pipe.send_bytes(pack_wish(self._number, wish))
        return self._number

    def _on_arrived(self, helper: Helper, answer: Any) -> None:
        self._come.append((helper, answer))
        self._turns.start()

    def _take_next(self) -> None:
        """Take one answer in a turn: what it changes is painted before the next one."""
        if not self._come:
            self._turns.stop()
            return
        helper, answer = self._come.popleft()
        if helper is not self._helper:
            return
        if isinstance(answer, bytes):
            answer = unpack(answer)
        if answer is None:
            self.stop()
            self.work_failed.emit(self._number, PROCESS_ENDED)
        else:
            self._tell(answer)

    def _tell(self, answer: Answer) -> None:
        """Bring what the window has up to date, and tell of it. Each delta is taken, even where nobody waits for it any more."""
        number, mirror = answer.number, self._mirror
        if isinstance(answer, Settled):
            self.job_settled.emit(number, mirror.take("job", answer.job), answer.packed)
        elif isinstance(answer, Loaded):
            job = patch(self._loading.pop(number), answer.job)
            mirror.know("job", job)
            if answer.is_changed:
                self.job_loaded.emit(number, job)
        elif isinstance(answer, Issued):
            self.revision_made.emit(number, mirror.take("job", answer.job), answer.packed, answer.packed_plan)
        elif isinstance(answer, PlanReady):
            self.bundle_ready.emit(number, self._take_bundle(answer.bundle))
        elif isinstance(answer, EarlyReady):
            mirror.take("job", answer.job)
            self.early_ready.emit(number, self._take_bundle(answer.bundle))
        elif isinstance(answer, FindingsReady):
            self.findings_ready.emit(number, mirror.take("findings", answer.findings))
        elif isinstance(answer, SheetsReady):
            self.sheets_ready.emit(number, mirror.take("sheets", answer.sheets))
        elif isinstance(answer, WorkReady):
            self.work_ready.emit(number, mirror.take("work", answer.work))
        elif isinstance(answer, Refused):
            self.edit_refused.emit(number, answer.words)
        elif isinstance(answer, Failed):
            self.work_failed.emit(number, answer.report)
        elif isinstance(answer, Progress):
            self.progress_told.emit(number, answer.share)
        else:
            assert isinstance(answer, Told)
            self._asked.pop(number)(answer.value)

    def _take_bundle(self, delta: Delta) -> Bundle:
        bundle = self._mirror.take("bundle", delta)
        return Bundle(replace(bundle.plan, job=self._mirror["job"]), bundle.single_line)

    def stop(self) -> None:
        """End the process; nothing of it stays alive."""
        if self._helper is None or self._reader is None:
            return
        helper, self._helper = self._helper, None
        self._asked.clear()
        self._loading.clear()
        with contextlib.suppress(OSError):  # it has ended by itself
            helper.pipe.send_bytes(pack_end())
        helper.process.join(1)
        if helper.process.is_alive():
            helper.process.kill()
            helper.process.join()
        helper.process.close()
        self._reader.join(1)
        self._reader = None
        helper.pipe.close()
