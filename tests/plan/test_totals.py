"""Panel totals, labels, what to buy, sheets."""

import pytest

from riktig.checks.run import find_all
from riktig.plan.making.bom import build_bom
from riktig.plan.making.labels import build_labels
from riktig.plan.making.lots import cut_lengths
from support import HEAD, STARTER, plan_of, small_text


def test_the_panel_carries_all_motors_and_control_supplies_together() -> None:
    """By hand: 3.6 A + 8.5 A, and two coils of 7.5 VA with two lamps of 1.5 VA each at 400 V = 21 / 400 = 0.0525 A."""
    plan = plan_of(HEAD + STARTER + STARTER.replace("M1", "M2").replace("1.5", "4"))
    assert plan.panel.full_load_a == pytest.approx(3.6 + 8.5 + 21 / 400)
    assert plan.panel.largest_motor_a == 8.5


@pytest.mark.parametrize(("world", "rating", "weakest"), [("iec", 6, {"C1.FP"}), ("ul", 5, {"Q0", "M1.K", "M1.F"})])
def test_the_panel_is_as_strong_as_its_weakest_power_component(world: str, rating: float, weakest: set[str]) -> None:
    """UL 508A SB4.1: 5 kA for unmarked controllers up to 50 hp, from memory; what is behind a transformer does not count."""
    panel = plan_of(small_text(world)).panel
    assert (panel.sccr_ka, set(panel.sccr_limited_by)) == (rating, weakest)


def test_heat_falls_with_the_square_of_the_current_and_the_wires_have_their_share() -> None:
    """By hand for the 9 A contactor at 3.6 A: coil 0.3 · 7.5 VA = 2.25 W, the other 0.25 W at (3.6 / 9)² = 0.04 W."""
    heat = plan_of(HEAD + STARTER).panel.heat
    assert heat.by_device["M1.K"] == pytest.approx(2.25 + 0.25 * 0.16, abs=0.01)
    assert heat.by_device["C1.T"] == 9
    assert 0 < heat.wires_w < 2 and heat.total_w == pytest.approx(sum(heat.by_device.values()) + heat.wires_w)


def test_every_wire_is_labelled_at_both_ends_and_the_plate_says_what_it_must() -> None:
    """Nameplate: number, volts, phases, hertz, full load, largest motor, short-circuit rating: NEC 409.110, from memory."""
    plan = plan_of(small_text())
    labels = build_labels(plan)
    wires = {x.text: x.count for x in labels if x.kind == "wire"}
    for number in wires:
        assert wires[number] == 2 * sum(c.number == number and c.kind != "link" for c in plan.conductors)
    (plate,) = [x.text for x in labels if x.kind == "nameplate"]
    assert all(
        word in plate
        for word in (
            "R-0417",
            "400 V",
            "3 phases and neutral",
            "50 Hz",
            "Full load: 3.6 A",
            "Largest motor: 3.6 A",
            "6 kA",
        )
    )
    assert any(x.kind == "warning" and "prove dead" in x.text for x in labels)
    assert {x.text for x in labels if x.kind == "legend"} >= {"Stop, Apple elevator", "Start, Apple elevator"}


def test_what_to_buy_counts_parts_bars_and_metres() -> None:
    plan = plan_of(small_text())
    lines = {line.code: line for line in build_bom(plan)}
    assert lines["ct9-10@230AC"].tags == ("K1",) and lines["ct9-10@230AC"].quantity == 1
    assert lines["bf-10"].tags == ("K1",), "the block is a line of its own"
    assert lines["rail-35x7.5"].quantity == max(c.bar for c in plan.cuts if c.what == "rail")
    cut = cut_lengths(plan)
    red = sum(cut[c.id] for c in plan.conductors if c.kind == "wire" and c.colour == "red") / 1000
    assert lines["wire-1-red"].quantity == pytest.approx(red, abs=0.005)
    assert lines["cable-4x1.5"].quantity == 18
    assert not any(line.code.startswith("motor") for line in lines.values()), "the customer has it"


def test_operators_are_listed_as_they_are_ordered() -> None:
    """Positions, what comes back by itself, key, colour, lens and volts: common practice, no source."""
    text = HEAD + (
        '[starter.M1]\nkw = 1.5\nsupply = "C1"\ncontrol = "selector"\nselector = "hand-off-auto"\nauto = "B4:no"\nkey = true\n'
        'lamps = ["run"]\n[device.B4]\nkind = "float"\n[starter.M2]\nkw = 1.5\nsupply = "C1"\nestop_at = ["door"]\n'
        '[starter.M3]\nkw = 1.5\nsupply = "C1"\ncontrol = "selector"\n[alarm.A1]\nfrom = "B5"\n[device.B5]\nkind = "float"\n'
    )  # fmt: skip
    titles = {line.title: line for line in build_bom(plan_of(text))}
    for words in (
        "Key-operated selector 22 mm, key comes out in every position, 2 make contacts, 3 positions hand - off - auto",
        "Selector switch 22 mm, stays where it is put, 1 make contacts, 2 positions off - on",
        "Selector switch 22 mm, spring return to the middle, 2 make contacts, 3 positions silence - off - test",
        "Cap for a push-button 22 mm, red", "Cap for a push-button 22 mm, green", "Lens for a beacon 70 mm, red",
        "Indicator lamp 22 mm, green lens, 230 V AC",
    ):  # fmt: skip
        assert words in titles, sorted(titles)
    assert [t for t in titles if t.startswith("Emergency stop")] == [
        "Emergency stop 22 mm, red mushroom on a yellow plate, turn to release, contacts 01"
    ]


def test_each_supply_has_its_own_greatest_protection_and_it_is_printed() -> None:
    """Two motors of 11 kW, 22 A each (IEC 60947-4-1 Annex G): (22 + 7.2 · 22) / 3.75 = 48 A, so gG 50 (IEC 60269-1)."""
    text = HEAD + '[extra_supply.P]\nsystem = "3ph"\nvolts = 400\n' + STARTER
    plan = plan_of(text + "".join(f'[starter.M{n}]\nkw = 11\nsupply = "C1"\npower = "P"\n' for n in (2, 3)))
    assert plan.panel.further["P"].value == 50
    said = [f.message for f in find_all(plan) if f.rule == "supply-protection"]
    assert len(said) == 2 and "supply P with fuses gG of no more than 50 A" in said[1]
    (plate,) = [label.text for label in build_labels(plan) if label.kind == "nameplate"]
    assert "Supply P: 400 V 3 phases 50 Hz, full load 44.0 A, protected by at most 50 A gG (IEC 60269)" in plate
