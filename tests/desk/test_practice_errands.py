"""What practising asks of the worker, on plans alone."""

import pytest

from riktig.desk.practice_errands import hide_fault, show_best_way
from riktig.plan.plan import Plan
from riktig.prove.practice import LOOK_S
from riktig.prove.program import list_steps
from riktig.standins.operated import OperatedPanel
from support import HEAD, STARTER, plan_of


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of(HEAD + STARTER)


@pytest.mark.parametrize(("level", "count"), [(1, 1), (2, 1), (3, 2)])
def test_a_hidden_fault_fails_a_step_and_is_another_one_each_time(plan: Plan, level: int, count: int) -> None:
    hidden = [hide_fault(plan, seed, level) for seed in range(6)]
    assert all(len(one) == count for one in hidden) and len({one[0].key for one in hidden}) > 1
    keys = {step.key for step in list_steps(plan)}
    assert all(one.step in keys and one.at for several in hidden for one in several)
    assert level > 1 or all(several[0].words.startswith("wire") for several in hidden)


@pytest.mark.parametrize("level", [1, 4])
def test_the_best_way_to_a_hidden_fault_ends_with_a_reading_of_it(plan: Plan, level: int) -> None:
    hidden = hide_fault(plan, 3, level)
    best = show_best_way(plan, hidden)
    assert len(best.words) == best.effort.measurements <= 12 and best.effort.seconds >= LOOK_S
    assert all("Ω" in line or "OL" in line for line in best.words)


def test_a_function_that_fails_is_told_by_what_is_done_and_seen(plan: Plan) -> None:
    (hidden,) = hide_fault(plan, 3, 4)
    sound, wrong = OperatedPanel(plan, is_on=True), OperatedPanel(plan, hidden.built, is_on=True)
    seen = [tuple(panel.operate(action) for action in hidden.do) for panel in (sound, wrong)]
    assert "should be" in hidden.shows and not hidden.step
    assert (sound.running, seen[0]) != (wrong.running, seen[1])
