"""A simulated panel that is operated while it is measured."""

from math import inf

import pytest

from riktig.live.built import Built
from riktig.live.gear import ActionError
from riktig.plan.plan import Plan
from riktig.prove.dead import DeadPanel
from riktig.prove.steps import Unit
from riktig.standins.operated import OperatedPanel
from support import demo_text, plan_of


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of(demo_text("iec"))


def test_at_first_it_reads_what_the_dead_tests_read(plan: Plan) -> None:
    panel, tests = OperatedPanel(plan), DeadPanel(plan).network(has_motors=True)
    ends = [conductor.a for conductor in plan.conductors]
    for a, b in zip(ends[::7], ends[::-7], strict=True):
        read = panel.read(a, b)
        assert read.unit is Unit.OHM and read.value == pytest.approx(tests.between((a,), (b,)))


def test_what_hands_close_conducts_and_what_is_switched_on_has_volts(plan: Plan) -> None:
    panel = OperatedPanel(plan)
    assert panel.read("M1.K:1/L1", "M1.K:2/T1").value > 1.0
    panel.operate("press K1")
    assert panel.read("M1.K:1/L1", "M1.K:2/T1").value < 0.1
    panel.operate("release K1")
    assert panel.switch(is_on=True) and panel.is_on and not panel.switch(is_on=True)
    volts = panel.read("M1.Q:1", "M1.Q:3")
    assert volts.unit is Unit.VOLT and volts.value == pytest.approx(400.0, rel=0.01)
    panel.operate("push S15")  # control on
    assert "M2 star" in panel.operate("push S6") and "M2 delta" in panel.operate("wait 15")
    panel.switch(is_on=False)
    assert not panel.running and panel.read("M1.Q:1", "M1.Q:2").value < 0.1  # breakers stay closed


def test_it_is_wired_as_it_was_built_and_refuses_what_nobody_can_do(plan: Plan) -> None:
    wire = next(c for c in plan.conductors if c.is_wired and c.number == "1L1")
    panel = OperatedPanel(plan, Built(ends={wire.id: None}))
    assert panel.read(wire.a, wire.b).value == inf
    with pytest.raises(ActionError, match="K99"):
        panel.operate("press K99")
