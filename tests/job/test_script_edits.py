"""Edits of kept scripts: each says a step by its place, so that two that are under way at once both hold."""

import pytest

from riktig.job.faults import JobError
from riktig.job.model import Job
from riktig.job.script_edits import add_step, change_step, keep_script, take_step_out
from riktig.job.scripts import Script, Step
from support import HEAD, STARTER, job_of


@pytest.fixture
def job() -> Job:
    return keep_script(job_of(HEAD + STARTER), Script(title="One", steps=(Step(do=("push S1",)), Step(do=("wait 1",)))))


def steps_of(job: Job, name: str = "script1") -> list[tuple[str, ...]]:
    return [step.do for script in job.scripts if script.name == name for step in script.steps]


def test_scripts_get_names_of_their_own(job: Job) -> None:
    more = keep_script(keep_script(job, Script(title="Two")), Script(title="Three"))
    assert [script.name for script in more.scripts] == ["script1", "script2", "script3"]
    fewer = more.model_copy(update={"scripts": more.scripts[1:]})
    assert keep_script(fewer, Script()).scripts[-1].name == "script4", "no name is used again while a later one is"


def test_steps_are_changed_put_in_and_taken_out(job: Job) -> None:
    changed = change_step(change_step(job, "script1", 0, "do", ("push S2",)), "script1", 0, "never", ("K1",))
    assert changed.scripts[0].steps[0] == Step(do=("push S2",), never=("K1",))
    assert steps_of(add_step(job, "script1", 1)) == [("push S1",), (), ("wait 1",)]
    assert steps_of(take_step_out(job, "script1", 0)) == [("wait 1",)]


@pytest.mark.parametrize(
    ("script", "row", "words"),
    [("script9", 0, "no script script9"), ("script1", 2, "no step 3"), ("script1", -1, "no step 0")],
)
def test_what_is_gone_meanwhile_is_said(job: Job, script: str, row: int, words: str) -> None:
    with pytest.raises(JobError, match=words):
        take_step_out(job, script, row)
