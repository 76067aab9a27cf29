"""Loads of which a person states what they draw: heaters, fans, lights, valves, on the mains and on a control supply."""

import pytest

from riktig.checks.run import find_all
from riktig.plan.plan import Plan
from support import HEAD, plan_of, small_text


def device(name: str, kind: str, more: str = "") -> str:
    return f'[device.{name}]\nkind = "{kind}"\n{more}\n'


def value(plan: Plan, subject: str, quantity: str) -> float:
    return next(v.value for v in plan.sizing if (v.subject, v.quantity) == (subject, quantity))


MAINS = "".join((
    device("Q1", "breaker"), device("K1", "contactor"), device("E1", "heater", "kw = 6"), device("Q2", "breaker"),
    device("Y2", "valve", "va = 40"), device("Q3", "breaker"), device("E3", "fan", 'kw = 0.5\nat = "st1"'), device("Q4", "breaker"),
    device("E4", "light", "va = 300"),
    *(f'[[feeder]]\npath = "{path}"\n' for path in ("L1 L2 L3 > Q1 > K1 > E1", "L1 N > Q2 > Y2", "L1 N > Q3 > E3", "L2 N > Q4 > E4")),
))  # fmt: skip


def test_what_a_person_feeds_outside_the_panel_is_the_customers_and_sized_by_what_it_draws() -> None:
    """6 kW / (√3 · 400 V) = 8.66 A; 40 VA, 500 W and 300 VA over 231 V: 0.173, 2.17, 1.30 A."""
    plan = plan_of(HEAD + MAINS)
    assert [round(value(plan, load, "load_current"), 2) for load in ("E1", "Y2", "E3", "E4")] == [8.66, 0.17, 2.17, 1.3]
    assert [plan.circuit.device(load).location for load in ("E1", "Y2", "E3", "E4")] == [
        "field",
        "field",
        "st1",
        "field",
    ]
    assert {cable.target for cable in plan.cables} >= {"E1", "Y2", "E3", "E4"}
    assert [f.message for f in find_all(plan) if f.severity == "must"] == []


def test_a_heater_in_the_panel_stays_a_part_of_it_and_gives_at_least_its_watts() -> None:
    text = (
        device("F9", "breaker")
        + device("E1", "heater", 'kw = 0.06\nat = "plate"')
        + '[[feeder]]\npath = "L1 N > F9 > E1"\n'
    )
    plan = plan_of(HEAD + text)
    assert (plan.circuit.device("E1").location, plan.parts["E1"].traits.get("use")) == ("plate", None)
    assert plan.parts["E1"].rating("va") >= 60


@pytest.mark.parametrize(("stated", "watts"), [("va = 40", 40), ("amps = 3", 72), ("kw = 0.1", 100), ("", 8)])
def test_a_control_supply_counts_what_its_loads_are_stated_to_draw(stated: str, watts: float) -> None:
    """3 A · 24 V = 72 W; a valve of which nothing is said takes what its part states."""
    text = '[control.C2]\nkind = "psu"\nfrom = "L1 L2"\n' + device("Y1", "valve", stated) + device("S1", "pushbutton")
    plan = plan_of(HEAD + text + '[[rung]]\npath = "C2+ > S1:no > Y1 > C2-"\n')
    assert value(plan, "C2", "control_va") == pytest.approx(watts)
    assert plan.parts["C2.G"].rating("amps") * 24 >= watts
    assert not [f for f in find_all(plan) if f.rule == "rating-missing"]


@pytest.mark.parametrize(
    ("kw", "rating", "awg", "carries"), [(8, 15, "14", 15), (12, 20, "12", 20), (18, 30, "10", 30), (24, 40, "8", 44)]
)
def test_in_north_america_a_small_conductor_to_a_load_lies_behind_what_its_gauge_allows(
    kw: float, rating: float, awg: str, carries: float
) -> None:
    """NEC 240.4(D): 14 AWG behind 15 A at most, 12 behind 20, 10 behind 30, though Table 310.16 gives 17.6, 22 and 30.8 A in air of 40 degC
    (0.88), 8 AWG 44 A. By hand, 125 % of kW / (√3 · 480 V): 12.0, 18.04, 27.1, 36.1 A. Motors are excepted, 240.4(G). From memory.
    """
    head = small_text("ul").partition("[starter")[0]
    load = device("Q9", "breaker") + device("E9", "heater", f"kw = {kw}") + '[[feeder]]\npath = "L1 L2 L3 > Q9 > E9"\n'
    plan = plan_of(head + load)
    cable = next(v for v in plan.sizing if (v.subject, v.quantity) == ("E9", "cable_section"))
    assert (value(plan, "Q9", "protective_rating"), cable.inputs["size"], cable.carries) == (
        rating,
        f"{awg} AWG",
        carries,
    )
    by_hand = plan_of(head + load + '[kept.values]\n"E9|cable_section" = "2.08 | as it was"\n')
    assert rating == 15 or any(f.subject == "E9" and f.severity == "must" for f in find_all(by_hand))
