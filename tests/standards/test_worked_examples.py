"""Published worked examples end to end, and formulas by an independent road. Values from memory unless a test says else."""

from math import pi, sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from riktig.plan.plan import Plan
from riktig.standards import iec_60228, iec_60269, iec_60890, iec_60947_4_1, iec_61439_1, nec, ul_508a
from riktig.units.conductor_size import AWG_SIZES, awg_area_mm2
from support import plan_of, small_text

D8 = (
    small_text("ul").partition("[starter.M1]")[0]
    + """
[incoming]
protection = "fuse"
[starter.M1]
hp = 25
amps = 32
service_factor = 1.15
supply = "C1"
protection = "fuse"
curve = "{fuse}"
[starter.M2]
hp = 30
amps = 38
supply = "C1"
protection = "fuse"
[starter.M3]
hp = 30
amps = 38
supply = "C1"
protection = "fuse"
"""
)


def value_of(plan: Plan, subject: str, quantity: str) -> float:
    return next(v.value for v in plan.sizing if v.subject == subject and v.quantity == quantity)


def trip_limit(plan: Plan, overload: str) -> float:
    value = next(v for v in plan.sizing if (v.subject, v.quantity) == (overload, "overload_setting"))
    return float(value.inputs["trip_limit"])


def test_example_d8_conductors_and_overloads() -> None:
    """NEC Informative Annex D, Example D8: 25 hp (34 A table, 32 A nameplate, SF 1.15) and two of 30 hp (40 A, 38 A) at 460 V:
    branch conductors for 42.5 and 50 A, overloads that trip at 40 and 43.7 A at the latest, feeder 1.25 · 40 + 40 + 34 = 124 A.
    """
    plan = plan_of(D8.replace("{fuse}", "dual-element"))
    assert [plan.motors[m].carry for m in ("M1", "M2", "M3")] == pytest.approx([42.5, 50, 50])
    assert [value_of(plan, f"{m}.F", "overload_setting") for m in ("M1", "M2")] == [32, 38], (
        "the dial stands at the nameplate current"
    )
    assert trip_limit(plan, "M1.F") == pytest.approx(1.25 * 32)
    assert trip_limit(plan, "M2.F") == pytest.approx(1.15 * 38)
    assert nec.feeder_ampacity_a([34, 40, 40]) == 124
    assert plan.panel.load.main_carry == pytest.approx(124, abs=0.5), "and the control transformer"


@pytest.mark.parametrize(
    ("fuse", "branch", "ceiling", "feeder"), [("nontime-delay", 110, 125, 175), ("dual-element", 60, 70, 125)]
)
def test_example_d8_fuses(fuse: str, branch: float, ceiling: float, feeder: float) -> None:
    """D8 goes on: nontime-delay 300 % = 102, so 110 A, at most 400 % = 136, so 125 A; time-delay 175 % = 59.5, so 60 A, at most
    225 % = 76.5, so 70 A; feeder with 110 A: 110 + 40 + 40 = 190, next below 175 A. With time-delay fuses, by hand: the largest
    is 70 A of a 30 hp motor, 70 + 34 + 40 = 144, next below 125 A.
    """
    plan = plan_of(D8.replace("{fuse}", fuse))
    assert value_of(plan, "M1.Q", "protective_rating") == branch
    assert nec.branch_ceiling_a(f"{fuse} fuse", 34) == ceiling
    others = [value_of(plan, f"M{n}.Q", "protective_rating") for n in (2, 3)]
    assert others == [70, 70]
    assert nec.feeder_device_a([branch, *others], [34, 40, 40]) == feeder
    assert value_of(plan, "incoming.FP", "protective_rating") <= feeder


@pytest.mark.parametrize(
    ("size", "counts"),
    [("1/2", {"14": 12, "12": 9, "10": 5, "8": 3, "6": 2}), ("3/4", {"14": 22, "12": 16, "10": 10, "8": 6, "6": 4}),
     ("1", {"14": 35, "12": 26, "10": 16, "8": 9, "6": 7})],
)  # fmt: skip
def test_conduits_of_equal_wires(size: str, counts: dict[str, int]) -> None:
    """NEC Informative Annex C, Table C.1 (EMT, THHN/THWN-2)."""
    assert {awg: nec.most_in_conduit(awg, size) for awg in counts} == counts


def test_a_conduit_of_mixed_wires() -> None:
    """Worked by hand by Chapter 9 Tables 1, 4 and 5: four 8 AWG and three 14 AWG take 4 · 0.0366 + 3 · 0.0097 = 0.1755 in2; 40 %
    of EMT 1/2 is 0.122, of 3/4 0.213 in2.
    """
    assert nec.conduit_trade_size([("8", 4), ("14", 3)]) == "3/4"
    assert [nec.conduit_area_percent(n) for n in (1, 2, 3)] == [53, 31, 40]
    assert nec.conduit_trade_size([("4/0", 40)]) is None


def test_an_enclosure_and_how_warm_it_gets() -> None:
    """Common handbook example of VDE 0660-500: a free-standing cabinet 1.0 x 2.2 x 0.5 m has 1.8 · 2.2 · 1.5 + 1.4 · 0.5 = 6.64 m2;
    painted steel 5.5 W/(m2 K): 750 W make 20.5 K, and a fan for 15 K moves 3.1 (750 - 547.8) / 15 = 41.8 m3/h.
    """
    area = iec_60890.effective_area_m2(1.0, 2.2, 0.5, "free")
    assert area == pytest.approx(6.64)
    k = iec_60890.wall_coefficient("steel")
    assert iec_60890.temperature_rise_k(750, area, k) == pytest.approx(20.54, abs=0.01)
    air = iec_60890.needed_air_m3h(750, area, k, 15)
    assert air == pytest.approx(41.8, abs=0.1)
    assert iec_60890.temperature_rise_k(750, area, k, air) == pytest.approx(15, abs=0.01)


@given(st.floats(0.2, 3), st.floats(0.2, 3), st.floats(0.1, 1))
def test_a_covered_rear_never_cools_better(width: float, height: float, depth: float) -> None:
    """By faces: top 1.4, open sides 0.9, covered rear 0.5 of their area (VDE 0660-500 Table 3)."""
    free = iec_60890.effective_area_m2(width, height, depth, "free")
    wall = iec_60890.effective_area_m2(width, height, depth, "wall")
    top, side, front = 1.4 * width * depth, 0.9 * height * depth, 0.9 * width * height
    assert free == pytest.approx(top + 2 * side + 2 * front)
    assert wall == pytest.approx(top + 2 * side + front + 0.5 * width * height)


@pytest.mark.parametrize("awg", [a for a in AWG_SIZES if "/" not in a and int(a) < 100])
def test_gauge_areas_by_the_ratio_of_a_step(awg: str) -> None:
    """ASTM B258: 0.0050 in at 36 AWG and 0.4600 in at 4/0, 39 equal ratios between: by repeated multiplication, not by power."""
    diameter = 0.46
    for _ in range(int(awg) + 3):
        diameter /= (0.46 / 0.005) ** (1 / 39)
    assert awg_area_mm2(awg) == pytest.approx(pi / 4 * (25.4 * diameter) ** 2, rel=1e-9)


@pytest.mark.parametrize(
    ("awg", "ohm_kft"), [("14", 3.07), ("12", 1.93), ("10", 1.21), ("8", 0.764), ("6", 0.491), ("2", 0.194)]
)
def test_warm_resistance_against_another_table(awg: str, ohm_kft: float) -> None:
    """NEC Chapter 9 Table 8, uncoated copper at 75 degC, solid to 10 AWG and stranded above: within 10 % at 70 degC, since a
    flexible conductor of IEC 60228 class 5 is allowed more.
    """
    found = iec_60228.resistance_ohm_per_m(awg_area_mm2(awg), iec_60228.HOT_C) * 304.8
    assert found == pytest.approx(ohm_kft, rel=0.10)


@given(st.floats(1, 100), st.floats(1, 300), st.sampled_from([1.5, 4.0, 16.0, 50.0]), st.floats(0.3, 1))
def test_voltage_drop_is_that_of_resistivity_when_hot(amps: float, metres: float, mm2: float, cos_phi: float) -> None:
    """IEC 60364-5-52 Annex G: b (ρ1 L / S cos φ + λ L sin φ) I, ρ1 = 0.0225 Ω mm2/m, λ = 0.08 mΩ/m; within 8 %, since the tables of
    IEC 60228 replace ρ1 / S.
    """
    by_annex = sqrt(3) * amps * metres * (0.0225 / mm2 * cos_phi + 0.08e-3 * sqrt(1 - cos_phi**2))
    assert iec_60228.voltage_drop_v(amps, metres, mm2, cos_phi, phases=3) == pytest.approx(by_annex, rel=0.08)


@pytest.mark.parametrize(("rms", "factor"), [(4, 1.5), (10, 1.7), (20, 2.0), (50, 2.1), (60, 2.2)])
def test_peaks_and_what_needs_no_proof(rms: float, factor: float) -> None:
    """IEC 61439-1 Table 7 and 10.11.2: up to 10 kA no proof of short-circuit strength; a fuse that lets at most 17 kA through."""
    assert iec_61439_1.peak_ka(rms) == pytest.approx(rms * factor)
    assert iec_61439_1.needs_proof(rms) is (rms > 10)


@given(st.sampled_from([16.0, 63.0, 100.0, 400.0]), st.floats(1, 100))
def test_a_fuse_never_lets_more_through_than_the_peak(amps: float, ka: float) -> None:
    """IEC 60269: cut-off grows with rating and fault current, and is never above the unlimited peak 1.8 √2 Ik of IEC 60909."""
    cut_off = iec_60269.cut_off_ka(amps, ka)
    assert cut_off <= 1.01 * 1.8 * sqrt(2) * ka
    assert cut_off <= iec_60269.cut_off_ka(amps * 2, ka) + 1e-9 and cut_off <= iec_60269.cut_off_ka(amps, ka * 2)


@pytest.mark.parametrize(
    ("fuse", "amps", "ka", "peak"),
    [("CC", 20, 50, 3), ("CC", 30, 100, 7.5), ("J", 60, 200, 16), ("J", 45, 42, 8), ("RK5", 30, 50, 11), ("J", 601, 50, None),
     ("J", 60, 201, None)],
)  # fmt: skip
def test_peak_let_through(fuse: str, amps: float, ka: float, peak: float | None) -> None:
    """UL 508A Table SB4.2."""
    assert ul_508a.let_through_ka(fuse, amps, ka) == peak


@pytest.mark.parametrize(
    ("kind", "hp", "ka"), [("contactor", 10, 5), ("contactor", 50, 5), ("contactor", 75, 10), ("drive", 300, 18)]
)
def test_assumed_strength_of_unmarked_components(kind: str, hp: float, ka: float) -> None:
    """UL 508A Table SB4.1: motor controllers 0 to 50 hp 5 kA, 51 to 200 hp 10 kA, 201 to 400 hp 18 kA."""
    assert ul_508a.default_ka(kind, hp) == ka


@pytest.mark.parametrize(("trip_class", "seconds"), [("10", 4), ("20", 6), ("30", 9)])
def test_overload_classes(trip_class: str, seconds: float) -> None:
    """IEC 60947-4-1 Table 2: at 7.2 times, class 10 between 4 and 10 s, 20 between 6 and 20, 30 between 9 and 30; by I² t at other
    ratios.
    """
    assert iec_60947_4_1.start_held_s(trip_class, 7.2) == pytest.approx(seconds)
    assert iec_60947_4_1.start_held_s(trip_class, 3.6) == pytest.approx(4 * seconds)
    assert [iec_60947_4_1.making_multiple(c) for c in ("AC-1", "AC-3", "AC-4")] == [1.5, 10, 12]


@pytest.mark.parametrize(("circuits", "factor"), [(1, 1.0), (2, 0.9), (3, 0.9), (5, 0.8), (9, 0.7), (10, 0.6)])
def test_rated_diversity(circuits: int, factor: float) -> None:
    """IEC 61439-2 Table 101: 2 and 3 circuits 0.9, 4 and 5 0.8, 6 to 9 0.7, 10 and more 0.6."""
    assert iec_61439_1.diversity_factor(circuits) == factor
