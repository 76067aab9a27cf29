"""The worker at its end of the pipe: what it answers, whatever the window let it expect."""

import threading
from collections.abc import Callable, Iterator
from multiprocessing import Pipe
from typing import Any

import pytest

from riktig.desk.deltas import patch
from riktig.desk.inbox import pack_end, pack_wish
from riktig.desk.messages import Expect, Load, Loaded, PlanReady, Wish, WorkReady
from riktig.desk.process import serve
from riktig.files.formats import pack_job
from riktig.job.edits import change_starter
from riktig.job.ledger import Ledger
from riktig.job.model import Job
from riktig.plan.plan import compute_plan
from riktig.plan.settle import settle
from support import demo_text, job_of, small_text

Told = Callable[[Wish], list[Any]]


@pytest.fixture
def tell() -> Iterator[Told]:
    """Return what the worker answers to wishes, up to the last thing that follows from a Job."""
    near, far = Pipe()
    thread = threading.Thread(target=serve, args=(far,), daemon=True)
    thread.start()

    def answers(*wishes: Wish) -> list[Any]:
        for number, wish in enumerate(wishes):
            near.send_bytes(pack_wish(number, wish))
        found = []
        while not found or not isinstance(found[-1], WorkReady):
            assert near.poll(30)
            found.append(near.recv())
        return found

    yield answers
    near.send_bytes(pack_end())
    thread.join(10)


def unsettled(text: str) -> Job:
    """Return a Job that leaves something to settle, as an earlier version may have kept it."""
    return job_of(text).model_copy(update={"ledger": Ledger()})


@pytest.mark.parametrize("expected", ["the same", "another", "damaged", "none"])
@pytest.mark.parametrize("job", [settle(job_of(demo_text("ul"))), unsettled(small_text())])
def test_a_job_is_loaded_alike_whatever_was_expected(tell: Told, job: Job, expected: str) -> None:
    other = change_starter(job, job.starters[0].name, title="another")
    packed = {"the same": pack_job(job), "another": pack_job(other), "damaged": b"no job"}.get(expected)
    ahead = [Expect(packed)] if packed is not None else []
    loaded, planned = tell(*ahead, Load(job))[:2]
    assert isinstance(loaded, Loaded) and isinstance(planned, PlanReady)
    settled = settle(job)
    assert patch(job, loaded.job) == settled
    assert loaded.is_changed == (settled != job)
    assert patch(None, planned.bundle).plan.conductors == compute_plan(settled).conductors
