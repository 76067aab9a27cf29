"""Sizes of starters against values worked by hand from table rows typed here with their source."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from riktig.plan.plan import Plan
from support import HEAD, plan_of, small_text


def value(plan: Plan, subject: str, quantity: str) -> float:
    return next(v.value for v in plan.sizing if v.subject == subject and v.quantity == quantity)


@pytest.mark.parametrize(
    ("kw", "current", "breaker", "contactor", "section"),
    [
        (0.37, 1.1, 2, 9, 1.5),
        (1.5, 3.6, 6, 9, 1.5),
        (4, 8.5, 16, 9, 2.5),
        (7.5, 15.5, 25, 18, 6),
        (15, 29, 50, 32, 16),
        (30, 55, 100, 65, 35),
    ],
)
def test_starters_at_400_volts(kw: float, current: float, breaker: float, contactor: float, section: float) -> None:
    """Currents: IEC 60947-4-1 Annex G. Sections: IEC 60204-1 Table 6 B1 times 0.91 (45 degC) times 0.65 (4 circuits):
    13.5 18.3 24 31 44 59 77 96 A become 8.0 10.8 14.2 18.3 26 34.9 45.5 56.8 A. Breaker: next rating above 1.6 times.
    """
    plan = plan_of(HEAD + f'[starter.M1]\nkw = {kw}\nsupply = "C1"\n')
    assert value(plan, "M1", "motor_current") == current
    assert value(plan, "M1.F", "overload_setting") == current
    assert value(plan, "M1.Q", "protective_rating") == breaker
    assert value(plan, "M1.K", "contactor_rating") == contactor
    assert value(plan, "M1", "conductor_section") == section
    low, high = (plan.parts["M1.F"].rating(name) for name in ("amps_min", "amps_max"))
    assert low <= current <= high


@pytest.mark.parametrize(
    ("hp", "current", "breaker", "trip"),
    [(5, 7.6, 20, 8.74), (10, 14, 35, 16.1), (25, 34, 90, 39.1), (40, 52, 150, 59.8)],
)
def test_starters_at_480_volts(hp: float, current: float, breaker: float, trip: float) -> None:
    """NEC Table 430.250; 430.52: 250 %, next size of 240.6(A) (130 A has none, so 150); 430.32: 115 %."""
    plan = plan_of(small_text("ul").replace("hp = 10", f"hp = {hp}"))
    assert value(plan, "M1", "motor_current") == current
    assert value(plan, "M1.Q", "protective_rating") == breaker
    assert value(plan, "M1.F", "overload_setting") == pytest.approx(trip)


def test_the_transformer_holds_its_load_and_pulls_in_its_largest_coil() -> None:
    """By hand: two 9 A contactors hold 7.5 VA each, two lamps 1.5 VA each; one pulls in with 60 instead of 7.5 VA."""
    text = HEAD + "".join(f'[starter.M{n}]\nkw = 1.5\nsupply = "C1"\nlamps = ["run"]\n' for n in (1, 2))
    need = next(v for v in plan_of(text).sizing if v.quantity == "transformer_va")
    assert "holding 18 VA" in need.formula and "70.5 VA" in need.formula
    assert need.value == 63


def test_the_voltage_drop_of_a_long_cable_makes_it_thicker() -> None:
    """By hand: sqrt(3) 15.5 A 200 m 4.95 mohm/m 0.8 = 21.3 V = 5.3 % at 4 mm2, so 6 mm2 (3.30 mohm/m, 14.2 V = 3.5 %)."""
    text = HEAD.replace("[location.st1]", "[location.far]\ndistance = 200\n[location.st1]")
    plan = plan_of(text + '[starter.M1]\nkw = 7.5\nsupply = "C1"\nmotor_at = "far"\n')
    assert value(plan, "M1", "cable_section") == 6
    assert value(plan, "M1", "voltage_drop") == pytest.approx(100 * 14.2 / 400, abs=0.02)


def test_a_current_by_power_is_its_formula_and_a_nameplate_beats_the_table() -> None:
    """By hand: 5500 W / (1.732 400 V 0.9 0.8) = 11.03 A."""
    plan = plan_of(HEAD + '[starter.M1]\nkw = 5.5\nefficiency = 0.9\ncos_phi = 0.8\nsupply = "C1"\n')
    assert value(plan, "M1", "motor_current") == pytest.approx(11.03, abs=0.01)
    plan = plan_of(HEAD + '[starter.M1]\nkw = 5.5\namps = 10.4\nsupply = "C1"\n')
    assert value(plan, "M1", "motor_current") == 10.4


@settings(max_examples=25, deadline=None)
@given(st.floats(0.1, 30), st.floats(1.0, 1.5), st.integers(20, 45))
def test_larger_motors_and_hotter_air_never_get_thinner_wires(kw: float, more: float, ambient: int) -> None:
    def section(power: float, air: int) -> float:
        text = HEAD.replace("height = 1200", f"height = 1200\nambient = {air}")
        return value(plan_of(text + f'[starter.M1]\nkw = {power:.3f}\nsupply = "C1"\n'), "M1", "conductor_section")

    assert section(kw, ambient) <= section(kw * more, ambient)
    assert section(kw, ambient) <= section(kw, ambient + 5)


def test_a_single_phase_motor_goes_through_all_three_poles_of_its_overload() -> None:
    """Common practice, no source: one line through one pole, the other through two in series."""
    text = small_text().replace('system = "3ph+n"\nvolts = 400', 'system = "1ph+n"\nvolts = 230')
    text = text.replace('from = "L1 L2"', 'from = "L1 N"').replace("kw = 1.5", "kw = 1.5\nphases = 1\namps = 9")
    plan = plan_of(text)
    line, back = plan.potential_of("M1:U1"), plan.potential_of("M1:U2")
    assert line is not None and back is not None
    assert "M1.F:2/T1" in line.net.terminals and "M1.F:6/T3" in back.net.terminals
    assert {"M1.F:4/T2", "M1.F:5/L3"} <= set(plan.potential_of("M1.F:4/T2").net.terminals)  # type: ignore[union-attr]
