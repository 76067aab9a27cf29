"""What was built and measured against what is designed now: a unit as it should be, and one that a change, a fault or haste left behind."""

from dataclasses import replace

import pytest

from riktig.checks.book import inspect_all
from riktig.checks.recorded import Recorded, check_recorded
from riktig.checks.rule import Outcome
from riktig.job import edits
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from riktig.record.events import Event, EventKind, make_event
from riktig.record.inspected import recorded_of
from riktig.record.progress import list_work, read_progress
from support import HEAD, STARTER, job_of

SOUND = Recorded(unit="1", rework=(), tests=4, passed=4, failed=(), outdated=(), is_issued=True, is_begun=True)


@pytest.mark.parametrize(
    ("changes", "rule", "severity"),
    [
        ({"rework": ("cut wire 5 again",)}, "built-otherwise", "should"),
        ({"passed": 3, "failed": ("Wire 5",)}, "tests", "must"),
        ({"passed": 3, "outdated": ("Wire 5",)}, "tests", "should"),
        ({"passed": 3}, "tests", "note"),
        ({"is_issued": False}, "not-issued", "note"),
    ],
)
def test_a_unit_that_is_left_behind_is_found_and_one_as_designed_is_not(
    changes: dict[str, object], rule: str, severity: str
) -> None:
    assert check_recorded(SOUND) == ()
    assert [(f.rule, f.severity) for f in check_recorded(replace(SOUND, **changes))] == [(rule, severity)]


def built(plan: Plan) -> list[Event]:
    """Return the events of a unit that is wholly built and measured."""
    work = list_work(plan)
    ticks = [
        make_event(EventKind.TICK, op.key, unit="1", person="I. Farrow", **{"as": op.as_planned})
        for op in work.operations
    ]
    measured = [
        make_event(
            EventKind.MEASURE,
            test.key,
            unit="1",
            person="I. Farrow",
            **{test.unit.value: test.expected or test.low or 1.0},
            verdict="pass",
            **{"as": test.as_planned},
        )
        for test in work.tests
    ]
    return [*ticks, *measured]


def outcomes(plan: Plan, events: list[Event]) -> dict[str, Outcome]:
    progress = read_progress(list_work(plan), events, "1")
    unit = recorded_of(progress, "1", is_issued=plan.job.revision is not None)
    return {one.rule.id: one.outcome for one in inspect_all(plan, units=(unit,)) if one.rule.is_of_record}


def test_a_change_after_the_test_is_found_in_the_record_of_the_unit() -> None:
    """Measured before, changed after: IEC 60204-1 18.7 asks to test again what was changed, from memory."""
    job = job_of(HEAD + STARTER)
    plan = compute_plan(job)
    assert set(outcomes(plan, []).values()) == {Outcome.NOT_APPLICABLE}
    events = built(plan)
    assert outcomes(plan, events) == {
        "built-otherwise": Outcome.PASS,
        "tests": Outcome.PASS,
        "not-issued": Outcome.TO_KNOW,
    }
    changed = compute_plan(settle(edits.change_starter(job, "M1", kw=15)))
    assert outcomes(changed, events)["built-otherwise"] is outcomes(changed, events)["tests"] is Outcome.FINDING
