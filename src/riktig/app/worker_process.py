"""Owns what runs in the one spawned process: it holds the present Job and does the long core work. Knows no Qt.

It applies edits in order, answers with the settled Job, then with what follows from it, the most wanted first; what a
newer message has overtaken is not computed.
"""

import multiprocessing
import pickle
import queue
import threading
import traceback
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from riktig.checks.finding import Finding
    from riktig.drawings.display import Drawing
    from riktig.job.model import Job
    from riktig.plan.plan import Plan

Edit = Callable[["Job"], "Job"]
Message = tuple[str, int, Any]


@dataclass(frozen=True, slots=True)
class Bundle:
    """What screens show of a Job first: the Plan, its findings, the single-line diagram and the plate."""

    plan: "Plan"
    findings: "tuple[Finding, ...]"
    single_line: "Drawing"
    plate: "Drawing"


@dataclass(frozen=True, slots=True)
class Helper:
    """The process and this side's end of the pipe to it."""

    process: Any
    pipe: Connection


def start_helper() -> Helper:
    """Start the process; it loads its libraries while the window is being built."""
    context = multiprocessing.get_context("spawn")
    near, far = context.Pipe()
    process = context.Process(target=serve, args=(far,), daemon=True, name="riktig-worker")
    process.start()
    far.close()
    return Helper(process, near)


def make_bundle(job: "Job") -> Bundle:
    """Return what is shown first of a settled Job."""
    from riktig.checks.run import find_all
    from riktig.drawings.plate import draw_plate
    from riktig.drawings.single_line import draw_single_line
    from riktig.plan.plan import compute_plan

    plan = compute_plan(job)
    return Bundle(plan, find_all(plan), draw_single_line(plan), draw_plate(plan))


class Inbox:
    """The worker's side of the pipe. A thread takes messages off it at once, so that the window never waits to send one."""

    def __init__(self, pipe: Connection) -> None:
        self._pipe = pipe
        self._queue: queue.SimpleQueue[bytes | None] = queue.SimpleQueue()
        self.send = pipe.send
        threading.Thread(target=self._read, daemon=True, name="riktig-inbox").start()

    def _read(self) -> None:
        try:
            while True:
                self._queue.put(self._pipe.recv_bytes())
        except (EOFError, OSError):
            self._queue.put(None)

    def recv(self) -> Message:
        """Return the next message.

        Raises:
            EOFError: the window is gone.
        """
        raw = self._queue.get()
        if raw is None:
            raise EOFError
        message: Message = pickle.loads(raw)
        return message

    def poll(self) -> bool:
        """Return whether a newer message waits."""
        return not self._queue.empty()


def serve(connection: Connection) -> None:
    """Answer messages until the pipe closes."""
    pipe = Inbox(connection)
    _load_libraries()
    job: Any = None
    while True:
        try:
            message = pipe.recv()
        except (EOFError, KeyboardInterrupt):
            return
        try:
            job = _answer(pipe, message, job)
        except (BrokenPipeError, KeyboardInterrupt):
            return


def _load_libraries() -> None:
    import scipy.sparse.csgraph  # noqa: F401

    import riktig.catalogue.loader
    import riktig.checks.run
    import riktig.drawings.circuit
    import riktig.drawings.single_line
    import riktig.plan.settle
    import riktig.record.progress  # noqa: F401

    riktig.catalogue.loader.all_parts()


def _answer(pipe: Inbox, message: Message, job: Any) -> Any:
    """Answer one message and return the Job that is the present one after it."""
    from riktig.job.validate import JobError

    kind, number, value = message
    try:
        if kind == "load":
            job = value
        elif kind == "issue":
            job = _issue(pipe, number, job, value)
        else:
            from riktig.plan.settle import settle

            job = settle(value(job))
            pipe.send(("job", number, job))
        _send_what_follows(pipe, number, job)
    except JobError as error:
        pipe.send(("refused", number, str(error)))
    except BrokenPipeError:
        raise
    except Exception:  # noqa: BLE001 the worker's edge: the report travels to the window
        pipe.send(("failed", number, traceback.format_exc()))
    return job


def _issue(pipe: Inbox, number: int, job: Any, name: str) -> Any:
    from riktig.files.plan_json import plan_to_dict
    from riktig.plan.plan import compute_plan
    from riktig.plan.settle import issue_revision

    issued = issue_revision(job, name)
    pipe.send(("issued", number, (issued, plan_to_dict(compute_plan(issued)))))
    return issued


def _send_what_follows(pipe: Inbox, number: int, job: Any) -> None:
    from riktig.drawings.circuit import draw_sheets
    from riktig.record.progress import list_work

    if pipe.poll():
        return
    bundle = make_bundle(job)
    pipe.send(("bundle", number, bundle))
    for kind, make in (("sheets", draw_sheets), ("work", list_work)):
        if pipe.poll():
            return
        pipe.send((kind, number, make(bundle.plan)))
