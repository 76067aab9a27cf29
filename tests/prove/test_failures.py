"""What may have failed inside devices where a step of a function test does."""

import pytest

from riktig.job.scripts import Script, Step
from riktig.plan.plan import Plan
from riktig.prove.failures import explain_step
from support import HEAD, STARTER, plan_of

START, STOP = Step(do=("push M1.S1",), expect=("M1.K on", "M1 forward")), Step(do=("push M1.S0",), expect=("M1.K off",))


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of(HEAD + STARTER)


def words(plan: Plan, *steps: Step) -> set[str]:
    return {failure.words for failure in explain_step(plan, Script(steps=steps), len(steps))}


def test_a_start_that_fails_names_all_that_lies_in_its_way_and_nothing_else(plan: Plan) -> None:
    found = words(plan, START)
    tags = {role: plan.tags[f"M1.{role}"] for role in ("K", "F", "S0", "S1")}
    assert f"{tags['K']} is open inside, A1-A2" in found
    assert {f"contact 95-96 of {tags['F']} does not close", f"contact 13-14 of {tags['S1']} does not close"} <= found
    assert any(tags["S0"] in one for one in found) and f"pole 1/L1-2/T1 of {tags['K']} does not close" in found
    assert not any("97-98" in one for one in found)


def test_a_stop_that_fails_names_what_does_not_open_and_not_the_seal_in_that_did_its_work(plan: Plan) -> None:
    found = words(plan, START, STOP)
    assert any(plan.tags["M1.S0"] in one for one in found) and all("does not open" in one for one in found)
    assert not any("does not close" in one for one in found)


def test_what_needs_no_failure_is_explained_by_none(plan: Plan) -> None:
    assert words(plan, Step(do=("push M1.S0",), expect=("M1.K off",))) == set()
