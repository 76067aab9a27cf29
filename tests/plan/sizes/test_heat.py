"""Heat balance of a panel: by hand, and what mends it."""

from math import sqrt

import pytest

from riktig.checks.run import find_all
from riktig.plan.panel import wire_losses_w
from riktig.plan.plan import Plan
from support import HEAD, STARTER, plan_of

BIG = HEAD.replace("width = 800\nheight = 1200", "width = 400\nheight = 600\ndepth = 200")


def rules(plan: Plan) -> dict[str, str]:
    return {f.rule: f.message for f in find_all(plan)}


def test_the_rise_is_heat_over_surface_and_wall() -> None:
    """By hand (VDE 0660-500, at a wall): 1.4 · 0.4 (0.6 + 0.2) + 1.8 · 0.2 · 0.6 = 0.664 m2, 5.5 W/(m2 K)."""
    heat = plan_of(BIG + STARTER).panel.heat
    assert heat.area_m2 == pytest.approx(0.664)
    assert heat.rise_k == pytest.approx(heat.total_w / (5.5 * 0.664), abs=0.01)
    assert heat.inside_c == pytest.approx(35 + heat.rise_k)


def test_too_much_heat_names_the_fan_that_mends_it_and_the_fan_mends_it() -> None:
    hot = BIG + '[starter.M1]\nkw = 15\nkind = "drive"\nsupply = "C1"\n'
    plan = plan_of(hot)
    words = rules(plan)["inside-temperature"]
    assert f"a filter fan of {plan.panel.heat.needed_air_m3h:.0f} m³/h" in words
    cooled = plan_of(hot + '[excepted.X1]\nload = "fan"\n')
    fan = cooled.panel.heat.fans_m3h
    assert cooled.panel.heat.rise_k == pytest.approx(cooled.panel.heat.total_w / (5.5 * 0.664 + fan / 3.1), abs=0.01), (
        "air takes V / f with it"
    )
    assert ("inside-temperature" in rules(cooled)) is (fan < plan.panel.heat.needed_air_m3h)


def test_a_fan_is_proposed_under_a_name_that_is_free() -> None:
    hot = BIG + '[starter.M1]\nkw = 15\nkind = "drive"\nsupply = "C1"\n[excepted.X1]\nload = "light"\n'
    assert '[excepted.X2] load = "fan"' in rules(plan_of(hot))["inside-temperature"]


def test_the_transformer_of_a_service_socket_idles() -> None:
    """It is loaded with the door open; a fifth of its rated losses stays without load: common practice, no source."""
    supply = 'volts = 480\nhertz = 60\nearthing = "wye-grounded"\n[practice]\nstandard = "ul"'
    text = HEAD.replace("volts = 400", supply).replace("volts = 230", "volts = 120")
    plan = plan_of(text + '[excepted.X1]\nload = "socket"\n')
    rated = plan.parts["X1.T"].losses_w
    assert rated > 50 and plan.panel.heat.by_device["X1.T"] == pytest.approx(rated / 5)


def test_cold_asks_for_a_heater_by_the_same_surface() -> None:
    """By hand: from -10 to 5 degC 15 K · 5.5 · 0.664 = 54.8 W."""
    cold = BIG.replace("depth = 200", "depth = 200\nambient_min = -10")
    assert "needs 55 W" in rules(plan_of(cold + STARTER))["cold-enclosure"]
    warm = plan_of(cold + STARTER + '[excepted.X1]\nload = "heater"\n')
    assert warm.panel.heat.needed_heater_w == pytest.approx(54.8, abs=0.1)
    assert "cold-enclosure" not in rules(warm)


def test_thin_air_carries_less() -> None:
    """Air factor 3.1 m3 K/(W h) at sea level and more above: common practice."""
    text = BIG + STARTER + '[excepted.X1]\nload = "fan"\n'
    low = plan_of(text).panel.heat
    high = plan_of(text.replace("depth = 200", "depth = 200\naltitude = 900")).panel.heat
    assert high.fans_m3h < low.fans_m3h and high.rise_k > low.rise_k


def test_only_what_carries_current_warms_its_wire() -> None:
    """By hand: 22 kW star-delta, 41 A. Line wires carry 41 A, those behind contactors 23.7 A, each as thick as it is needed; wires
    of the control supply count nothing; a main conductor whose load falls evenly to nothing has a mean square of a third.
    IEC 60228 Table 3, class 5, mohm/m at 20 degC, times 1.1965 at 70 degC, from memory.
    """
    chain = HEAD.replace("[supply]", '[practice]\ndistribution = "chain"\n[supply]')
    plan = plan_of(chain + '[starter.M1]\nkw = 22\nkind = "star-delta"\nsupply = "C1"\n')
    sizes = {p.number: plan.sections.inside[p.number].mm2 for p in plan.potentials if p.net.phase == "L1"}
    line, lead = (next(p.number for p in plan.potentials if t in p.net.terminals) for t in ("M1.Q:2", "M1.KD:2/T1"))
    assert sizes[line] > sizes[lead], "a meeting point of paths is no main conductor"

    ohm = {4.0: 4.95, 6.0: 3.30, 10.0: 1.91, 16.0: 1.21, 25.0: 0.780, 35.0: 0.554}
    wires = [c for c in plan.conductors if c.location == "plate" and c.number in {line, lead, "L1", "1"}]
    assert {c.number for c in wires} == {line, lead, "L1", "1"}
    for wire in wires:
        amps = 41 if "M1.Q:2" in {wire.a, wire.b} else 41 / sqrt(3)
        amps = {"L1": plan.panel.full_load_a / sqrt(3), "1": 0.0}.get(wire.number, amps)
        by_hand = amps**2 * ohm.get(wire.size.mm2, 0) * 1.1965e-6 * wire.length_mm
        lost = wire_losses_w((wire,), plan.netlist, plan.starters, plan.power_circuits, plan.panel.load)
        assert lost == pytest.approx(by_hand, rel=0.02)
