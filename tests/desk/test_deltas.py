"""What the window has after any deltas is what the worker has, and only what changed is sent."""

import pickle
import random
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from panels import panel_text
from person import random_edit
from riktig.checks.run import find_all
from riktig.desk.bundle import make_bundle
from riktig.desk.deltas import Receiver, Same, Sender, diff, patch
from riktig.desk.process import without_job
from riktig.drawings.sheet_set import draw_sheets
from riktig.files.brief_reader import parse_brief
from riktig.job.edits import change_starter
from riktig.plan.settle import settle
from riktig.record.progress import list_work
from support import demo_text, job_of

ENTRIES = st.dictionaries(st.integers(0, 40), st.text(max_size=3), min_size=16, max_size=40)


@given(ENTRIES, ENTRIES)
def test_a_mapping_and_a_tuple_come_out_equal_and_in_order(old: dict[int, str], new: dict[int, str]) -> None:
    found = patch(old, diff(old, new))
    assert found == new and list(found) == list(new)
    rows = tuple(new.items())
    assert patch(tuple(old.items()), diff(tuple(old.items()), rows)) == rows


def test_the_same_value_is_not_sent() -> None:
    job = job_of(demo_text())
    sender = Sender()
    sender.know("job", job)
    assert sender.delta("job", job) == Same()


@pytest.mark.parametrize("seed", range(4))
def test_after_any_edits_the_window_has_what_the_worker_has(seed: int) -> None:
    chance = random.Random(seed)
    job = parse_brief(panel_text(seed))
    sender, receiver = Sender(), Receiver()
    for _ in range(6):
        bundle = make_bundle(job)
        values = {
            "job": job,
            "bundle": without_job(bundle),
            "findings": find_all(bundle.plan),
            "sheets": draw_sheets(bundle.plan),
            "work": list_work(bundle.plan),
        }
        for name, value in values.items():
            got = receiver.take(name, pickle.loads(pickle.dumps(sender.delta(name, value))))
            assert got == value, name
        assert replace(receiver["bundle"].plan, job=receiver["job"]) == bundle.plan
        _, job = random_edit(job, chance)


def test_a_title_sends_a_hundredth_of_what_the_first_plan_takes() -> None:
    job = job_of(demo_text())
    sender = Sender()
    first = len(pickle.dumps(sender.delta("bundle", without_job(make_bundle(job)))))
    titled = settle(change_starter(job, "M1", title="Another title"))
    assert len(pickle.dumps(sender.delta("bundle", without_job(make_bundle(titled))))) < first / 50
