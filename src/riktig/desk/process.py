"""Owns what runs in the one spawned process: it holds the present Job and does the long core work. Knows no Qt.

It applies edits in order, answers with the settled Job, then with what follows from it, the most wanted first; what a
newer message has overtaken is not computed.
"""

import contextlib
import multiprocessing
import time
import traceback
from collections.abc import Callable
from dataclasses import dataclass
from multiprocessing.connection import Connection
from typing import TYPE_CHECKING, Any, Protocol

from riktig.desk.bundle import make_bundle
from riktig.desk.inbox import Inbox, Message

if TYPE_CHECKING:
    from riktig.job.model import Job
    from riktig.plan.plan import Plan

Edit = Callable[["Job"], "Job"]
Question = Callable[["Plan"], Any]
"""What is asked of the present Plan; it and its answer travel through the pipe."""
PROGRESS_S = 0.1
"""How often the window is told how far a long edit is."""


class LongEdit(Protocol):
    """An edit that takes its time: it tells how far it is and what it costs, and stops where it is told not to go on."""

    def __call__(self, job: "Job", /, *, progress: Callable[[float, float], bool]) -> "Job": ...


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


@dataclass(slots=True)
class Desk:
    """What the worker has before it: the present Job, and its Plan once that is computed."""

    pipe: Inbox
    job: Any = None
    plan: Any = None


def serve(connection: Connection) -> None:
    """Answer messages until the pipe closes."""
    desk = Desk(Inbox(connection))
    _load_libraries()
    while True:
        try:
            message = desk.pipe.recv()
        except (EOFError, KeyboardInterrupt):
            return
        try:
            _answer(desk, message)
        except (BrokenPipeError, KeyboardInterrupt):
            return


def _load_libraries() -> None:
    import scipy.sparse.csgraph  # noqa: F401

    import riktig.catalogue.loader
    import riktig.checks.run
    import riktig.drawings.sheet_set
    import riktig.drawings.single_line
    import riktig.plan.settle
    import riktig.record.progress  # noqa: F401

    with contextlib.suppress(riktig.catalogue.loader.CatalogueError):  # comes again with the first job, and is told
        riktig.catalogue.loader.all_parts()


def _answer(desk: Desk, message: Message) -> None:
    """Answer one message; after an order its Job is the present one."""
    from riktig.catalogue.loader import CatalogueError
    from riktig.job.faults import JobError
    from riktig.plan.arrange.search import Cancelled
    from riktig.standards.tables import TableError

    kind, number, value = message
    pipe = desk.pipe
    if kind == "ask":
        _answer_question(desk, number, value)
        return
    try:
        if kind == "load":
            desk.job = _load(pipe, number, value)
        elif kind == "issue":
            desk.job = _issue(pipe, number, desk.job, value)
        else:
            from riktig.plan.settle import settle

            job = _take_time(pipe, number, desk.job, value) if kind == "long" else value(desk.job)
            desk.job = settle(job)
            pipe.send(("job", number, desk.job))
        _send_what_follows(desk, number)
    except (JobError, CatalogueError, TableError) as error:
        pipe.send(("refused", number, str(error)))
    except Cancelled:
        pipe.send(("refused", number, "stopped: the plate stays as it was"))
    except BrokenPipeError:
        raise
    except Exception:  # noqa: BLE001 the worker's edge: the report travels to the window
        pipe.send(("failed", number, traceback.format_exc()))


def _load(pipe: Inbox, number: int, job: Any) -> Any:
    """Return a Job that was kept as it settles now, so that window and command line plan the same; a window is told where an earlier
    version left something to settle.
    """
    from riktig.job.faults import JobError
    from riktig.plan.settle import settle

    try:
        settled = settle(job)
    except JobError as error:
        pipe.send(("refused", number, str(error)))
        return job
    if settled is not job:
        pipe.send(("loaded", number, settled))
    return settled


def _take_time(pipe: Inbox, number: int, job: Any, edit: LongEdit) -> Any:
    """Return the Job after a long edit, telling the window how far it is."""
    told = 0.0

    def go_on(share: float, cost: float) -> bool:
        nonlocal told
        now = time.monotonic()
        if now - told >= PROGRESS_S:
            told = now
            pipe.send(("progress", number, (share, cost)))
        return pipe.stopped < number

    return edit(job, progress=go_on)


def _answer_question(desk: Desk, number: int, question: Question) -> None:
    """Answer a question about the Plan, with None if there is none yet or it does not fit the Job any more."""
    from riktig.job.faults import JobError

    answer = None
    try:
        answer = question(desk.plan) if desk.plan is not None else None
    except (JobError, KeyError):  # the window asked about what an edit has taken away meanwhile
        pass
    except Exception:  # noqa: BLE001 the worker's edge: the report travels to the window
        desk.pipe.send(("failed", number, traceback.format_exc()))
    desk.pipe.send(("answer", number, answer))


def _issue(pipe: Inbox, number: int, job: Any, name: str) -> Any:
    from riktig.files.plan_json import plan_to_dict
    from riktig.plan.plan import compute_plan
    from riktig.plan.settle import issue_revision

    issued = issue_revision(job, name)
    pipe.send(("issued", number, (issued, plan_to_dict(compute_plan(issued)))))
    return issued


def _send_what_follows(desk: Desk, number: int) -> None:
    from riktig.drawings.sheet_set import draw_sheets
    from riktig.record.progress import list_work

    pipe = desk.pipe
    if pipe.poll():
        return
    bundle = make_bundle(desk.job)
    desk.plan = bundle.plan
    pipe.send(("bundle", number, bundle))
    for kind, make in (("sheets", draw_sheets), ("work", list_work)):
        while (asked := pipe.question()) is not None:
            _answer(desk, asked)
        if pipe.poll():
            return
        pipe.send((kind, number, make(bundle.plan)))
