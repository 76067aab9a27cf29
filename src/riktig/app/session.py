"""Owns the open job: file, Job, what follows from it, and the Record. Screens read it and send it edits."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from PySide6.QtCore import QObject, QTimer, Signal

from riktig.app.follower import Follower
from riktig.app.kept_scripts import KeptScripts
from riktig.app.long_work import LongWork
from riktig.app.record_keeper import RecordKeeper
from riktig.app.worker import PROCESS_ENDED, Worker
from riktig.desk.bundle import Bundle
from riktig.desk.helper import Helper
from riktig.desk.messages import Edit, LongEdit
from riktig.files.job_access import JobFileError
from riktig.files.job_file import JobFile

if TYPE_CHECKING:
    from riktig.checks.finding import Finding
    from riktig.drawings.display import Drawing
    from riktig.job.model import Job

Result = TypeVar("Result")
PARTS = ("bundle", "findings", "sheets", "work")
"""What follows from a Job, in the order in which it comes."""
MOST_ENDS = 3
"""So often the worker process is started again when it ends without an answer."""


class Session(QObject):
    """The open job. Edits go to the worker and are stored when they come back settled."""

    job_changed = Signal(object)
    bundle_changed = Signal(object)
    early_found = Signal(object)
    """What an edit under way does to motors; all else in it is as it was."""
    findings_changed = Signal(object)
    sheets_changed = Signal(object)
    stale_changed = Signal(object)
    kept = Signal(str)
    taken_over = Signal()
    """This window may change the Job now: the other one has closed it."""
    refused = Signal(str)
    failed = Signal(str)

    def __init__(self, helper: Helper | None = None, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.worker = Worker(helper, self)
        self.long = LongWork(self.worker, self)
        self.file: JobFile | None = None
        self.job: Job | None = None
        self.bundle: Bundle | None = None
        self.findings: tuple[Finding, ...] = ()
        self.sheets: tuple[Drawing, ...] = ()
        self.scripts = KeptScripts(self.worker, self)
        self.record = RecordKeeper(self.refused.emit, self)
        self.wants_early = False
        """Whether the open bench shows what an edit does to motors before the rest is there."""
        self._gestures: dict[int, str] = {}
        self.unkept: tuple[bytes, str] | None = None
        """The newest edit and its gesture, where the file could not take it."""
        self._latest = 0
        self._ends = 0
        self._since = 0
        self._shown = dict.fromkeys(PARTS, 0)
        self._waiting: list[Callable[[], object]] = []
        self._follower = Follower(self)
        self._follower.job_found.connect(self._take_job)
        self._follower.events_found.connect(self.record.follow)
        self._follower.lost.connect(self.refused)
        self._follower.taken_over.connect(self.taken_over)
        self.record.stored.connect(self.kept)
        self.worker.job_settled.connect(self._on_worker_job_settled)
        self.worker.job_loaded.connect(self._on_worker_job_loaded)
        self.worker.revision_made.connect(self._on_worker_revision_made)
        for part, ready in (
            ("early", self.worker.early_ready),
            ("bundle", self.worker.bundle_ready),
            ("findings", self.worker.findings_ready),
            ("sheets", self.worker.sheets_ready),
            ("work", self.worker.work_ready),
        ):
            ready.connect(partial(self._take_part, part))
        self.worker.edit_refused.connect(self._on_worker_edit_refused)
        self.worker.work_failed.connect(self._on_worker_work_failed)

    @property
    def is_read_only(self) -> bool:
        """Whether another window has the job open for writing."""
        return self.file is not None and self.file.is_read_only

    @property
    def is_stale(self) -> bool:
        """Whether anything that is shown is older than the Job."""
        return bool(self.stale_parts)

    @property
    def stale_parts(self) -> frozenset[str]:
        """Which of the parts are older than the Job."""
        if self._gestures or self._waiting or self.bundle is None:
            return frozenset(self._shown)
        return frozenset(part for part, number in self._shown.items() if number < self._latest)

    def open(self, file: JobFile) -> None:
        """Take over an open job file; an older one is closed.

        Raises:
            JobFileError: something in the file cannot be read; what is open stays open.
        """
        try:
            self.worker.expect(file.load_packed())
            job, events, seen = file.load_job(), file.events(), file.version()
        except JobFileError:
            file.close()
            raise
        self._close_file()
        self.file, self.bundle, self.findings, self.sheets = file, None, (), ()
        self.record.take_file(file, events)
        self._take_job(job)
        self._follower.follow(file, seen)

    def _take_job(self, job: "Job") -> None:
        self.job = job
        self._latest = self._since = self.worker.load(job)
        self.job_changed.emit(job)
        self.stale_changed.emit(self.stale_parts)

    def close(self) -> None:
        """Close the file and end the worker."""
        self._waiting.clear()
        self._close_file()
        self.worker.stop()

    def _close_file(self) -> None:
        self._follower.stop()
        self.scripts.play(None)
        self._gestures.clear()
        self.unkept = None
        if self.file is not None:
            self.file.close()
            self.file = None
            self.record.take_file(None, ())

    # -- the Job

    def apply(self, edit: Edit | LongEdit, gesture: str, *, takes_time: bool = False) -> None:
        """Send an edit to the worker; it is stored when it comes back settled. Without an open job nothing is sent.

        How far one is that takes its time, `long` tells.
        """
        if self.file is None:
            return
        if self.is_read_only:
            self.refused.emit("this job is open in another window: this one only looks on")
            return
        self._latest = self.worker.edit(edit, takes_time=takes_time, wants_early=self.wants_early)
        if takes_time:
            self.long.begin(self._latest)
        self._gestures[self._latest] = gesture
        self.stale_changed.emit(self.stale_parts)

    def show_ahead(self, bundle: Bundle) -> None:
        """Show what follows at once from an edit that is under way; what the worker makes of it, and finds in it, comes after."""
        self.bundle = bundle
        self.bundle_changed.emit(bundle)

    def issue(self, name: str) -> None:
        """Issue a revision: the ledger is frozen and the Plan kept as it is now."""
        if self.is_read_only:
            self.refused.emit("this job is open in another window: this one only looks on")
            return
        self._latest = self.worker.issue(name)
        self._gestures[self._latest] = f"issue revision {name}"
        self.stale_changed.emit(self.stale_parts)

    def _on_worker_job_loaded(self, number: int, job: "Job") -> None:
        """Go on with a Job as it settles now; it is stored with the next edit."""
        if self._is_ours(number):
            self.job = job
            self.job_changed.emit(job)

    def _on_worker_revision_made(self, number: int, job: "Job", packed: bytes, plan: bytes) -> None:
        self._gestures.pop(number, None)
        file = self.file
        if file is None or not self._is_ours(number):
            return
        time = _guarded(self, lambda: file.issue_packed(job.revision or "", packed, plan))
        if time is None:
            if self.job is not None:
                self._take_job(self.job)
        else:
            self.job = job
            self.kept.emit(time)
            self.job_changed.emit(job)
        self._run_waiting()

    def undo(self) -> None:
        """Take back the last gesture."""
        self.when_idle(lambda: self._step(back=True))

    def redo(self) -> None:
        """Bring the last gesture again."""
        self.when_idle(lambda: self._step(back=False))

    def _step(self, *, back: bool) -> None:
        if self.file is None:
            return
        job = _guarded(self, self.file.undo if back else self.file.redo)
        if job is not None:
            self.unkept = None
            self._take_job(job)
            self.kept.emit("")

    @property
    def is_keeping(self) -> bool:
        """Whether an edit is under way that is not on disk yet."""
        return bool(self._gestures)

    def when_idle(self, action: Callable[[], object]) -> None:
        """Call `action` as soon as no edit is under way and all that waited before it is done."""
        if self._gestures or self._waiting:
            self._waiting.append(action)
        else:
            action()

    def _is_ours(self, number: int) -> bool:
        """Return whether an answer belongs to the job that is open, and not to one that was open before."""
        return self.file is not None and number >= self._since

    def _on_worker_job_settled(self, number: int, job: "Job", packed: bytes) -> None:
        gesture = self._gestures.pop(number, "edit")
        file = self.file
        if file is None or not self._is_ours(number):
            return
        self.job = job
        time = _guarded(self, lambda: file.keep_packed(packed, gesture))
        self.unkept = (packed, gesture) if time is None else None
        if time is not None:
            self.kept.emit(time)
        self.job_changed.emit(job)
        self._run_waiting()

    def _run_waiting(self) -> None:
        """Do the first of what waits, the next one in another turn: steps back that a person asked for while an edit took its time."""
        if self._waiting and not self._gestures:
            action = self._waiting[0]
            try:
                action()
            finally:  # only now, so that what is asked for meanwhile comes behind it
                if self._waiting and self._waiting[0] is action:
                    del self._waiting[0]
            if self._waiting:
                QTimer.singleShot(0, self._run_waiting)

    def _take_part(self, part: str, number: int, made: Any) -> None:
        """Show what follows, unless a newer edit has overtaken it."""
        if part == "early":
            if number == self._latest:
                self.early_found.emit(made)
            return
        if not self._is_newest(part, number):
            return
        if part == "bundle":
            self.bundle = made
            self.bundle_changed.emit(made)
        elif part == "findings":
            self.findings = made
            self.findings_changed.emit(made)
        elif part == "sheets":
            self.sheets = made
            self.sheets_changed.emit(made)
        else:
            self.record.take_work(made)
            self.scripts.play(self.job)
        self.stale_changed.emit(self.stale_parts)

    def _is_newest(self, part: str, number: int) -> bool:
        if number < self._latest:
            return False
        self._shown[part] = number
        self._ends = 0
        return True

    def _on_worker_edit_refused(self, number: int, message: str) -> None:
        was_edit = self._gestures.pop(number, None) is not None
        if was_edit and number == self._latest and self.job is not None:
            self._latest = self.worker.load(self.job)
        self.refused.emit(message)
        if self.job is not None:
            self.job_changed.emit(self.job)
        self.stale_changed.emit(self.stale_parts)
        self._run_waiting()

    def _on_worker_work_failed(self, number: int, report: str) -> None:
        """Go on from the last Job that was kept; a load that fails is not tried again, and newer edits follow on their own."""
        was_edit = self._gestures.pop(number, None) is not None
        has_ended = report == PROCESS_ENDED
        if has_ended:
            self._gestures.clear()
            self._ends += 1
        self.failed.emit(report)
        if self._ends > MOST_ENDS:
            self.refused.emit(
                "what computes here ends again and again: close Riktig and start it anew; the job is kept as it was"
            )
        elif self.job is not None and ((was_edit and number == self._latest) or has_ended):
            self._latest = self.worker.load(self.job)
        self._run_waiting()


def _guarded(session: Session, action: Callable[[], Result]) -> Result | None:
    """Return what an action on the file comes to, None where the file refuses; the session then says why."""
    try:
        return action()
    except JobFileError as error:
        session.refused.emit(str(error))
        return None


def save_copy(session: Session, target: Path) -> None:
    """Copy the open file whole, with the newest edit even if the file could not take that; without its record where that cannot be read
    any more.

    Raises:
        JobFileError: the copy cannot be made.
    """
    assert session.file is not None and session.job is not None
    try:
        session.file.copy_to(target)
    except JobFileError:
        if target.exists() or not target.parent.is_dir():
            raise
        JobFile.create(target, session.job).close()
    if session.unkept is not None:
        with JobFile.open(target) as copy:
            copy.keep_packed(*session.unkept)
