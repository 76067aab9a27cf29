"""NEC (NFPA 70) values typed here from memory of the tables, and their rules by other roads."""

from math import sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from riktig.standards import iec_60898_1, nec
from riktig.standards.tables import interpolate, read_columns, read_table
from riktig.units.conductor_size import AWG_SIZES


@pytest.mark.parametrize(
    ("hp", "v230", "v460"),
    [(0.5, 2.2, 1.1), (2, 6.8, 3.4), (7.5, 22, 11), (15, 42, 21), (40, 104, 52), (75, 192, 96), (125, 312, 156)],
)
def test_three_phase_currents(hp: float, v230: float, v460: float) -> None:
    """NEC Table 430.250."""
    assert (nec.motor_current_a(hp, 230), nec.motor_current_a(hp, 460)) == (v230, v460)


@pytest.mark.parametrize(("hp", "v115", "v230"), [(0.5, 9.8, 4.9), (1, 16, 8), (3, 34, 17), (5, 56, 28)])
def test_single_phase_currents(hp: float, v115: float, v230: float) -> None:
    """NEC Table 430.248."""
    assert (nec.motor_current_a(hp, 120, 1), nec.motor_current_a(hp, 230, 1)) == (v115, v230)


def test_a_voltage_between_the_columns_or_a_power_outside_has_no_value() -> None:
    assert nec.motor_current_a(10, 400) is None
    assert nec.motor_current_a(1000, 460) is None


@given(st.floats(0.5, 100), st.floats(1.01, 2))
def test_currents_grow_with_power_and_agree_with_it(hp: float, factor: float) -> None:
    """746 W per hp; efficiency times power factor of small to large motors lies between 0.4 and 0.93."""
    amps, more = nec.motor_current_a(hp, 460), nec.motor_current_a(hp * factor, 460)
    assert amps is not None and more is not None and more >= amps
    assert 0.4 <= hp * 746 / (sqrt(3) * 460 * amps) <= 0.93


@pytest.mark.parametrize(
    ("amps", "rating"), [(14.9, 15), (15.1, 20), (85, 90), (112, 125), (126, 150), (226, 250), (601, 700)]
)
def test_the_next_standard_rating(amps: float, rating: float) -> None:
    """NEC 240.6(A)."""
    assert nec.standard_rating_a(amps) == rating


def test_ratings_end_somewhere() -> None:
    assert nec.standard_rating_a(6001) is None


@pytest.mark.parametrize(("awg", "c60", "c75"), [("14", 15, 20), ("12", 20, 25), ("10", 30, 35), ("8", 40, 50), ("6", 55, 65),
                                                 ("4", 70, 85), ("2", 95, 115), ("1/0", 125, 150), ("4/0", 195, 230)])  # fmt: skip
def test_ampacities_of_copper(awg: str, c60: float, c75: float) -> None:
    """NEC Table 310.16."""
    assert (nec.ampacity_a(awg, "c60"), nec.ampacity_a(awg, "c75")) == (c60, c75)


def test_ampacities_grow_with_size_and_temperature_rating() -> None:
    sizes = [awg for awg in AWG_SIZES if nec.ampacity_a(awg) is not None]
    for column in ("c60", "c75", "c90"):
        values = [nec.ampacity_a(awg, column) or 0 for awg in sizes]
        assert values == sorted(values)
    assert all(
        (nec.ampacity_a(a, "c60") or 0) < (nec.ampacity_a(a, "c75") or 0) < (nec.ampacity_a(a, "c90") or 0)
        for a in sizes
    )


@pytest.mark.parametrize(("celsius", "factor"), [(10, 1.2), (30, 1.0), (31, 0.94), (40, 0.88), (50, 0.75), (70, 0.33)])
def test_ambient_corrections(celsius: float, factor: float) -> None:
    """NEC Table 310.15(B)(1), 75 degC column; by formula sqrt((75 - t) / 45) within its rounding at the upper edge."""
    assert nec.ambient_factor(celsius) == factor
    if celsius % 5 == 0 and celsius >= 30:
        assert factor == pytest.approx(sqrt((75 - celsius) / 45), abs=0.02)


def test_beyond_the_table_nothing_is_carried() -> None:
    assert nec.ambient_factor(71) is None


@pytest.mark.parametrize(
    ("device", "awg"), [(15, "14"), (20, "12"), (60, "10"), (100, "8"), (200, "6"), (400, "3"), (800, "1/0")]
)
def test_equipment_grounding_conductors(device: float, awg: str) -> None:
    """NEC Table 250.122."""
    assert nec.equipment_ground_awg(device) == awg


def test_a_device_beyond_the_table_is_a_key_error() -> None:
    with pytest.raises(KeyError):
        nec.equipment_ground_awg(1300)


@pytest.mark.parametrize(("factor", "percent"), [(1.0, 1.15), (1.14, 1.15), (1.15, 1.25), (1.25, 1.25)])
def test_the_overload_follows_the_service_factor(factor: float, percent: float) -> None:
    """NEC 430.32(A)(1)."""
    assert nec.overload_trip_a(10, factor) == pytest.approx(10 * percent)


@pytest.mark.parametrize(("curve", "band"), [("B", (3, 5)), ("C", (5, 10)), ("D", (10, 20))])
def test_trip_bands(curve: str, band: tuple[float, float]) -> None:
    """IEC 60898-1 Table 7."""
    assert iec_60898_1.instantaneous_band(curve) == band


@given(st.floats(0, 10))
def test_interpolation_stays_between_its_neighbours(x: float) -> None:
    pairs = ((1.0, 2.0), (3.0, 8.0), (4.0, 9.0))
    y = interpolate(pairs, x)
    assert (y is None) is not (1 <= x <= 4)
    assert y is None or 2 <= y <= 9


def test_every_table_reads_whole_and_says_where_it_comes_from() -> None:
    from importlib.resources import files

    for entry in files("riktig.standards").joinpath("data").iterdir():
        head = entry.read_text(encoding="utf-8").splitlines()[0]
        assert "rom memory" in head or "common practice, no source" in head, entry.name
        rows = read_table(entry.name.removesuffix(".csv"))
        assert rows and all(len(row) == len(rows[0]) and None not in row for row in rows)
    assert read_columns("ampacity_iec_60204_1_t6", "mm2", "b1")[0] == (0.75, 8.6)
