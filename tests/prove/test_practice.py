"""How a hidden fault shows in operation, and what a way to it is worth."""

import pytest

from riktig.live.built import Built
from riktig.plan.plan import Plan
from riktig.prove.faults import Slip, list_faults
from riktig.prove.practice import Effort, Sights, find_symptom, near_faults, points_of
from support import demo_text, plan_of


@pytest.fixture(scope="module")
def plan() -> Plan:
    return plan_of(demo_text("ul"))


@pytest.mark.parametrize(
    ("measured", "seconds", "wrong", "points"),
    [(4, 60.0, 0, 100), (8, 60.0, 0, 75), (4, 360.0, 0, 75), (4, 60.0, 2, 80), (40, 6000.0, 9, 0), (0, 1.0, 0, 100)],
)
def test_points_go_by_measurements_time_and_wrong_accusations(
    measured: int, seconds: float, wrong: int, points: int
) -> None:
    assert (
        points_of(Effort(measurements=4, seconds=60.0), Effort(measurements=measured, seconds=seconds), wrong) == points
    )


def test_a_panel_as_planned_shows_nothing_and_an_open_coil_wire_does(plan: Plan) -> None:
    assert find_symptom(plan, Built()) is None
    coil = next(
        w for w in plan.conductors if plan.terminal_label(w.a) == "CON2:A1" or plan.terminal_label(w.b) == "CON2:A1"
    )
    symptom = find_symptom(plan, Built(ends={coil.id: None}))
    assert symptom is not None and "CON2 off, should be on" in symptom.words and len(symptom.do) > 1
    near = near_faults(plan, list_faults(plan), symptom.devices)
    assert f"open {coil.id}" in {fault.key for fault in near[:80] if fault.slip is Slip.OPEN}
    again = Sights(plan, symptom.do).symptom_of(Built(ends={coil.id: None}))
    assert again == symptom
