"""Owns the edits of the scripts that a Job keeps. Must not play them."""

from collections.abc import Callable

from riktig.job.edits import replace
from riktig.job.faults import Fault, JobError
from riktig.job.model import Job
from riktig.job.scripts import Script, Step

Steps = tuple[Step, ...]


def keep_script(job: Job, script: Script) -> Job:
    """Return the Job with one more kept script, under a name of its own."""
    return replace(job, scripts=(*job.scripts, replace(script, name=_free_name(job))))


def keep_derived(job: Job, script: Script) -> Job:
    """Return the Job with a derived script in place of the one that was derived before, else behind the others."""
    others = tuple(one for one in job.scripts if one.name != script.name)
    return replace(job, scripts=(*others, script))


def _free_name(job: Job) -> str:
    taken, number = {script.name for script in job.scripts}, len(job.scripts) + 1
    while f"script{number}" in taken:
        number += 1
    return f"script{number}"


def change_step(job: Job, script: str, row: int, field: str, lines: tuple[str, ...]) -> Job:
    """Return the Job with what a step does, expects or forbids changed; `row` counts from 0, `field` is one of a step.

    Raises:
        JobError: there is no such step, or a line is too long.
    """
    return _change_steps(job, script, row, lambda step: (replace(step, **{field: lines}),))


def add_step(job: Job, script: str, row: int) -> Job:
    """Return the Job with an empty step put before a row, at the end where there is none.

    Raises:
        JobError: there is no such script.
    """
    found = _script(job, script)
    return _with_steps(job, script, (*found.steps[:row], Step(), *found.steps[row:]))


def take_step_out(job: Job, script: str, row: int) -> Job:
    """Return the Job without a step.

    Raises:
        JobError: there is no such step.
    """
    return _change_steps(job, script, row, lambda step: ())


def _script(job: Job, name: str) -> Script:
    found = next((script for script in job.scripts if script.name == name), None)
    if found is None:
        raise JobError([Fault(at=("script", name), message=f"no script {name} is kept any more")])
    return found


def _change_steps(job: Job, script: str, row: int, change: Callable[[Step], Steps]) -> Job:
    steps = _script(job, script).steps
    if not 0 <= row < len(steps):
        raise JobError([Fault(at=("script", script, row), message=f"the script has no step {row + 1} any more")])
    return _with_steps(job, script, (*steps[:row], *change(steps[row]), *steps[row + 1 :]))


def _with_steps(job: Job, name: str, steps: Steps) -> Job:
    changed = replace(_script(job, name), steps=steps)
    return replace(job, scripts=tuple(changed if script.name == name else script for script in job.scripts))
