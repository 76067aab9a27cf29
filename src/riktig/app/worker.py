"""Owns the one spawned process that does long core work, and the pipe to it. Must not know widgets.

The worker holds the present Job. It applies edits in order, answers with the settled Job, and then with the bundle of
all that follows; a bundle that a newer edit has overtaken is not computed.
"""

import multiprocessing
import traceback
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import Any

from PySide6.QtCore import QObject, QSocketNotifier, Signal

from riktig.job.model import Job

Edit = Callable[[Job], Job]


@dataclass(frozen=True, slots=True)
class Bundle:
    """All that screens show of a Job: plan, drawings, findings and the work to do."""

    plan: Any
    sheets: tuple[Any, ...]
    plate: Any
    single_line: Any
    findings: tuple[Any, ...]
    work: Any


def make_bundle(job: Job) -> Bundle:
    """Return everything that follows from a settled Job."""
    from riktig.checks.run import find_all
    from riktig.drawings.circuit import draw_sheets
    from riktig.drawings.plate import draw_plate
    from riktig.drawings.single_line import draw_single_line
    from riktig.plan.plan import compute_plan
    from riktig.record.progress import list_work

    plan = compute_plan(job)
    return Bundle(plan, draw_sheets(plan), draw_plate(plan), draw_single_line(plan), find_all(plan), list_work(plan))


def serve(pipe: Connection) -> None:
    """Answer messages until the pipe closes; runs in the worker process."""
    from riktig.files.plan_json import plan_to_dict
    from riktig.job.validate import JobError
    from riktig.plan.plan import compute_plan
    from riktig.plan.settle import issue_revision, settle

    job: Any = None
    while True:
        try:
            kind, number, value = pipe.recv()
        except EOFError:
            return
        try:
            if kind == "load":
                job = value
            elif kind == "issue":
                job = issue_revision(job, value)
                pipe.send(("issued", number, (job, plan_to_dict(compute_plan(job)))))
            else:
                job = settle(value(job))
                pipe.send(("job", number, job))
            if not pipe.poll():
                pipe.send(("bundle", number, make_bundle(job)))
        except JobError as error:
            pipe.send(("refused", number, str(error)))
        except (EOFError, BrokenPipeError, KeyboardInterrupt):
            return
        except Exception:  # noqa: BLE001 the worker's edge: the report travels to the window
            pipe.send(("failed", number, traceback.format_exc()))


class Worker(QObject):
    """The worker process as the window sees it; started on the first message."""

    job_settled = Signal(int, object)
    revision_made = Signal(int, object)
    bundle_ready = Signal(int, object)
    edit_refused = Signal(int, str)
    work_failed = Signal(int, str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._process: Any = None
        self._pipe: Connection | None = None
        self._notifier: QSocketNotifier | None = None
        self._number = 0

    def start(self) -> None:
        """Start the process if it does not run."""
        if self._process is not None:
            return
        context = multiprocessing.get_context("spawn")
        self._pipe, far = context.Pipe()
        self._process = context.Process(target=serve, args=(far,), daemon=True, name="riktig-worker")
        self._process.start()
        far.close()
        self._notifier = QSocketNotifier(self._pipe.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._on_pipe_readable)

    def load(self, job: Job) -> int:
        """Make a settled Job the present one; return the number of the request."""
        return self._send("load", job)

    def edit(self, edit: Edit) -> int:
        """Apply an edit to the present Job; return the number of the request."""
        return self._send("edit", edit)

    def issue(self, name: str) -> int:
        """Release the present Job under a revision name; return the number of the request."""
        return self._send("issue", name)

    def _send(self, kind: str, value: object) -> int:
        self.start()
        assert self._pipe is not None
        self._number += 1
        self._pipe.send((kind, self._number, value))
        return self._number

    def _on_pipe_readable(self) -> None:
        assert self._pipe is not None
        try:
            kind, number, value = self._pipe.recv()
        except (EOFError, OSError):
            self.stop()
            self.work_failed.emit(self._number, "the worker process ended unexpectedly")
            return
        signals = {
            "job": self.job_settled,
            "issued": self.revision_made,
            "bundle": self.bundle_ready,
            "refused": self.edit_refused,
            "failed": self.work_failed,
        }
        signals[kind].emit(number, value)

    def stop(self) -> None:
        """End the process; nothing of it stays alive."""
        if self._process is None:
            return
        assert self._notifier is not None and self._pipe is not None
        self._notifier.setEnabled(False)
        self._notifier.deleteLater()
        self._pipe.close()
        self._process.join(1)
        if self._process.is_alive():
            self._process.kill()
            self._process.join()
        self._process.close()
        self._process = self._pipe = self._notifier = None
