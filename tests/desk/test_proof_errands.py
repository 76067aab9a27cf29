"""What the Test bench asks of the worker, on plans alone."""

import pytest

from riktig.desk.proof_errands import Observed, explain_function, follow_fault
from riktig.live.names import Names
from riktig.live.rig import WiringState
from riktig.live.scripts import play_on
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan
from riktig.prove.faults import list_faults
from riktig.prove.program import list_steps
from riktig.prove.steps import Phase
from support import HEAD, STARTER, plan_of

SCRIPT = """
[[script]]
title = "Runs and stops"
[[script.steps]]
do = ["push M1.S1"]
expect = ["M1.K on"]
[[script.steps]]
do = ["press M1.S0"]
expect = ["M1.K off"]
[[script.steps]]
do = ["release M1.S0", "push M1.S1", "trip M1.F"]
expect = ["M1.K off"]
"""


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of(HEAD + STARTER + SCRIPT)


def test_a_function_that_fails_is_explained_by_faults_that_show_there_first(plan: Plan) -> None:
    """Each suspect is put in and the script played: it is missed at that step and at none before."""
    (script,) = plan.job.scripts
    found = {n: explain_function(plan, script.name, n, Observed(), on_share=lambda share: None) for n in (1, 2, 3)}
    by_key = {fault.key: fault for fault in list_faults(plan)}
    assert any("is open inside" in line.words for line in found[1].suspects)  # type: ignore[union-attr]
    assert any(trail is not None and trail.count for trail in found.values())
    for number, trail in found.items():
        assert trail is not None and trail.probe is None
        for line in (one for one in trail.suspects if one.slip != "failed"):
            panel = Simulation(plan, WiringState(built=by_key[line.key].built))  # type: ignore[arg-type]
            missed = [n for n, played in enumerate(play_on(panel, Names(panel), script), 1) if played.misses]
            assert missed[0] == number, line.words
    assert explain_function(plan, "gone", 1, Observed(), on_share=lambda share: None) is None


def test_nothing_explains_a_panel_in_which_nothing_failed(plan: Plan) -> None:
    assert follow_fault(plan, Observed()).count == 0


def test_readings_lead_from_a_failed_step_to_one_suspect(plan: Plan) -> None:
    failed = next(s for s in list_steps(plan) if s.phase is Phase.THROUGH and s.title.startswith("Wire 1L2"))
    seen = Observed(verdicts=((failed.key, False),))
    first = follow_fault(plan, seen)
    assert first.count > 3 and first.probe is not None and sum(line.share for line in first.suspects) <= 1.0001
    narrowed = follow_fault(
        plan, Observed(verdicts=seen.verdicts, readings=((first.probe.a, first.probe.b, float("inf")),))
    )
    assert narrowed.count < first.count or narrowed.suspects != first.suspects
    assert all(line.retest and failed.key in line.retest for line in first.suspects)
