"""Tables against values typed here from the standard named, and formulas by another road. All from memory."""

from math import sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from riktig.standards import iec_60204_1, iec_60228, iec_60947_4_1, nec
from riktig.standards.colours import ConductorFunction, conductor_colour


@pytest.mark.parametrize(("kw", "volts", "amps"), [(0.37, 400, 1.1), (1.5, 400, 3.6), (4, 400, 8.5), (7.5, 400, 15.5),
                                                   (15, 400, 29), (45, 400, 80), (5.5, 500, 9.2), (2.2, 690, 2.8)])  # fmt: skip
def test_motor_currents_of_the_iec_table(kw: float, volts: float, amps: float) -> None:
    """IEC 60947-4-1 Annex G."""
    assert iec_60947_4_1.rated_motor_current_a(kw, volts) == amps


@pytest.mark.parametrize(
    ("hp", "volts", "amps"), [(1, 480, 2.1), (10, 480, 14), (25, 480, 34), (30, 480, 40), (50, 240, 130)]
)
def test_motor_currents_of_the_nec_table(hp: float, volts: float, amps: float) -> None:
    """NEC Table 430.250."""
    assert nec.motor_current_a(hp, volts) == amps


@given(st.floats(0.75, 132), st.floats(0.1, 20))
def test_a_larger_motor_never_draws_less_and_the_table_agrees_with_power(kw: float, more: float) -> None:
    """P = sqrt(3) U I cos phi eta with the usual span of efficiency times power factor, 0.55 to 0.90."""
    amps = iec_60947_4_1.rated_motor_current_a(kw, 400)
    assert amps is not None
    assert 0.55 <= kw * 1000 / (sqrt(3) * 400 * amps) <= 0.90
    larger = iec_60947_4_1.rated_motor_current_a(min(kw + more, 250), 400)
    assert larger is not None and larger >= amps


def test_the_worked_motor_example_of_the_code() -> None:
    """NEC Informative Annex D, Example D8: 25 hp at 460 V, nameplate 32 A, service factor 1.15."""
    assert nec.motor_current_a(25, 460) == 34
    assert nec.overload_trip_a(32, 1.15) == pytest.approx(40.0)
    assert nec.branch_breaker_a(34) == 90
    assert 1.25 * 34 == 42.5 and (nec.ampacity_a("8") or 0) >= 42.5 > (nec.ampacity_a("10") or 0)


@pytest.mark.parametrize(("mm2", "method", "amps"), [(1.5, "b1", 13.5), (2.5, "b2", 17.4), (6, "c", 36), (16, "e", 70)])
def test_ampacities_of_the_machine_standard(mm2: float, method: str, amps: float) -> None:
    """IEC 60204-1:2016 Table 6."""
    assert iec_60204_1.ampacity_a(mm2, method) == amps


def test_correction_factors_and_earth_sections() -> None:
    """IEC 60204-1:2016 Tables D.1, D.2 and 1; NEC Tables 310.15(B)(1) and 250.122."""
    assert (iec_60204_1.ambient_factor(50), iec_60204_1.grouping_factor(4, "b1")) == (0.82, 0.65)
    assert [iec_60204_1.protective_section_mm2(s) for s in (2.5, 25, 70)] == [2.5, 16, 35]
    assert iec_60204_1.min_section_mm2(inside=True, power=True) == 0.75
    assert (nec.ambient_factor(38), nec.equipment_ground_awg(60), nec.small_conductor_limit_a("12")) == (0.88, "10", 20)


@given(st.sampled_from([1.5, 2.5, 4.0, 6.0, 10.0, 16.0, 25.0, 35.0]))
def test_resistance_agrees_with_resistivity(mm2: float) -> None:
    """Annealed copper, 1/58 ohm mm2/m (IEC 60028); a class 5 conductor is allowed up to 16 % more (IEC 60228)."""
    assert 1.0 <= iec_60228.resistance_ohm_per_m(mm2) / (1 / 58 / mm2) <= 1.16


@pytest.mark.parametrize(
    ("function", "iec", "ul"),
    [
        (ConductorFunction.NEUTRAL, "light blue", "white"),
        (ConductorFunction.EARTH, "green-yellow", "green-yellow"),
        (ConductorFunction.CONTROL_AC, "red", "red"),
        (ConductorFunction.CONTROL_DC, "blue", "blue"),
        (ConductorFunction.CONTROL_AC_RETURN, "red", "white"),
        (ConductorFunction.EXCEPTED, "orange", "yellow"),
    ],
)
def test_colours_by_function(function: ConductorFunction, iec: str, ul: str) -> None:
    """IEC 60204-1:2016 13.2.4; UL 508A 66.5 and NFPA 79 13.2."""
    assert (conductor_colour(function, "iec"), conductor_colour(function, "ul")) == (iec, ul)
