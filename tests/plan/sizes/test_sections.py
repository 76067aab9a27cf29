"""Conductor sizes: by hand from table rows, by laws, and from the factor of each circumstance."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from panels import roomy_panel_text
from riktig.checks.finding import Finding
from riktig.checks.run import find_all
from riktig.plan.basis.sized import SizedValue
from riktig.plan.plan import Plan
from riktig.plan.sizes.starter import DROP_LIMIT_PERCENT, START_DROP_LIMIT_PERCENT
from riktig.standards import iec_60204_1, nec, ul_508a
from support import HEAD, STARTER, WAYS, plan_of, small_text


def value(plan: Plan, subject: str, quantity: str) -> SizedValue:
    return next(v for v in plan.sizing if v.subject == subject and v.quantity == quantity)


def motor(kw: float, *, ambient: float = 35, more: str = "") -> str:
    return HEAD.replace("height = 1200", f"height = 1200\nambient = {ambient}") + (
        f'[starter.M1]\nkw = {kw:.3f}\nsupply = "C1"\n{more}' + WAYS
    )


def test_a_conductor_of_the_machine_standard_with_both_correction_factors() -> None:
    """IEC 60204-1:2016 Table 6 (1.5 mm2, B1: 13.5 A), D.1 (45 degC: 0.91) and D.2 (4 circuits: 0.65), values from memory:
    13.5 · 0.91 · 0.65 = 7.99 A. The air is 35 degC and 10 K more inside, four loaded circuits: common practice.
    """
    found = value(plan_of(HEAD + STARTER + WAYS), "M1", "conductor_section")
    assert "13.5 A · 0.91 (air 45 °C) · 0.65 (4 circuits together) = 7.99 A, needed 3.6 A" in found.formula
    assert found.carries == pytest.approx(7.985, abs=0.001) and found.margin_percent == pytest.approx(
        100 * (7.985 / 3.6 - 1), abs=0.1
    )


@settings(max_examples=15)
@given(st.floats(0.2, 22), st.integers(20, 50))
def test_every_wire_inside_carries_its_overload_setting(kw: float, ambient: int) -> None:
    """IEC 60204-1:2016 12.4: ampacity of Table 6 times both factors is no less than the setting; and the next smaller is."""
    plan = plan_of(motor(kw, ambient=ambient))
    factor = (iec_60204_1.ambient_factor(min(ambient + 10, 60)) or 0) * iec_60204_1.grouping_factor(4, "b1")
    chosen = value(plan, "M1", "conductor_section").value
    sizes = [1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95, 120]
    setting = plan.motors["M1"].setting
    assert (iec_60204_1.ampacity_a(chosen, "b1") or 0) * factor >= setting
    smaller = [s for s in sizes if s < chosen]
    assert not smaller or (iec_60204_1.ampacity_a(smaller[-1], "b1") or 0) * factor < setting


@settings(max_examples=15)
@given(st.floats(0.5, 15), st.integers(5, 400), st.integers(1, 200))
def test_a_longer_cable_never_drops_less_per_section_and_none_drops_over_the_limit(
    kw: float, metres: int, more: int
) -> None:
    def cable(length: int) -> tuple[float, float, float]:
        text = HEAD.replace("[location.st1]", f"[location.far]\ndistance = {length}\n[location.st1]")
        text = text.replace("[supply]", '[supply]\nearthing = "it"')
        plan = plan_of(text + f'[starter.M1]\nkw = {kw:.3f}\nmotor_at = "far"\nsupply = "C1"\n')
        return tuple(value(plan, "M1", q).value for q in ("cable_section", "voltage_drop", "start_drop"))  # type: ignore[return-value]

    (section, drop, start), (longer_section, longer_drop, longer_start) = cable(metres), cable(metres + more)
    assert longer_section >= section
    assert longer_section > section or (longer_drop >= drop and longer_start >= start)
    assert drop <= DROP_LIMIT_PERCENT and start <= START_DROP_LIMIT_PERCENT


@pytest.mark.parametrize(
    ("hp", "carry", "awg"), [(5, 9.5, "14"), (10, 17.5, "12"), (20, 33.75, "8"), (30, 50, "8"), (100, 155, "2/0")]
)
def test_north_american_wires_carry_a_quarter_more_than_the_table_current(hp: float, carry: float, awg: str) -> None:
    """NEC 430.22: 125 % of Table 430.250; inside by UL 508A Table 28.1 at 75 degC up to 40 degC: 15 20 30 50 65 ... 175 A."""
    plan = plan_of(small_text("ul").replace("hp = 10", f"hp = {hp}"))
    size = plan.sections.inside["1L1"]
    assert plan.motors["M1"].carry == pytest.approx(carry)
    assert (ul_508a.wiring_ampacity_a(size.awg) or 0) >= carry and size.awg == awg


def test_north_american_field_wiring_is_corrected_for_its_air() -> None:
    """By hand, NEC Table 310.16 at 75 degC and 310.15(B)(1): 17.5 A at 40 degC; 14 AWG 20 · 0.88 = 17.6 A is enough, at 45 degC
    20 · 0.82 = 16.4 A is not and 12 AWG (25 · 0.82 = 20.5 A) is taken.
    """
    hot = small_text("ul").replace("ambient = 40", "ambient = 45") if "ambient = 40" in small_text("ul") else None
    base = small_text("ul") if hot else small_text("ul").replace("[enclosure]", "[enclosure]\nambient = 40")
    hot = hot or base.replace("ambient = 40", "ambient = 45")
    assert [plan_of(text).starters["M1"].cable.awg for text in (base, hot)] == ["14", "12"]
    assert (nec.ampacity_a("14") or 0) * (nec.ambient_factor(40) or 0) == pytest.approx(17.6)


@pytest.mark.parametrize(
    ("kw", "core", "asked", "drive"), [(1.5, 1.5, 1.5, 2.5), (7.5, 4, 4, 6), (22, 16, 16, 16), (37, 95, 47.5, 25)]
)
def test_earth_goes_with_its_line_conductor(kw: float, core: float, asked: float, drive: float) -> None:
    """IEC 60204-1:2016 Table 1: equal up to 16 mm2, then 16, beyond 35 the half; laid by itself at least 2.5 mm2 (IEC 60364-5-54
    543.1.3). A motor's earth is the core of its cable, where all are alike, a drive's a wire in the panel: by hand 22 kW on 25 mm2 there,
    37 kW on 50. What is said is what is laid.
    """
    plan = plan_of(motor(kw))
    earth = value(plan, "M1", "earth_section")
    assert (earth.value, earth.needed) == (core, asked)
    assert core == value(plan, "M1", "cable_section").value == laid_to(plan, "M1:PE")
    driven = plan_of(motor(kw, more='kind = "drive"\n'))
    assert value(driven, "M1", "earth_section").value == drive == laid_to(driven, "M1.A:PE")


def test_a_person_may_want_a_thicker_earth() -> None:
    """All cores of a cable are alike, so that it gets thicker; a drive's earth is a wire of its own."""
    wish = '[kept.values]\n"M1|earth_section" = "6 | house rule"\n'
    plan = plan_of(motor(1.5) + wish)
    assert (
        value(plan, "M1", "earth_section").value
        == value(plan, "M1", "cable_section").value
        == laid_to(plan, "M1:PE")
        == 6
    )
    assert "for its earth as set by hand" in value(plan, "M1", "cable_section").formula
    driven = plan_of(motor(1.5, more='kind = "drive"\n') + wish)
    assert value(driven, "M1", "earth_section").value == laid_to(driven, "M1.A:PE") == 6
    assert value(driven, "M1", "cable_section").value == laid_to(driven, "M1:PE") == 1.5


def laid_to(plan: Plan, terminal: str) -> float:
    (mm2,) = {c.size.mm2 for c in plan.conductors if c.b == terminal}
    return mm2


def test_circumstances_change_the_cable_and_nothing_else() -> None:
    """IEC 60204-1:2016 Table 6 for 28 A at 35 degC (factor 1.08): conduit B2 6 mm2 (30 · 1.08 = 32 A), on a tray 4 mm2
    (E: 30 · 1.08 = 32 A); six circuits together on the tray 0.73: 6 mm2 37 · 1.08 · 0.73 = 29 A.
    """
    found = []
    for how in ('laid = "conduit"', 'laid = "tray"', 'laid = "tray"\ngrouped = 6'):
        text = HEAD.replace("[location.st1]", f"[location.near]\ndistance = 5\n{how}\n[location.st1]")
        plan = plan_of(text + '[starter.M1]\nkw = 15\namps = 28\nmotor_at = "near"\nsupply = "C1"\n' + WAYS)
        found.append((plan.starters["M1"].cable.mm2, plan.starters["M1"].line.mm2))
    assert found == [(6, 16), (4, 16), (6, 16)]


def test_gauges_and_square_millimetres_are_both_at_home_in_both_worlds() -> None:
    """By hand: 14 AWG is 2.08 mm2, between 1.5 (13.5 A) and 2.5 mm2 (18.3 A): 13.5 · (2.08 / 1.5)^0.596 = 16.4 A. Metric in
    North America takes the gauge below: 4 mm2 for 12 AWG (3.31 mm2, 20 A), 2.5 mm2 for 14 AWG (2.08 mm2, 15 A).
    """
    gauges = plan_of(HEAD.replace("[supply]", '[practice]\nconductors = "awg"\n[supply]') + STARTER)
    assert gauges.starters["M1"].line.label() == "14 AWG"
    formula = value(gauges, "M1", "conductor_section").formula
    assert 16.2 <= float(formula.split(": ")[1].split(" A")[0]) <= 16.6
    metric = plan_of(small_text("ul").replace("[practice]", '[practice]\nconductors = "mm2"'))
    assert metric.starters["M1"].line.label() == "4 mm²" and "20 A" in value(metric, "M1", "conductor_section").formula


def test_no_section_is_said_and_not_guessed() -> None:
    """1000 kW at 400 V is beyond every listed section."""
    found = value(plan_of(motor(900)), "M1", "conductor_section")
    assert found.formula.startswith("no listed section carries") and (found.margin_percent or 0) < 0


def test_mains_are_never_thinner_than_the_thickest_motor_circuit() -> None:
    plan = plan_of(HEAD + STARTER + '[starter.M2]\nkw = 15\nsupply = "C1"\n' + WAYS)
    assert plan.sections.inside["L1"].mm2 >= plan.sections.inside["4L1"].mm2 == 16


def test_control_wires_carry_the_rating_of_their_breaker() -> None:
    """By hand: 10 A needs 2.5 mm2 (18.3 * 0.91 * 0.65 = 10.8 A), 6 A fits 1 mm2 (6.1 A)."""
    for amps, mm2 in ((6, 1.0), (10, 2.5)):
        plan = plan_of(HEAD.replace("volts = 230", f"volts = 230\namps = {amps}") + STARTER + WAYS)
        assert plan.sections.inside["1"].mm2 == mm2


def test_a_feeder_of_ones_own_carries_its_breaker() -> None:
    """By hand: 20 A needs 10 mm2 (44 * 0.91 * 0.65 = 26.0 A; 6 mm2 carries 18.3 A)."""
    text = (
        HEAD
        + '[device.Q7]\nkind = "breaker"\namps = 20\n[device.M7]\nkind = "motor"\n[[feeder]]\npath = "L1 L2 L3 > Q7 > M7"\n'
        + WAYS
    )
    plan = plan_of(text)
    number = next(p.number for p in plan.potentials if "Q7:2" in p.net.terminals)
    assert plan.sections.inside[number].mm2 == 10 and plan.sections.cores["field/M7"].mm2 == 10


def test_wires_that_carry_too_little_where_they_really_lie_together_are_named_once() -> None:
    """By hand: 14 motors of 15.5 A on 6 mm2, 31 A (IEC 60204-1 Table 6, B1) at 45 degC, 0.91 (Table D.1), sized for four circuits, 0.65:
    18.3 A. Nine and more lie together in the upright duct, 0.5 (Table D.2): 14.1 A. Three in a panel are no matter. From memory.
    """

    def found(count: int) -> list[Finding]:
        starters = "".join(f'[starter.M{n}]\nkw = 7.5\nsupply = "C1"\n' for n in range(1, count + 1))
        roomy = HEAD.replace("width = 800\nheight = 1200", "width = 1600\nheight = 2000")
        roomy = roomy.replace("[supply]", '[practice]\ngrouping = "declared"\n[supply]')
        return [f for f in find_all(plan_of(roomy + starters)) if f.rule == "duct-grouping" and f.subject != "Q0"]

    assert found(3) == []
    (crowded,) = found(14)
    assert float(crowded.evidence.split()[0]) == pytest.approx(31 * 0.91 * 0.5, abs=0.05)
    assert "M1, M2" in crowded.message and "for 15.5 A" in crowded.message


def test_sizes_carry_where_the_wires_lie() -> None:
    """By hand: 15.5 A and 31 A · 0.91 · 0.5 = 14.1 A of 6 mm2 among nine, so 10 mm2, 44 A, 20 A. As above."""
    starters = "".join(f'[starter.M{n}]\nkw = 7.5\nsupply = "C1"\n' for n in range(1, 15))
    roomy = HEAD.replace("width = 800\nheight = 1200", "width = 1600\nheight = 2000")
    plan = plan_of(roomy + starters)
    assert not [f for f in find_all(plan) if f.rule == "duct-grouping" and f.subject != "Q0"]
    together = {name: choice.value for name, choice in plan.job.ledger.groups.items()}
    sections = {v.subject: v.value for v in plan.sizing if v.quantity == "conductor_section" and v.subject[0] == "M"}
    assert max(together.values()) >= 9 and len(sections) == 14
    assert all(
        sections[name] == (10 if together.get(name, 4) >= 9 else 6)
        for name in sections
        if together.get(name, 4) not in range(5, 9)
    )


@pytest.mark.parametrize("seed", [2, 4, 6, 9, 14, 31, 43])
def test_the_earth_of_a_drive_is_one_size_in_list_and_wires_and_goes_with_its_lines_as_laid(seed: int) -> None:
    """IEC 60204-1 Table 1, at least 2.5 mm2 by itself (IEC 60364-5-54 543.1.3); NEC 250.122 by the device, never above the lines: all
    from memory. A drive's lines carry 125 % of its input (NEC 430.122), so its earth may not be taken from the motor's current.
    """
    plan = plan_of(roomy_panel_text(seed))
    stated = {value.subject: value for value in plan.sizing if value.quantity == "earth_section"}
    frames = {c.b.partition(":")[0]: c.size.mm2 for c in plan.conductors if c.number == "PE" and c.b.endswith(".A:PE")}
    assert frames
    for device, laid in frames.items():
        name = device.removesuffix(".A")
        lines = [c.size for c in plan.conductors_at[f"{device}:L1"] if c.is_wired]
        assert laid == stated[name].value and stated[name].inputs["line"] == lines[0].label()
