"""Whether a fault at the far end is cleared, against loops and gates worked by hand."""

from math import sqrt

import pytest

from riktig.checks.run import find_all
from riktig.plan.circuit.model import NEXT_PANEL
from riktig.plan.circuit.zones import device_of
from riktig.plan.making.labels import build_labels
from riktig.plan.plan import Plan
from riktig.plan.sizes.loops import Loop
from riktig.standards import iec_60269, iec_60364_4
from support import HEAD, plan_of

FAR = HEAD.replace("[supply]", "[supply]\nfault_ka = 10") + "[location.field]\ndistance = {metres}\n"
MOTOR = '[starter.M1]\nkw = 4\nsupply = "C1"\n'
BY_HAND = '[kept.values]\n"M1|cable_section" = "1.5 | on site already"\n'


def at(metres: float, more: str = MOTOR) -> Plan:
    return plan_of(FAR.replace("{metres}", f"{metres}") + more)


def loop(plan: Plan, load: str = "M1") -> Loop:
    return next(loop for loop in plan.loops if loop.load == load)


def found(plan: Plan, rule: str) -> list[str]:
    return [f.message for f in find_all(plan) if f.rule == rule and f.severity == "must"]


def test_a_loop_is_what_it_is_by_hand() -> None:
    """4 kW: 8.5 A, D16, which opens at 320 A (IEC 60898-1 Table 7). 230.9 V; 2 · 230.9 V / 10 kA = 46.2 milliohm; 1.5 mm2 of class 5
    has 13.3 milliohm per metre (IEC 60228), at 70 degC 15.91, there and back 31.83. 0.95 · 230.9 / 320 = 0.6856 ohm: 20.1 m.
    """
    plan = at(60, MOTOR + BY_HAND)
    one = loop(plan)
    assert plan.parts["M1.Q"].code.endswith("d16")
    assert one.trips_a == 320
    assert (
        one.longest_m
        == pytest.approx((0.95 * 400 / sqrt(3) / 320 - 0.04619) / 0.031827, rel=1e-3)
        == pytest.approx(20.09, abs=0.01)
    )
    assert one.fault_a == pytest.approx(219.4 / (0.0462 + 60 * 0.031827), rel=1e-3)
    (message,) = found(plan, "disconnection")
    assert "take 6 mm²" in message, (
        "(0.6856 - 0.0462) / 60 m = 10.66 milliohm: 6 mm2 has 7.9, 4 mm2 has 11.8 there and back"
    )


def test_a_cable_is_as_thick_as_its_length_asks() -> None:
    plan = at(60)
    assert plan.cable_size("M1").mm2 == 6.0
    assert found(plan, "disconnection") == []
    value = next(v for v in plan.sizing if (v.subject, v.quantity) == ("M1", "cable_section"))
    assert "1.5 mm² would do, 6 mm² so that a fault at its end is cleared" in value.formula


def test_no_cable_helps_a_supply_that_is_too_weak_and_a_motor_breaker_that_opens_sooner_does() -> None:
    """30 kW: 55 A and a breaker of 100 A, 1.4 or 2 kA to open it, where 2 · 231 V / 2 kA leaves 950 A."""
    weak = FAR.replace("fault_ka = 10", "fault_ka = 2").replace("{metres}", "10")
    plan = plan_of(weak + '[starter.M1]\nkw = 30\nsupply = "C1"\n')
    (message,) = found(plan, "disconnection")
    assert "too weak for it at any length" in message


@pytest.mark.parametrize(
    ("amps", "seconds", "melts"), [(16, 5, 65), (63, 5, 320), (63, 0.1, 820), (100, 5, 580), (63, 0.4, 590.6)]
)
def test_fuses_melt_as_their_gates_say(amps: float, seconds: float, melts: float) -> None:
    """IEC 60269-1 Table 3, gG; 0.4 s lies on logarithmic paper between 0.1 and 5 s: 820 · 4^(ln(320/820)/ln 50) = 587, from memory."""
    assert iec_60269.melts_a("gG", amps, seconds) == pytest.approx(melts, rel=0.01)


def test_a_final_circuit_has_0_4_s_and_others_5() -> None:
    """IEC 60364-4-41 411.3.2.2: up to 32 A; 411.3.2.3 beyond."""
    assert (iec_60364_4.disconnection_s(32), iec_60364_4.disconnection_s(40)) == (0.4, 5.0)


def test_a_residual_current_device_clears_what_a_breaker_does_not_and_tt_asks_for_one() -> None:
    """IEC 60364-4-41 411.5.3: R_A · 30 mA at most 50 V."""
    way = "[way.W1]\namps = 16\npoles = 1\n[location.hall]\ndistance = 400\n".replace(
        "poles = 1\n", 'poles = 1\nat = "hall"\n'
    )
    assert found(at(20, way), "disconnection")
    assert found(at(20, way.replace("poles = 1", "poles = 1\nrcd = true")), "disconnection") == []
    tt = plan_of(FAR.replace("fault_ka", 'earthing = "tt"\nfault_ka').replace("{metres}", "20") + MOTOR)
    assert "residual-current device" in found(tt, "disconnection")[0]
    assert iec_60364_4.residual_earthing_ohm(0.03) == pytest.approx(1667, abs=1)


def test_a_length_is_said_in_metres_and_a_section_by_its_size() -> None:
    said = {v.quantity: v.text for v in at(10, MOTOR).sizing if v.subject == "M1"}
    assert said["greatest_length"].endswith(" m") and said["cable_section"].endswith(" mm²")


def test_a_conductor_stands_k2_s2() -> None:
    """IEC 60364-4-43 434.5.2, k = 115: 1.5 mm2 stands 29756 A2s, 10 mm2 1.32 million."""
    assert iec_60364_4.stands_a2s(1.5) == pytest.approx(29756, abs=1)
    assert iec_60364_4.stands_a2s(10) == pytest.approx(1.3225e6)


def test_a_cable_behind_a_fuse_that_lets_too_much_through_is_found() -> None:
    """gG 63 A lets about twice 27000 A2s through (IEC 60269-1 Table 7), more than 1.5 mm2 stands."""
    fuse = MOTOR.replace("kw = 4", 'kw = 15\nprotection = "fuse"')
    assert found(at(5, fuse), "fault-heating") == []
    assert found(at(5, fuse + BY_HAND), "fault-heating")


def test_the_supply_of_the_panel_is_protected_by_a_fuse_that_can_be_bought_and_carries_the_largest_start() -> None:
    """22 kW: 41 A and 295 A while it starts, which a gG holds with 3.75 times its rating: 78.7 A, so 80 A; conductors and switch for it.
    In North America 5 hp at 480 V: 250 % of 7.6 A, so 20 A (NEC 430.52, 430.62).
    """
    plan = at(10, MOTOR.replace("kw = 4", "kw = 22"))
    assert plan.panel.supply.value == 80
    assert plan.parts["Q0"].rating("amps") == 100, "the next switch that is made"
    assert plan.sections.inside["L1"].mm2 == 35.0, "77 · 0.91 = 70 A in 25 mm2 at 45 degC, 96 · 0.91 = 87 A in 35 mm2"
    assert "80 A gG" in next(label.text for label in build_labels(plan) if "Full load" in label.text)
    ul = HEAD.replace("volts = 400", 'volts = 480\nearthing = "wye-grounded"\n[practice]\nstandard = "ul"').replace(
        "= 230", "= 120"
    )
    assert plan_of(ul + '[starter.M1]\nhp = 5\nsupply = "C1"\n').panel.supply.value == 20


@pytest.mark.parametrize(("given", "laid"), [(16, 35), (35, 35), (70, 70)])
def test_lines_to_the_next_panel_carry_what_protects_the_supply_for_nothing_else_protects_them(
    given: float, laid: float
) -> None:
    """22 kW behind 80 A, as above: 16 mm2 carries 56 · 0.91 = 51 A, 25 mm2 78 · 0.91 = 71 A, 35 mm2 96 · 0.91 = 87 A: IEC 60204-1
    Table 6 B1 and D.1, IEC 60364-4-43 433.1, from memory.
    """
    plan = at(10, MOTOR.replace("kw = 4", "kw = 22") + f"[pass_through]\nsection_mm2 = {given}\n")
    onward = [
        c for c in plan.conductors if NEXT_PANEL in {device_of(c.a), device_of(c.b)} and c.number.startswith("in.")
    ]
    assert {c.size.mm2 for c in onward} == {laid}
    assert plan.panel.supply.value == 80
    rules = {finding.rule for finding in find_all(plan)}
    assert ("passed-on" in rules) is (given < laid) and "long-tap" not in rules


def test_one_motor_alone_is_not_grouped_and_air_beyond_the_table_carries_nothing() -> None:
    """IEC 60204-1 Table D.2 counts loaded circuits; Table D.1 ends at 60 degC."""
    alone = at(10, MOTOR.replace("kw = 4", "kw = 37"))
    assert alone.laid_inside.grouped == 1
    assert [f for f in find_all(alone) if f.rule == "conductor-protection"] == []
    hot = plan_of(FAR.replace("{metres}", "10").replace("[enclosure]", "[enclosure]\nambient = 55") + MOTOR)
    assert any("beyond the table" in v.formula for v in hot.sizing)
    assert found(hot, "conductor-protection")
