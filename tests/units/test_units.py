"""Numbers, quantities and conductor sizes as people write them."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from riktig.units.conductor_size import AWG_SIZES, awg_area_mm2, from_awg, from_mm2
from riktig.units.numbers import BadNumber, format_ohms, parse_number, parse_reading
from riktig.units.quantity import parse_quantity


@pytest.mark.parametrize(("text", "value"), [("4", 4), ("0,37", 0.37), (" .5 ", 0.5), ("-2.0", -2)])
def test_numbers_take_point_or_comma(text: str, value: float) -> None:
    assert parse_number(text) == value


@pytest.mark.parametrize("text", ["", "1.2.3", "4 kW", "one"])
def test_what_is_no_number_is_refused_with_a_sentence(text: str) -> None:
    with pytest.raises(BadNumber, match="is not a number"):
        parse_number(text)


@pytest.mark.parametrize(
    ("text", "ohms"), [("0.3", 0.3), ("1,2k", 1200), ("2 M", 2e6), ("OL", math.inf), ("open", math.inf), ("5 Ω", 5)]
)
def test_readings_are_typed_as_a_meter_shows_them(text: str, ohms: float) -> None:
    assert parse_reading(text) == ohms


def test_a_negative_reading_is_refused_with_the_mend() -> None:
    with pytest.raises(BadNumber, match="swap the probes"):
        parse_reading("-1")


@given(st.floats(0.01, 3e7))
def test_a_reading_survives_being_shown(ohms: float) -> None:
    shown = parse_reading(format_ohms(ohms).replace("kΩ", "k").replace("MΩ", "M"))
    assert shown == pytest.approx(ohms, rel=0.01, abs=0.006)


@pytest.mark.parametrize(
    ("value", "unit", "expected"),
    [(600, "mm", 600), ("24 in", "mm", 609.6), ("60 ft", "m", 18.288), ("750 W", "kW", 0.75)],
)
def test_quantities_carry_their_unit(value: object, unit: str, expected: float) -> None:
    assert parse_quantity(value, unit) == pytest.approx(expected)


@pytest.mark.parametrize(
    ("value", "words"), [("400", "has no unit"), ("4 kg", "does not fit"), (True, "is no quantity")]
)
def test_a_text_without_its_unit_is_refused(value: object, words: str) -> None:
    with pytest.raises(BadNumber, match=words):
        parse_quantity(value, "V")


@pytest.mark.parametrize(
    ("awg", "mm2"), [("14", 2.08), ("12", 3.31), ("10", 5.26), ("8", 8.37), ("1/0", 53.5), ("4/0", 107)]
)
def test_gauge_areas_are_those_of_the_standard(awg: str, mm2: float) -> None:
    """ASTM B258 table of nominal areas, from memory."""
    assert awg_area_mm2(awg) == pytest.approx(mm2, rel=0.005)


def test_areas_grow_with_the_list_of_sizes_and_both_worlds_are_given() -> None:
    areas = [awg_area_mm2(awg) for awg in AWG_SIZES]
    assert areas == sorted(areas)
    assert (from_mm2(2.5).awg, from_awg("14").mm2, from_mm2(2.5).label()) == ("14", 2.08, "2.5 mm²")
