"""Sizes of starters against values worked by hand from table rows typed here with their source."""

from math import sqrt

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from riktig.checks.run import find_all
from riktig.plan.basis.sized import SizedValue
from riktig.plan.plan import Plan
from riktig.plan.sizes.starter import size_starter
from support import HEAD, STARTER, WAYS, plan_of, small_text


def sized(plan: Plan, subject: str, quantity: str) -> SizedValue:
    return next(v for v in plan.sizing if v.subject == subject and v.quantity == quantity)


def value(plan: Plan, subject: str, quantity: str) -> float:
    return sized(plan, subject, quantity).value


def motor(kw: float, *lines: str) -> str:
    return HEAD + "\n".join(("[starter.M1]", f"kw = {kw}", 'supply = "C1"', *lines)) + "\n"


@pytest.mark.parametrize(
    ("kw", "current", "breaker", "contactor", "section"),
    [
        (0.37, 1.1, 2, 9, 1.5),
        (1.5, 3.6, 6, 9, 1.5),
        (4, 8.5, 16, 9, 2.5),
        (7.5, 15.5, 25, 18, 6),
        (15, 29, 50, 32, 16),
        (30, 55, 100, 65, 35),
        (90, 160, 320, 185, 240),
    ],
)
def test_starters_at_400_volts(kw: float, current: float, breaker: float, contactor: float, section: float) -> None:
    """Currents: IEC 60947-4-1 Annex G. Sections: IEC 60204-1 Table 6 B1 times 0.91 (45 degC) times 0.65 (4 circuits):
    13.5 18.3 24 31 44 59 77 96 A become 8.0 10.8 14.2 18.3 26 34.9 45.5 56.8 A; 240 mm2 346 · 0.87 A of IEC 60364-5-52.
    Breaker: next rating above 1.6 times.
    """
    plan = plan_of(motor(kw) + WAYS)
    assert value(plan, "M1", "motor_current") == current
    assert value(plan, "M1.F", "overload_setting") == current
    assert value(plan, "M1.Q", "protective_rating") == breaker
    assert value(plan, "M1.K", "contactor_rating") == contactor
    assert value(plan, "M1", "conductor_section") == section
    low, high = (plan.parts["M1.F"].rating(name) for name in ("amps_min", "amps_max"))
    assert low <= current <= high


@pytest.mark.parametrize(
    ("lines", "code", "least", "words"),
    [
        (('curve = "B"',), "cb3-b63", 52.6, "curve B, which holds 3 times, ignores a peak of 158 A"),
        (('curve = "C"',), "cb3-c32", 31.6, "curve C, which holds 5 times, ignores a peak of 158 A"),
        ((), "cb3-d25", 24.8, "a start of 7.2 · 15.5 A = 112 A for 4 s passes"),
        (("start_seconds = 20",), "cb3-d50", 49.6, "for 20 s passes"),
        (("start_ratio = 3",), "cb3-d20", 19.4, "a start of 3 · 15.5 A"),
        (('protection = "fuse"',), "fu3-32", 29.8, "gG, which holds 3.75 times"),
        (('protection = "fuse"', 'curve = "aM"'), "fa3-20", 17.7, "aM, which holds 6.3 times"),
        (('protection = "magnetic"',), "ma3-16", 15.8, "curve MA, which holds 10 times"),
        (('protection = "motor-breaker"',), "mb16", 15.8, "its upper end at least 158 A / 10 = 15.8 A"),
    ],
)
def test_each_school_of_protection_rides_through_the_start(
    lines: tuple[str, ...], code: str, least: float, words: str
) -> None:
    """7.5 kW, 15.5 A, by hand: peak √2 · 7.2 · 15.5 = 158 A over 3, 5, 10 (IEC 60898-1 Table 7); 1.6 · 15.5 for 5 s, twice
    that for 20 s; 112 A / 3.75 for gG and / 6.3 for aM (IEC 60269). Shares of time: common practice, no source.
    """
    plan = plan_of(motor(7.5, *lines))
    assert plan.parts["M1.Q"].code.partition("+")[0] == code
    found = sized(plan, "M1.Q", "protective_rating")
    assert found.needed == pytest.approx(least, abs=0.06) and words in found.formula
    assert ("M1.F" in plan.parts) is (lines != ('protection = "motor-breaker"',))


@pytest.mark.parametrize(
    ("hp", "lines", "code"),
    [
        (5, "", "ub3-20"),
        (25, "", "ub3-90"),
        (25, 'protection = "fuse"', "cj3-60"),
        (25, 'protection = "fuse"\ncurve = "nontime-delay"', "cj3-110"),
        (5, 'protection = "fuse"', "cc3-15"),
        (25, 'protection = "magnetic"', "ui3-50"),
        (25, 'protection = "motor-breaker"', "mb40"),
    ],
)
def test_each_school_of_branch_protection_in_north_america(hp: float, lines: str, code: str) -> None:
    """NEC 430.52, Table 430.250 (7.6 and 34 A): 250 % 85 -> 90 A, 19 -> 20; 175 % 59.5 -> 60, 13.3 -> 15; 300 % 102 -> 110."""
    plan = plan_of(small_text("ul").replace("hp = 10", f"hp = {hp}\n{lines}"))
    assert plan.parts["M1.Q"].code.partition("+")[0] == code
    assert plan.unmet == {}


@pytest.mark.parametrize("kind", ["drive", "soft"])
@pytest.mark.parametrize(
    ("world", "power", "amps", "code"), [("iec", "kw = 11", 22, "mb25"), ("ul", "hp = 15", 21, "mbl25")]
)
def test_a_motor_breaker_ahead_of_a_drive_is_set_to_what_passes_it(
    kind: str, world: str, power: str, amps: float, code: str
) -> None:
    """11 kW 22 A, IEC 60947-4-1 from memory; 15 hp 21 A, NEC Table 430.250. One of 2.5 to 6.3 A stood there, which let the start pass.
    125 % of a drive of 25 A is 31.25 A, 8 AWG of 40 A at 60 degC, Table 310.16: no clamp of 6 mm2. No contactor, no type F.
    """
    text = motor(11) if world == "iec" else small_text("ul").replace('kind = "dol"\n', "").replace("hp = 10", "hp = 15")
    old = "kw = 11" if world == "iec" else "hp = 15"
    plan = plan_of(text.replace(old, f'{power}\nkind = "{kind}"\nprotection = "motor-breaker"'))
    part = plan.parts["M1.Q"]
    assert plan.setting_of("M1.Q") == pytest.approx(amps, abs=0.7)
    assert part.rating("amps_min") <= amps <= part.rating("amps_max")
    assert kind == "soft" or part.code.partition("+")[0] == code
    assert kind == "soft" or "type F" not in sized(plan, "M1.Q", "protective_rating").formula
    assert not [f for f in find_all(plan) if f.rule == "clamp-size" and f.severity == "must"]


@pytest.mark.parametrize(
    ("hp", "current", "breaker", "trip"),
    [(5, 7.6, 20, 8.74), (10, 14, 35, 16.1), (25, 34, 90, 39.1), (40, 52, 150, 59.8)],
)
def test_starters_at_480_volts(hp: float, current: float, breaker: float, trip: float) -> None:
    """NEC Table 430.250; 430.52: 250 %, next size of 240.6(A) (130 A has none, so 150); the dial at the current, and 430.32: 115 % is
    where the relay trips at the latest.
    """
    plan = plan_of(small_text("ul").replace("hp = 10", f"hp = {hp}"))
    assert value(plan, "M1", "motor_current") == current
    assert value(plan, "M1.Q", "protective_rating") == breaker
    assert value(plan, "M1.F", "overload_setting") == current
    assert sized(plan, "M1.F", "overload_setting").inputs["trip_limit"] == pytest.approx(trip)


def test_star_delta_divides_the_current_and_says_so() -> None:
    """1/√3 through overload, line and delta contactor, a third through star: common practice and IEC 60947-4-1, from memory.
    22 kW, 41 A: 23.7 and 13.7 A.
    """
    plan = plan_of(motor(22, 'kind = "star-delta"'))
    assert value(plan, "M1.F", "overload_setting") == pytest.approx(41 / sqrt(3), abs=0.02)
    assert "0.577 · 41 A = 23.7 A" in sized(plan, "M1.F", "overload_setting").formula
    for role, words, needed in (
        ("K", "0.577 · 41 A = 23.7 A", 23.66),
        ("KD", "0.577 · 41 A = 23.7 A", 23.66),
        ("KS", "1/3 · 41 A = 13.7 A", 13.67),
    ):
        found = sized(plan, f"M1.{role}", "contactor_rating")
        assert words in found.formula and found.needed == pytest.approx(needed, abs=0.01)
    assert [plan.parts[f"M1.{r}"].rating("amps") for r in ("K", "KD", "KS")] == [25, 25, 18]
    assert plan.starters["M1"].leads < plan.starters["M1"].line


def test_a_start_in_star_draws_a_third_and_its_cable_leads_it_there_and_back() -> None:
    """IEC 60034-12: a third of the start current in star, from memory. By hand, 22 kW, 41 A, 2.4 · 41 = 98.4 A: there and back in
    cores of IEC 60228 class 5 at 70 degC, of 400 / √3 V; in delta 0.577 · 41 A there and back, of 400 V.
    """
    plan = plan_of(motor(22, 'kind = "star-delta"'))
    assert plan.motors["M1"].start == pytest.approx(98.4)
    ohm = {2.5: 7.98, 4.0: 4.95, 6.0: 3.30, 10.0: 1.91}[plan.cable_size("M1").mm2] * 1.1965e-3
    running = 100 * 2 * 0.577 * 41 * 20 * (ohm * 0.8 + 0.08e-3 * 0.6) / 400
    starting = 100 * 2 * 98.4 * 20 * (ohm * 0.35 + 0.08e-3 * 0.937) / (400 / sqrt(3))
    assert value(plan, "M1", "voltage_drop") == pytest.approx(running, rel=0.01)
    assert value(plan, "M1", "start_drop") == pytest.approx(starting, rel=0.01)


@pytest.mark.parametrize(
    ("kind", "given", "ratio"),
    [("dol", 6, 6), ("soft", 0, 3.5), ("soft", 2.5, 2.5), ("drive", 0, 1.5), ("star-delta", 6, 2)],
)
def test_the_start_current_is_the_kinds_or_as_given(kind: str, given: float, ratio: float) -> None:
    plan = plan_of(motor(15, f'kind = "{kind}"', *([f"start_ratio = {given}"] if given else [])))
    assert plan.motors["M1"].start == pytest.approx(ratio * plan.motors["M1"].current)


@pytest.mark.parametrize(
    ("protection", "multiple", "trip_class", "is_told"),
    [("breaker", 7.2 / 3 / 0.577, "30", True), ("motor-breaker", 7.2 / 3, "20", False)],
)
def test_an_overload_of_a_star_delta_starter_is_judged_by_what_it_sees(
    protection: str, multiple: float, trip_class: str, is_told: bool
) -> None:
    """By hand: in star a third of 7.2 times flows. A relay in the winding is set to 1/√3: it sees 4.16 times, and class 30, sure for
    9 s at 7.2 times (IEC 60947-4-1 Table 2), holds 9 · (7.2 / 4.16)² = 27 s. A motor breaker in the line sees 2.4 times: class 20
    holds 6 · 9 = 54 s.
    """
    text = STARTER.replace("kw = 1.5", f'kind = "star-delta"\nkw = 11\nprotection = "{protection}"\nstart_seconds = 40')
    plan = plan_of(HEAD + text.replace("start_seconds = 40", f'start_seconds = 40\ntrip_class = "{trip_class}"'))
    assert plan.motors["M1"].start_multiple == pytest.approx(multiple, rel=1e-3)
    told = [f for f in find_all(plan) if f.rule == "trip-class"]
    assert bool(told) is is_told
    assert not told or "(sure up to 27 s)" in told[0].message


@pytest.mark.parametrize(("seconds", "trip_class"), [(4, "10"), (6, "20"), (9, "30"), (12, None)])
def test_a_slow_start_gets_a_slower_overload(seconds: float, trip_class: str | None) -> None:
    """IEC 60947-4-1 Table 2: class 10 does not trip within 4 s at 7.2 times, 20 within 6 s, 30 within 9 s."""
    plan = plan_of(motor(4, f"start_seconds = {seconds}"))
    assert plan.motors["M1"].trip_class == trip_class
    assert plan.parts["M1.F"].traits["trip_class"] == (trip_class or "30")
    assert ("trip-class" in {f.rule for f in find_all(plan)}) is (trip_class is None)


def test_inching_takes_a_contactor_for_it() -> None:
    """AC-4 current of a contactor is well below half of AC-3: common practice, no source."""
    plan = plan_of(motor(4, 'duty = "AC-4"'))
    assert plan.parts["M1.K"].rating("amps") >= 18 and plan.parts["M1.K"].rating("amps_ac4") >= 8.5
    assert "AC-4 current at least 8.5 A" in sized(plan, "M1.K", "contactor_rating").formula


def test_the_transformer_holds_its_load_and_pulls_in_its_largest_coil() -> None:
    """By hand: two 9 A contactors hold 7.5 VA each, two lamps 1.5 VA each; one pulls in with 60 instead of 7.5 VA."""
    text = HEAD + "".join(f'[starter.M{n}]\nkw = 1.5\nsupply = "C1"\nlamps = ["run"]\n' for n in (1, 2))
    plan = plan_of(text)
    need = sized(plan, "C1.T", "transformer_va")
    assert "1.25 · 18 VA held = 22.5 VA" in need.formula and "70.5 VA" in need.formula
    assert (need.value, value(plan, "C1", "control_va")) == (63, 18)


def test_a_north_american_transformer_is_fused_within_the_code() -> None:
    """NEC 430.72(C)(4): 63 VA / 480 V = 0.131 A, up to 500 % = 0.656 A, so 0.5 A; Table 450.3(B) secondary 63 / 120 = 0.525 A,
    up to 167 % = 0.877 A, so 0.5 A.
    """
    plan = plan_of(small_text("ul"))
    assert [plan.parts[f"C1.{r}"].code for r in ("FP", "F")] == ["cc2-0_5", "cc1-0_5"]
    assert sized(plan, "C1.FP", "protective_rating").most == pytest.approx(0.656, abs=0.001)


@pytest.mark.parametrize(
    ("volts", "families"), [(400, ("cb3", "cb2", "vd")), (500, ("mc3", "fu2", "vd")), (690, ("mc3", "fu2", "vx"))]
)
def test_parts_are_made_for_the_volts_of_their_supply(volts: float, families: tuple[str, str, str]) -> None:
    """Miniature breakers end at 440 V (IEC 60898-1 1), usual drives at 500 V: common practice, no source."""
    text = HEAD.replace("volts = 400", f"volts = {volts}", 1) + STARTER + STARTER.replace("M1]", 'M2]\nkind = "drive"')
    plan = plan_of(text)
    found = [plan.parts[d].code for d in ("M1.Q", "C1.FP", "M2.A")]
    assert [code.startswith(family) for code, family in zip(found, families, strict=True)] == [True] * 3, found
    assert plan.unmet == {}


def test_a_class_2_supply_ends_at_a_hundred_volt_amperes() -> None:
    """NEC Chapter 9 Table 11(B): 100 VA, at 24 V 4.17 A."""
    text = HEAD + '[control.C2]\nkind = "psu"\nclass_2 = true\n[starter.M1]\nkw = 1.5\nsupply = "C2"\n'
    plan = plan_of(text)
    assert plan.parts["C2.G"].traits["class_2"] == "yes"
    assert sized(plan, "C2.G", "supply_load").most == pytest.approx(100 / 24)
    heavy = plan_of(text.replace("class_2 = true", "class_2 = true\namps = 8"))
    assert any(f.rule == "rating-missing" and f.subject == "C2.G" for f in find_all(heavy))


def test_the_voltage_drop_of_a_long_cable_makes_it_thicker() -> None:
    """By hand, IEC 60364-5-52 Annex G at 70 degC, 4.95 and 3.30 mohm/m times 1.1965: √3 · 15.5 A · 200 m · (5.92 · 0.8 + 0.08 ·
    0.6) mohm/m = 25.7 V = 6.4 % at 4 mm2, 17.2 V = 4.3 % at 6 mm2.
    """
    text = HEAD.replace("[location.st1]", "[location.far]\ndistance = 200\n[location.st1]")
    text = text.replace("[supply]", '[supply]\nearthing = "it"')
    plan = plan_of(text + '[starter.M1]\nkw = 7.5\nsupply = "C1"\nmotor_at = "far"\n')
    assert value(plan, "M1", "cable_section") == 6
    assert value(plan, "M1", "voltage_drop") == pytest.approx(100 * 17.2 / 400, abs=0.02)
    start = value(plan, "M1", "start_drop")
    assert start == pytest.approx(
        100 * sqrt(3) * 7.2 * 15.5 * 200 * (3.948e-3 * 0.35 + 0.08e-3 * 0.937) / 400, abs=0.05
    )


def test_a_current_by_power_is_its_formula_and_a_nameplate_beats_the_table() -> None:
    """By hand: 5500 W / (1.732 400 V 0.9 0.8) = 11.03 A."""
    plan = plan_of(motor(5.5, "efficiency = 0.9", "cos_phi = 0.8"))
    assert value(plan, "M1", "motor_current") == pytest.approx(11.03, abs=0.01)
    assert value(plan_of(motor(5.5, "amps = 10.4")), "M1", "motor_current") == 10.4


@settings(max_examples=20)
@given(st.floats(0.1, 30), st.floats(1.0, 1.5), st.integers(20, 45))
def test_larger_motors_and_hotter_air_never_get_less(kw: float, more: float, ambient: int) -> None:
    """Near the panel: far away a breaker D of 100 A asks for more copper than a moulded-case one of 160 A, which opens sooner."""

    def sizes(power: float, air: int) -> tuple[float, ...]:
        text = HEAD.replace("height = 1200", f"height = 1200\nambient = {air}").replace(
            "[supply]", "[supply]\nfault_ka = 10"
        )
        near = "[location.field]\ndistance = 2\n"
        plan = plan_of(text + near + f'[starter.M1]\nkw = {power:.3f}\nsupply = "C1"\n')
        names = (
            ("M1", "conductor_section"),
            ("M1", "cable_section"),
            ("M1.Q", "protective_rating"),
            ("M1.K", "contactor_rating"),
        )
        return tuple(value(plan, *name) for name in names)

    small = sizes(kw, ambient)
    assert all(a <= b for a, b in zip(small, sizes(kw * more, ambient), strict=True))
    assert all(a <= b for a, b in zip(small, sizes(kw, ambient + 5), strict=True))


def test_a_changed_motor_is_the_only_one_that_is_sized_again() -> None:
    head = HEAD.replace("[supply]", '[practice]\ngrouping = "declared"\n[supply]')
    many = head + "".join(f'[starter.M{n}]\nkw = {0.5 + n / 8}\nsupply = "C1"\n' for n in range(1, 31))
    before = plan_of(many)
    misses = size_starter.cache_info().misses
    after = plan_of(many.replace("kw = 1.5\n", "kw = 2.2\n"))
    assert size_starter.cache_info().misses == misses + 1
    changed = [name for name in before.starters if before.starters[name] is not after.starters[name]]
    assert changed == ["M8"]


def test_a_single_phase_motor_goes_through_all_three_poles_of_its_overload() -> None:
    """Common practice, no source: one line through one pole, the other through two in series."""
    text = small_text().replace('system = "3ph+n"\nvolts = 400', 'system = "1ph+n"\nvolts = 230')
    text = text.replace('from = "L1 L2"', 'from = "L1 N"').replace("kw = 1.5", "kw = 1.5\nphases = 1\namps = 9")
    for more, part in (("", "F"), ('\nprotection = "motor-breaker"', "Q")):
        plan = plan_of(text.replace("amps = 9", f"amps = 9{more}"))
        line, middle = plan.potential_of(f"M1.{part}:2/T1"), plan.potential_of(f"M1.{part}:4/T2")
        assert line is not None and middle is not None
        assert f"M1.{part}:5/L3" in middle.net.terminals
        assert part == "Q" or "M1:U1" in line.net.terminals
