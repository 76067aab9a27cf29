"""Owns what runs in the one spawned process: it holds the present Job and does the long core work. Knows no Qt.

It applies edits in order, answers with the settled Job, then with what follows from it, the most wanted first; what a
newer message has overtaken is not computed.
"""

import contextlib
import multiprocessing
import pickle
import threading
import time
import traceback
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from multiprocessing.connection import Connection
from typing import TYPE_CHECKING, Any, Protocol

if TYPE_CHECKING:
    from riktig.checks.finding import Finding
    from riktig.drawings.display import Drawing
    from riktig.drawings.size_charts import Charts
    from riktig.job.model import Job
    from riktig.plan.panel import PanelTotals
    from riktig.plan.plan import Plan
    from riktig.plan.what_if import SizeChange, Wish

Edit = Callable[["Job"], "Job"]
Question = Callable[["Plan"], Any]
"""What is asked of the present Plan; it and its answer travel through the pipe."""
QUESTION, ORDER, STOP = b"q", b"o", b"s"
PROGRESS_S = 0.1
"""How often the window is told how far a long edit is."""
Message = tuple[str, int, Any]


class LongEdit(Protocol):
    """An edit that takes its time: it tells how far it is and what it costs, and stops where it is told not to go on."""

    def __call__(self, job: "Job", /, *, progress: Callable[[float, float], bool]) -> "Job": ...


@dataclass(frozen=True)
class Bundle:
    """What screens show of a Job first: the Plan, its findings and the single-line diagram. Plate and door are drawn where they are
    first asked for: that takes less time than to send them.
    """

    plan: "Plan"
    findings: "tuple[Finding, ...]"
    single_line: "Drawing"

    @cached_property
    def plate(self) -> "Drawing":
        """Plate and door."""
        from riktig.drawings.plate import draw_plate

        return draw_plate(self.plan)

    @cached_property
    def plate_alone(self) -> "Drawing":
        """The plate without the door."""
        from riktig.drawings.plate import draw_plate

        return draw_plate(self.plan, with_door=False)

    @cached_property
    def door(self) -> "Drawing":
        """The door with centre lines."""
        from riktig.drawings.door import draw_door

        return draw_door(self.plan)


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
    from riktig.drawings.single_line import draw_single_line
    from riktig.plan.plan import compute_plan

    plan = compute_plan(job)
    return Bundle(plan, find_all(plan), draw_single_line(plan))


@dataclass(frozen=True, slots=True, kw_only=True)
class Outlook:
    """What screens show of a what-if: the wish, sizes that change, parts that are missing, totals, findings that come and go."""

    wish: "Wish"
    changes: "tuple[SizeChange, ...]"
    parts: "tuple[SizeChange, ...]"
    unmet: tuple[tuple[str, str], ...]
    panel: "PanelTotals"
    new: "tuple[Finding, ...]"
    gone: "tuple[Finding, ...]"
    charts: "Charts"


def make_outlook(plan: "Plan", wish: "Wish", starter: str | None) -> Outlook:
    """Return what a wish would do, with the charts of it; `starter` is the motor whose feeder is drawn.

    Raises:
        JobError: the wish does not fit.
        KeyError: there is no such starter.
    """
    from riktig.checks.run import find_all
    from riktig.drawings.size_charts import draw_charts
    from riktig.plan.what_if import look_ahead

    outcome = look_ahead(plan, wish)
    before, after = ({(f.rule, f.subject): f for f in find_all(p)} for p in (plan, outcome.plan))
    return Outlook(
        wish=wish, changes=outcome.changes, parts=outcome.parts, unmet=outcome.unmet, panel=outcome.plan.panel,
        new=tuple(f for key, f in after.items() if key not in before),
        gone=tuple(f for key, f in before.items() if key not in after),
        charts=draw_charts(outcome.plan, starter),
    )  # fmt: skip


class Inbox:
    """The worker's side of the pipe. A thread takes messages off it at once, so that the window never waits to send one.

    Questions stand in a queue of their own: they overtake what follows from a Job, and make nothing of it be skipped.
    """

    def __init__(self, pipe: Connection) -> None:
        self._pipe = pipe
        self._news = threading.Condition()
        self._orders: deque[bytes | None] = deque()
        self._questions: deque[bytes] = deque()
        self.stopped = 0
        self.send = pipe.send
        threading.Thread(target=self._read, daemon=True, name="riktig-inbox").start()

    def _read(self) -> None:
        try:
            while True:
                raw = self._pipe.recv_bytes()
                if raw[:1] == STOP:
                    self.stopped = int(raw[1:])
                    continue
                self._put(self._questions if raw[:1] == QUESTION else self._orders, raw)
        except (EOFError, OSError):
            self._put(self._orders, None)

    def _put(self, queue: Any, raw: bytes | None) -> None:
        with self._news:
            queue.append(raw)
            self._news.notify()

    def recv(self) -> Message:
        """Return the next message, orders first.

        Raises:
            EOFError: the window is gone.
        """
        with self._news:
            self._news.wait_for(lambda: self._orders or self._questions)
            raw = self._orders.popleft() if self._orders else self._questions.popleft()
        if raw is None:
            raise EOFError
        message: Message = pickle.loads(raw[1:])
        return message

    def question(self) -> Message | None:
        """Return the next question that waits, None if none does."""
        with self._news:
            raw = self._questions.popleft() if self._questions else None
        return None if raw is None else pickle.loads(raw[1:])

    def poll(self) -> bool:
        """Return whether a newer order waits."""
        return bool(self._orders)


def pack_message(kind: str, number: int, value: Any) -> bytes:
    """Return a message as it goes through the pipe: what sort it is, and the rest pickled."""
    return (QUESTION if kind == "ask" else ORDER) + pickle.dumps((kind, number, value))


def pack_stop(number: int) -> bytes:
    """Return the wish that the long edit of that number should stop."""
    return STOP + str(number).encode()


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
    from riktig.job.validate import JobError
    from riktig.plan.arrange import Cancelled
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
    from riktig.job.validate import JobError
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
    from riktig.job.validate import JobError

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
