"""The whole test of a panel: its phases in the order of the work, and the way of the hands."""

import pytest

from riktig.job.scripts import seen_in_words
from riktig.plan.plan import Plan
from riktig.prove.probing import Reach, travel_mm
from riktig.prove.program import list_steps
from riktig.prove.steps import Phase, Step, Unit
from riktig.standins.panel import SimulatedPanel
from support import HEAD, demo_text, plan_of, small_text


@pytest.fixture(scope="module", params=["iec", "ul"])
def demo(request: pytest.FixtureRequest) -> tuple[Plan, tuple[Step, ...]]:
    plan = plan_of(demo_text(request.param))
    return plan, list_steps(plan)


def test_phases_come_in_the_order_of_the_work_and_every_step_is_told_apart(demo: tuple[Plan, tuple[Step, ...]]) -> None:
    """Look, continuity, shorts, then volts, then functions: common practice, no source."""
    _, steps = demo
    assert list(dict.fromkeys(step.phase for step in steps)) == list(Phase)
    assert len({step.key for step in steps}) == len(steps)
    assert all(step.title and step.proves and step.source and step.as_planned for step in steps)


def test_a_sound_panel_passes_all_that_is_read(demo: tuple[Plan, tuple[Step, ...]]) -> None:
    plan, steps = demo
    panel = SimulatedPanel(plan)
    leads = {Unit.OHM: 0.1}
    bad = [s.title for s in steps if s.is_read and not s.is_passed(panel.read(s) + leads.get(s.unit, 0.0))]
    assert bad == []


def test_the_hands_go_at_most_sixty_percent_of_the_way_of_the_schematic(demo: tuple[Plan, tuple[Step, ...]]) -> None:
    plan, steps = demo
    reach = Reach(plan)
    through = [(s.a[0], s.b[0]) for s in steps if s.phase is Phase.THROUGH]
    pairs = {frozenset(pair) for pair in through}
    drawn = [(c.a, c.b) for c in plan.conductors if frozenset((c.a, c.b)) in pairs]
    assert travel_mm(reach, through) <= 0.6 * travel_mm(reach, drawn)


def test_volts_are_asked_in_the_order_in_which_supplies_hang_on_each_other(demo: tuple[Plan, tuple[Step, ...]]) -> None:
    """Incoming, rotation, behind the main switch, then each supply: common practice, no source; limits: IEC 60204-1 4.3.2, from memory."""
    plan, steps = demo
    groups = list(dict.fromkeys(s.group for s in steps if s.phase is Phase.LIVE))
    assert groups[:3] == ["Incoming supply, main switch off", "Rotation of the supply", "Supply switched on"]
    first = next(s for s in steps if s.phase is Phase.LIVE)
    assert (first.low, first.high) == (round(0.9 * plan.job.supply.volts, 1), round(1.1 * plan.job.supply.volts, 1))


def test_a_selector_is_tried_by_its_table_and_a_dial_read_at_its_current() -> None:
    text = HEAD + '[starter.M1]\nkw = 1.5\nsupply = "C1"\ncontrol = "selector"\nrestart = "automatic"\n'
    steps = {s.key: s for s in list_steps(plan_of(text))}
    assert "closed" in steps["fit:M1.SL"].do and "between them none" in steps["fit:M1.SL"].do
    assert "A" in steps["look:dial:M1.F"].as_planned


@pytest.mark.parametrize(("world", "words"), [("iec", "within 300 ms at 30 mA"), ("ul", "not at 4 mA, but at 6 mA")])
def test_a_residual_device_is_tried_as_its_world_asks(world: str, words: str) -> None:
    """IEC 61008-1 and UL 943 class A, from memory."""
    text = (
        HEAD if world == "iec" else small_text("ul").partition("[starter.")[0]
    ) + "[way.W1]\npoles = 2\nrcd = true\n"
    (step,) = [s for s in list_steps(plan_of(text)) if s.key.startswith("rcd:")]
    assert words in step.title


def test_what_holds_charge_is_measured_where_it_shows() -> None:
    """A charged DC link shows nothing at the lines of its drive: common practice, no source; 60 V: IEC 60204-1 6.2.4, from memory."""
    text = HEAD + '[control.C2]\nkind = "psu"\n[starter.M1]\nkind = "drive"\nkw = 4\nsupply = "C2"\n'
    steps = [s for s in list_steps(plan_of(text)) if s.phase is Phase.RESIDUAL]
    assert [(bool(s.a), s.high) for s in steps] == [(True, 60.0), (False, 60.0)] and "300 s" in steps[1].title


def test_functions_are_the_scripts_of_the_job_in_the_words_of_the_labels() -> None:
    text = small_text() + '[[script]]\ntitle = "Runs"\n[[script.steps]]\ndo = ["push M1.S1"]\nexpect = ["M1.K on"]\n'
    plan = plan_of(text)
    (step,) = [s for s in list_steps(plan) if s.phase is Phase.FUNCTION]
    assert (
        step.title == f"1. push {plan.tags['M1.S1']}" and step.do == f"{plan.tags['M1.K']} on" and step.group == "Runs"
    )


def test_what_must_not_be_is_said_without_a_double_no() -> None:
    assert (
        seen_in_words(["K1 on", "P1 on", "M1 stopped"], ["not K1 off"]) == "K1, P1 on; M1 stopped; K1 off all the while"
    )
    assert seen_in_words(["K1 and K2"], ["K1 and K2"]) == "K1 and K2; at no instant K1 and K2"
