"""Conductor sizes: by hand from table rows, by laws, and from the factor of each circumstance."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from riktig.plan.plan import Plan
from riktig.plan.sections import DROP_LIMIT_PERCENT, GROUPED_CIRCUITS, INSIDE_RISE_K
from riktig.standards import iec_60204_1, nec
from support import HEAD, STARTER, plan_of, small_text


def value(plan: Plan, subject: str, quantity: str):  # type: ignore[no-untyped-def]
    return next(v for v in plan.sizing if v.subject == subject and v.quantity == quantity)


def test_the_assumptions_are_those_that_the_formula_shows() -> None:
    """Inside air 10 K above ambient, four loaded circuits in a duct: common practice, no source."""
    formula = value(plan_of(HEAD + STARTER), "M1", "conductor_section").formula
    assert (INSIDE_RISE_K, GROUPED_CIRCUITS) == (10, 4)
    assert "13.5 A · 0.91 (air 45 °C) · 0.65 (4 circuits together) = 7.99 A, needed 3.6 A" in formula


@settings(max_examples=20, deadline=None)
@given(st.floats(0.2, 22), st.integers(20, 50))
def test_every_wire_inside_carries_its_overload_setting(kw: float, ambient: int) -> None:
    """IEC 60204-1:2016 12.4: ampacity of Table 6 times both factors is no less than the setting; and the next smaller is."""
    text = HEAD.replace("height = 1200", f"height = 1200\nambient = {ambient}")
    plan = plan_of(text + f'[starter.M1]\nkw = {kw:.3f}\nsupply = "C1"\n')
    factor = (iec_60204_1.ambient_factor(min(ambient + 10, 60)) or 0) * iec_60204_1.grouping_factor(4, "b1")
    chosen = value(plan, "M1", "conductor_section").value
    sizes = [1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95, 120]
    setting = plan.motors["M1"].setting
    assert (iec_60204_1.ampacity_a(chosen, "b1") or 0) * factor >= setting
    smaller = [s for s in sizes if s < chosen]
    assert not smaller or (iec_60204_1.ampacity_a(smaller[-1], "b1") or 0) * factor < setting


@settings(max_examples=20, deadline=None)
@given(st.floats(0.5, 15), st.integers(5, 400), st.integers(1, 200))
def test_a_longer_cable_never_drops_less_per_section_and_none_drops_over_the_limit(
    kw: float, metres: int, more: int
) -> None:
    def cable(length: int) -> tuple[float, float]:
        text = HEAD.replace("[location.st1]", f"[location.far]\ndistance = {length}\n[location.st1]")
        plan = plan_of(text + f'[starter.M1]\nkw = {kw:.3f}\nmotor_at = "far"\nsupply = "C1"\n')
        return value(plan, "M1", "cable_section").value, value(plan, "M1", "voltage_drop").value

    (section, drop), (longer_section, longer_drop) = cable(metres), cable(metres + more)
    assert longer_section >= section
    assert longer_section > section or longer_drop >= drop
    assert drop <= DROP_LIMIT_PERCENT


@pytest.mark.parametrize(("hp", "carry", "awg"), [(5, 9.5, "14"), (10, 17.5, "12"), (20, 33.75, "8"), (30, 50, "6")])
def test_north_american_wires_carry_a_quarter_more_than_the_table_current(hp: float, carry: float, awg: str) -> None:
    """NEC 430.22: 125 % of Table 430.250; Table 310.16 at 75 degC times 0.75 (50 degC inside): 15 18.75 37.5 48.75 A ...
    By hand: 9.5 A fits 14 AWG (15 A); 17.5 A needs 12 AWG (18.75 A); 33.75 A needs 8 AWG (37.5 A); 50 A needs 4 AWG.
    """
    plan = plan_of(small_text("ul").replace("hp = 10", f"hp = {hp}"))
    size = plan.sections.inside["1L1"]
    assert plan.motors["M1"].carry == pytest.approx(carry)
    carries = (nec.ampacity_a(size.awg) or 0) * (nec.ambient_factor(50) or 0)
    assert carries >= carry
    assert size.awg == ("4" if hp == 30 else awg)


@pytest.mark.parametrize(("kw", "earth"), [(1.5, 1.5), (7.5, 6), (15, 16), (22, 16), (37, 25)])
def test_earth_goes_with_its_line_conductor(kw: float, earth: float) -> None:
    """IEC 60204-1:2016 Table 1: equal up to 16 mm2, then 16, beyond 35 the half. By hand: 22 kW on 25 mm2, 37 kW on 50 mm2."""
    assert value(plan_of(HEAD + f'[starter.M1]\nkw = {kw}\nsupply = "C1"\n'), "M1", "earth_section").value == earth


def test_mains_are_never_thinner_than_the_thickest_motor_circuit() -> None:
    plan = plan_of(HEAD + STARTER + '[starter.M2]\nkw = 15\nsupply = "C1"\n')
    assert plan.sections.inside["L1"].mm2 >= plan.sections.inside["4L1"].mm2 == 16


def test_control_wires_carry_the_rating_of_their_breaker() -> None:
    """By hand: 10 A needs 2.5 mm2 (18.3 * 0.91 * 0.65 = 10.8 A), 6 A fits 1 mm2 (6.1 A)."""
    for amps, mm2 in ((6, 1.0), (10, 2.5)):
        plan = plan_of(HEAD.replace("volts = 230", f"volts = 230\namps = {amps}") + STARTER)
        assert plan.sections.inside["1"].mm2 == mm2


def test_a_feeder_of_ones_own_carries_its_breaker() -> None:
    """By hand: 20 A needs 10 mm2 (44 * 0.91 * 0.65 = 26.0 A; 6 mm2 carries 18.3 A)."""
    text = (
        HEAD
        + '[device.Q7]\nkind = "breaker"\namps = 20\n[device.M7]\nkind = "motor"\n[[feeder]]\npath = "L1 L2 L3 > Q7 > M7"\n'
    )
    plan = plan_of(text)
    number = next(p.number for p in plan.potentials if "Q7:2" in p.net.terminals)
    assert plan.sections.inside[number].mm2 == 10 and plan.sections.cores["field/M7"].mm2 == 10
