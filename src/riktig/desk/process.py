"""Owns what runs in the one spawned process: it holds the present Job and does the long core work. Knows no Qt.

It applies edits in order, answers with the settled Job, then with what follows from it, the most wanted first; what a
newer message has overtaken is not computed.
"""

import contextlib
import time
import traceback
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import partial
from multiprocessing.connection import Connection
from typing import Any, cast

from riktig.desk.bundle import Bundle, bundle_of, make_bundle
from riktig.desk.deltas import Sender, diff
from riktig.desk.heap import collect_again, collect_seldom, hold_off, set_apart, tidy
from riktig.desk.inbox import Inbox
from riktig.desk.messages import (
    Apply,
    Ask,
    EarlyReady,
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
    Refused,
    Settled,
    SheetsReady,
    Told,
    Wish,
    WorkReady,
)
from riktig.desk.packing import quicken_all

ORDERS_BETWEEN = 25
"""So many edits without a pause leave some 10 MiB of circles behind."""
PROGRESS_S = 0.1
"""How often the window is told how far a long edit is."""


@dataclass(slots=True)
class Desk:
    """What the worker has before it: the present Job, its Plan once that is computed, and what the window has of both."""

    pipe: Inbox
    job: Any = None
    plan: Any = None
    sender: Sender = field(default_factory=Sender)
    watch: Any = None
    draw: Any = None
    """Draws the sheets of a Plan, unless something newer is wanted."""
    expected: tuple[Any, Any] | None = None
    """The Job that is to be loaded next, and as it settles; None if nobody said."""
    is_fresh: bool = False
    """Whether a Job was loaded and what follows from it is not sent yet."""


def serve(connection: Connection) -> None:
    """Answer wishes until the pipe closes. Python's collector passes where no wish comes for a while, in a long edit, and now and then
    where somebody edits without a pause.
    """
    collect_seldom()
    hold_off()
    desk = Desk(Inbox(connection))
    load_libraries()
    orders = 0
    while True:
        try:
            number, wish = desk.pipe.recv(on_idle=tidy)
        except (EOFError, KeyboardInterrupt):
            return
        try:
            _answer(desk, number, wish)
        except (BrokenPipeError, KeyboardInterrupt):
            return
        orders += not isinstance(wish, Ask)
        if orders % ORDERS_BETWEEN == 0:
            tidy()


def load_libraries() -> None:
    """Load what the first Plan needs, and the catalogue; what rules, sheets and work lists need is loaded behind it."""
    import numpy  # noqa: F401

    import riktig.catalogue.loader
    import riktig.checks.watched
    import riktig.drawings.single_line
    import riktig.plan.settle  # noqa: F401

    with contextlib.suppress(riktig.catalogue.loader.CatalogueError):  # comes again with the first job, and is told
        riktig.catalogue.loader.all_parts()
    quicken_all()


def _answer(desk: Desk, number: int, wish: Wish) -> None:
    """Answer one wish; after an order its Job is the present one."""
    from riktig.catalogue.loader import CatalogueError
    from riktig.job.faults import JobError
    from riktig.plan.arrange.search import Cancelled
    from riktig.standards.tables import TableError

    if isinstance(wish, Ask):
        _answer_question(desk, number, wish)
        return
    if isinstance(wish, Expect):
        _look_ahead(desk, wish.packed)
        return
    try:
        if isinstance(wish, Load):
            _load(desk, number, wish.job)
        elif isinstance(wish, Issue):
            _issue(desk, number, wish.name)
        else:
            _apply(desk, number, wish)
        _send_what_follows(desk, number)
    except (JobError, CatalogueError, TableError) as error:
        desk.pipe.send(Refused(number=number, words=str(error)))
    except Cancelled:
        desk.pipe.send(Refused(number=number, words="stopped: the plate stays as it was"))
    except BrokenPipeError:
        raise
    except Exception:  # noqa: BLE001 the worker's edge: the report travels to the window
        desk.pipe.send(Failed(number=number, report=traceback.format_exc()))


def _look_ahead(desk: Desk, packed: bytes) -> None:
    """Compute what follows from a Job that will be loaded. What is wrong with it is told when it is loaded."""
    from riktig.files.formats import read_job
    from riktig.job.model import Job
    from riktig.plan.settle import settle

    with contextlib.suppress(Exception):
        job = Job.model_validate(read_job(packed))
        desk.expected = job, settle(job)
        make_bundle(desk.expected[1], _watch_of(desk))


def _watch_of(desk: Desk) -> Any:
    from riktig.checks.watched import Watch

    if desk.watch is None:
        desk.watch = Watch()
    return desk.watch


def _load(desk: Desk, number: int, job: Any) -> None:
    """Take a Job that was kept as it settles now, so that window and command line plan the same; a window is told where an earlier
    version left something to settle.
    """
    from riktig.job.faults import JobError
    from riktig.plan.settle import settle

    desk.job = job
    expected, desk.expected = desk.expected, None
    try:
        if expected is not None and expected[0] == job:
            job, desk.job = expected
        else:
            desk.job = settle(job)
    except JobError as error:
        desk.pipe.send(Refused(number=number, words=str(error)))
    desk.sender.know("job", desk.job)
    desk.pipe.send(Loaded(number=number, job=diff(job, desk.job), is_changed=desk.job is not job))
    desk.is_fresh = True


def _apply(desk: Desk, number: int, wish: Apply) -> None:
    from riktig.files.formats import pack_job
    from riktig.plan.settle import begin_settling, settle_by

    edit: Any = wish.edit
    job = _take_time(desk, number, edit) if wish.takes_time else edit(desk.job)
    run = begin_settling(job)
    if wish.wants_early and desk.plan is not None and not desk.pipe.poll():
        _send_early(desk, number, job, run)
    desk.job = settle_by(run, job)
    desk.pipe.send(Settled(number=number, job=desk.sender.delta("job", desk.job), packed=pack_job(desk.job)))


def _send_early(desk: Desk, number: int, job: Any, run: Any) -> None:
    """Send what an edit does to motors, before the rest is computed."""
    from riktig.desk.early import early_plan

    bundle = bundle_of(early_plan(desk.plan, job, run), desk.watch)
    early = EarlyReady(
        number=number, job=desk.sender.delta("job", job), bundle=desk.sender.delta("bundle", without_job(bundle))
    )
    desk.pipe.send(early)


def _teller(desk: Desk, number: int) -> Callable[[float, float], bool]:
    """Return what tells the window how far a long wish is and what its work costs now, and returns whether to go on."""
    told = 0.0

    def go_on(share: float, cost: float) -> bool:
        nonlocal told
        now = time.monotonic()
        if now - told >= PROGRESS_S:
            told = now
            desk.pipe.send(Progress(number=number, share=share, cost=cost))
        return desk.pipe.stopped < number

    return go_on


def _take_time(desk: Desk, number: int, edit: LongEdit) -> Any:
    collect_again()
    try:
        return edit(desk.job, progress=_teller(desk, number))
    finally:
        hold_off()


def _ask_long(desk: Desk, number: int, question: LongQuestion) -> Any:
    from riktig.plan.arrange.search import Cancelled

    go_on = _teller(desk, number)

    def on_share(share: float) -> None:
        if not go_on(share, 0.0):
            raise Cancelled

    with contextlib.suppress(Cancelled):
        return question(desk.plan, on_share=on_share)
    return None


def _answer_question(desk: Desk, number: int, wish: Ask) -> None:
    """Answer a question about the Plan, with None if there is none yet, it does not fit the Job any more or it was stopped."""
    from riktig.job.faults import JobError

    answer, question = None, cast("Any", wish.question)
    try:
        if desk.plan is not None:
            answer = _ask_long(desk, number, question) if wish.takes_time else question(desk.plan)
    except (JobError, KeyError):  # the window asked about what an edit has taken away meanwhile
        pass
    except Exception:  # noqa: BLE001 the worker's edge: the report travels to the window
        desk.pipe.send(Failed(number=number, report=traceback.format_exc()))
    desk.pipe.send(Told(number=number, value=answer))


def _issue(desk: Desk, number: int, name: str) -> None:
    from riktig.files.formats import pack_job, pack_plan
    from riktig.files.plan_json import plan_to_dict
    from riktig.plan.making.release import issue_revision
    from riktig.plan.plan import compute_plan

    desk.job = issue_revision(desk.job, name)
    packed_plan = pack_plan(plan_to_dict(compute_plan(desk.job)))
    delta = desk.sender.delta("job", desk.job)
    desk.pipe.send(Issued(number=number, job=delta, packed=pack_job(desk.job), packed_plan=packed_plan))


def _send_what_follows(desk: Desk, number: int) -> None:
    """Send what follows from the present Job, the most wanted first; of each only what the window does not have yet."""
    pipe, sender = desk.pipe, desk.sender
    if pipe.poll():
        return
    bundle = make_bundle(desk.job, _watch_of(desk))
    desk.plan = bundle.plan
    pipe.send(PlanReady(number=number, bundle=sender.delta("bundle", without_job(bundle))))
    if not _is_overtaken(desk):
        _send_the_rest(desk, number, bundle.plan)


def _send_the_rest(desk: Desk, number: int, plan: Any) -> None:
    """Send findings, sheets and work of the present Plan, until something newer is wanted."""
    from riktig.checks.run import find_all
    from riktig.drawings.sheet_set import NotWanted, draw_sheets
    from riktig.record.progress import list_work

    pipe, sender = desk.pipe, desk.sender
    findings = find_all(plan, desk.watch)
    pipe.send(FindingsReady(number=number, findings=sender.delta("findings", findings)))
    if _is_overtaken(desk):
        return
    if desk.draw is None:
        desk.draw = partial(draw_sheets, is_wanted=lambda: not _is_overtaken(desk))
    try:
        sheets = desk.watch.ask(desk.draw, plan)
    except NotWanted:
        return
    pipe.send(SheetsReady(number=number, sheets=sender.delta("sheets", sheets)))
    if _is_overtaken(desk):
        return
    pipe.send(WorkReady(number=number, work=sender.delta("work", desk.watch.ask(list_work, plan))))
    if desk.is_fresh:
        desk.is_fresh = False
        set_apart()
        quicken_all()


def without_job(bundle: Bundle) -> Bundle:
    """Return a bundle without its Job, which the window has already."""
    return Bundle(replace(bundle.plan, job=None), bundle.single_line)  # type: ignore[arg-type]


def _is_overtaken(desk: Desk) -> bool:
    """Answer what is asked, and return whether a newer order waits."""
    while (asked := desk.pipe.question()) is not None:
        _answer(desk, *asked)
    return desk.pipe.poll()
