"""Faults that the other jobs of a folder have found."""

from pathlib import Path

from riktig.desk.proof_errands import Observed, follow_fault
from riktig.files.job_file import JobFile
from riktig.files.past_faults import count_past
from riktig.prove.faults import Slip
from riktig.prove.program import list_steps
from riktig.prove.steps import Phase
from riktig.record.events import EventKind, make_event
from support import HEAD, STARTER, job_of, plan_of


def job_with(path: Path, *slips: str) -> Path:
    with JobFile.create(path, job_of(HEAD + STARTER)) as file:
        for n, slip in enumerate(slips):
            file.append_event(make_event(EventKind.FAULT, f"fault:{n}", person="Ada", unit="1", slip=slip))
        file.append_event(make_event(EventKind.TICK, "wire:1", person="Ada", unit="1"))
    return path


def test_faults_of_the_other_jobs_beside_one_are_counted_and_what_is_none_is_passed_by(tmp_path: Path) -> None:
    mine = job_with(tmp_path / "mine.riktig", "open")
    job_with(tmp_path / "a.riktig", "open", "like", "nonsense")
    job_with(tmp_path / "b.riktig", "like")
    (tmp_path / "broken.riktig").write_bytes(b"not a job")
    assert count_past(tmp_path, mine) == {Slip.OPEN: 1, Slip.LIKE: 2}
    assert count_past(tmp_path / "nowhere", mine) == {}


def test_what_a_shop_has_found_often_is_suspected_first(tmp_path: Path) -> None:
    plan = plan_of(HEAD + STARTER)
    failed = next(s for s in list_steps(plan) if s.phase is Phase.THROUGH and s.title.startswith("Wire 1L2"))
    seen = {"verdicts": ((failed.key, False),)}
    common = follow_fault(plan, Observed(**seen))
    mine = job_with(tmp_path / "mine.riktig")
    job_with(tmp_path / "a.riktig", *["like"] * 400)
    told = follow_fault(plan, Observed(**seen, file=mine))
    assert common.suspects[0].slip == "open" and told.suspects[0].slip == "like"
    assert (common.before, told.before) == (0, 400)
