"""Edits lead from one valid Job to the next and leave the first as it was."""

import pytest

from riktig.job import edits
from riktig.job.faults import JobError
from riktig.job.model import Device, Location
from riktig.plan.settle import settle
from support import HEAD, STARTER, TWO_STATIONS, job_of


def test_an_edit_makes_a_new_job_and_leaves_the_old_one() -> None:
    job = job_of(HEAD + STARTER)
    changed = edits.change_starter(job, "M1", kw=4)
    assert (job.starters[0].kw, changed.starters[0].kw) == (1.5, 4.0)


def test_members_come_and_go() -> None:
    job = edits.duplicate_starter(job_of(HEAD + STARTER), "M1")
    assert [s.name for s in job.starters] == ["M1", "M2"]
    job = edits.add_device(edits.add_location(job, Location(name="pit")), Device(name="B1", kind="float", at="pit"))
    job = edits.add_rung(job, "C1+ > B1:no > M1.H > C1-")
    assert [r.name for r in edits.remove(job, "starters", "M2").rungs] == ["rung1"]
    assert edits.change_part(job, "supply", volts=690).supply.volts == 690


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda job: edits.change_starter(job, "M9", kw=1), "no 'M9'"),
        (lambda job: edits.change_starter(job, "M1", kw=-1), "greater than"),
        (lambda job: edits.change_starter(job, "M1", hp=2), "once, as kw or as hp"),
        (lambda job: settle(edits.change_starter(job, "M1", supply="C9")), "no control supply 'C9'"),
        (lambda job: settle(edits.add_rung(job, "C1+ > K8:no > C1-")), "nothing declares 'K8'"),
        (lambda job: settle(edits.remove(job, "controls", "C1")), "no control supply 'C1'"),
    ],
)
def test_an_edit_that_does_not_fit_is_refused(change, words: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(JobError, match=words):
        change(job_of(HEAD + STARTER))


def test_a_choice_of_a_person_is_kept_through_settling() -> None:
    job = settle(edits.keep_choice(job_of(TWO_STATIONS), "tags", "C1.F", "F77"))
    assert job.ledger.tags["C1.F"].value == "F77"
    assert settle(edits.add_rung(job, "C1+ > K1:no > P1 > C1-")).ledger.tags["C1.F"].value == "F77"
