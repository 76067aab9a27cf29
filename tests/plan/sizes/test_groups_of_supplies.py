"""Groups of a DC supply: each behind a device of its own, one return, one supply that feeds them all."""

import pytest

from riktig.checks.run import find_all
from riktig.drawings.display import Text
from riktig.drawings.single_line import draw_single_line
from riktig.files.brief_reader import BriefError, parse_brief
from riktig.files.brief_writer import write_brief
from support import HEAD, plan_of

SUPPLY = '[control.C2]\nkind = "psu"\nfrom = "L1 L2"\n'
GROUPS = '[control.C3]\ngroup_of = "C2"\n[control.C4]\ngroup_of = "C2"\namps = 4\n'


def valve(name: str, supply: str, va: float) -> str:
    device = f'[device.{name}]\nkind = "valve"\nva = {va}\n[device.S{name}]\nkind = "pushbutton"\n'
    return device + f'[[rung]]\npath = "{supply}+ > S{name}:no > {name} > {supply}-"\n'


TEXT = HEAD + GROUPS + SUPPLY + valve("Y2", "C2", 24) + valve("Y3", "C3", 48) + valve("Y4", "C4", 36)


def test_each_group_has_a_device_for_its_own_load_and_the_supply_is_for_all() -> None:
    """1.25 · 24 W / 24 V = 1.25 A: 2 A; 1.25 · 48 / 24 = 2.5 A: 3 A; 4 A as given; 1.25 · 108 / 24 = 5.63 A of the supply: 10 A."""
    plan = plan_of(TEXT)
    assert [plan.parts[f"{c}.F"].rating("amps") for c in ("C2", "C3", "C4")] == [2, 3, 4]
    assert {plan.parts[f"{c}.F"].traits["curve"] for c in ("C2", "C3", "C4")} == {"electronic"}
    assert plan.parts["C2.G"].rating("amps") == 10 and "C3.G" not in plan.parts
    assert [f.rule for f in find_all(plan) if f.severity == "must"] == []


def test_groups_begin_at_the_supply_and_return_to_it_and_take_names_behind_those_of_whole_supplies() -> None:
    plan = plan_of(TEXT.replace(SUPPLY, SUPPLY + '[control.C5]\nkind = "psu"\nfrom = "L1 L2"\n'))
    number = {name: p.number for p in plan.potentials for name in p.net.names}
    assert {number[f"{c}-"] for c in ("C2", "C3", "C4")} == {"0V"} and number["C5-"] == "0V.2"
    assert [number[f"{c}+"] for c in ("C2", "C5", "C3", "C4")] == ["24V", "24V.2", "24V.3", "24V.4"]
    hot = next(p.net.terminals for p in plan.potentials if "@C2_hot" in p.net.names)
    assert {"C2.F:1", "C3.F:1", "C4.F:1"} < set(hot)


def test_wires_of_a_group_are_as_its_device_asks_and_those_ahead_of_them_all_as_the_supply_gives() -> None:
    """1 mm² carries 10.3 · 0.91 = 9.4 A in air of 45 °C (IEC 60204-1 Table 6, B1 column, D.1): enough for 3 A; 20 A ask for 2.5 mm²."""
    plan = plan_of(TEXT.replace("va = 48", "va = 240").replace("amps = 4", "amps = 8"))
    mm2 = {
        name: {c.size.mm2 for c in plan.conductors if c.number == p.number}
        for p in plan.potentials
        for name in p.net.names
    }
    assert plan.parts["C2.G"].rating("amps") == 20 and plan.parts["C3.F"].rating("amps") > 10
    assert mm2["C2+"] == {1.0}
    assert min(mm2["@C2_hot"]) >= 2.5 and max(mm2["C3+"]) <= min(mm2["@C2_hot"])
    assert [f.subject for f in find_all(plan) if f.rule == "control-groups"] == ["C3.F", "C4.F"]


def test_a_group_is_written_with_what_is_its_own_and_reads_back_equal_and_follows_its_supply() -> None:
    job = parse_brief(TEXT)
    text = write_brief(job)
    assert '[control.C4]\namps = 4\ngroup_of = "C2"\n' in text and parse_brief(text) == job
    assert {
        c.volts for c in parse_brief(TEXT.replace('kind = "psu"', 'kind = "psu"\nvolts = 48')).controls if c.is_dc
    } == {48}


@pytest.mark.parametrize("of", ["C1", "C9", "C3"])
def test_only_a_whole_dc_supply_has_groups(of: str) -> None:
    with pytest.raises(
        BriefError, match=r"C3\.group_of: '" + of + "' is no DC supply that may have groups: there is C2"
    ):
        parse_brief(TEXT.replace('[control.C3]\ngroup_of = "C2"', f'[control.C3]\ngroup_of = "{of}"'))


def test_the_single_line_diagram_tells_groups_at_their_supply_and_shows_feeders_of_ones_own() -> None:
    own = (
        '[device.Q9]\nkind = "breaker"\n[device.K9]\nkind = "contactor"\n[device.F9]\nkind = "overload"\n'
        '[device.M9]\nkind = "motor"\nkw = 4\n'
        '[device.F8]\nkind = "breaker"\n[device.E8]\nkind = "heater"\nkw = 6\n'
        '[[feeder]]\npath = "L1 L2 L3 > Q9 > K9 > F9 > M9"\n[[feeder]]\npath = "L1 L2 L3 > F8 > E8"\n'
    )
    plan = plan_of(TEXT + own)
    words = [item.text for item in draw_single_line(plan).items if isinstance(item, Text)]
    groups = " ".join(plan.tags[f"{c}.F"] for c in ("C2", "C3", "C4"))
    assert {"C2 C3 C4", f"Control supply, groups {groups}", "M9", "4 kW", "8.5 A", "set 8.5 A", "E8", "8.66 A"} <= set(
        words
    )
    assert "C3" not in words
