"""Panel modules: what each comes to, in both worlds of standards, and what must be said of it."""

import pytest

from riktig.checks.run import find_all
from riktig.plan.answers.stay_live import find_live_groups
from riktig.plan.circuit.modules import lines_of_ways
from riktig.plan.making.labels import build_labels
from riktig.plan.plan import Plan
from strategies import PANEL, starter_text
from support import HEAD, STARTER, demo_text, job_of, plan_of, small_text

LEVEL = "[level.TANK]\nfloats = { stop = 0.4, start = 1.2, alarm = 1.6 }\n"
BASE = PANEL.format(school="live") + LEVEL


def net_of(plan: Plan, terminal: str) -> set[str]:
    return next(set(p.net.terminals) for p in plan.potentials if terminal in p.net.terminals)


def rules(plan: Plan) -> dict[str, str]:
    return {f.rule: f.message for f in find_all(plan)}


def test_each_phase_lamp_has_protection_of_its_own() -> None:
    """To neutral through its own breaker: common practice, no source."""
    plan = plan_of(HEAD + "[phase_lamps]\n")
    for n in (1, 2, 3):
        assert net_of(plan, f"phase_lamps.P{n}:X1") == {f"phase_lamps.F{n}:2", f"phase_lamps.P{n}:X1"}
    assert {plan.parts[f"phase_lamps.P{n}"].rating("volts") for n in (1, 2, 3)} == {230}


def test_without_a_neutral_the_lamps_lie_line_to_line_behind_one_device_for_all_lines() -> None:
    """A one-pole device never protects a line-to-line circuit: common practice, no source."""
    plan = plan_of(HEAD.replace('"3ph+n"', '"3ph"') + "[phase_lamps]\n")
    nets = {frozenset(net_of(plan, f"phase_lamps.F1:{n}")) for n in (2, 4, 6)}
    assert len(nets) == 3 and all(len(net) == 3 for net in nets)
    assert plan.parts["phase_lamps.P1"].rating("volts") == 400


@pytest.mark.parametrize(
    ("rows", "lines"),
    [
        ([("", 10)] * 4, ["L1", "L2", "L3", "L1"]),
        ([("", 16), ("", 10), ("", 10), ("", 6)], ["L1", "L2", "L3", "L2"]),
        ([("L3", 10), ("", 10), ("", 10)], ["L3", "L1", "L2"]),
    ],
)
def test_ways_are_spread_over_the_phases_for_balance(rows: list[tuple[str, int]], lines: list[str]) -> None:
    text = HEAD
    for n, (line, amps) in enumerate(rows, start=1):
        text += f"[way.W{n}]\namps = {amps}\n" + (f'line = "{line}"\n' if line else "")
    assert [found[0] for found in lines_of_ways(job_of(text))] == lines


def test_a_way_leads_line_neutral_and_earth_over_terminals_of_its_own() -> None:
    plan = plan_of(HEAD + "[way.W1]\n[way.W2]\nrcd = true\n")
    for way in ("W1", "W2"):
        numbers = {c.number for c in plan.clamps if c.drop == f"field/{way}.E"}
        assert len(numbers) == 3 and "PE" in numbers
    assert net_of(plan, "W2.R:3") >= {"W2.R:3"} and "W2.R:4" in net_of(plan, "W2.E:2"), "a new neutral behind it"


def test_a_control_transformer_in_the_north_american_world() -> None:
    """Both primary lines fused, secondary in the live line only, X2 bonded once by a removable link: common practice."""
    plan = plan_of(demo_text("ul"))
    fuse, secondary = plan.parts["C1.FP"], plan.parts["C1.F"]
    assert (fuse.kind, fuse.rating("poles"), fuse.traits["curve"]) == ("fuse", 2, "class CC")
    assert (secondary.kind, secondary.rating("poles")) == ("fuse", 1)
    assert {"C1.T:X2", "C1.B:1"} <= net_of(plan, "C1.T:X2") and "C1.F:1" in net_of(plan, "C1.T:X1")
    assert "C1.B:2" in net_of(plan, "PE.plate:PE")
    assert plan.parts["C1.T"].code.endswith("@120AC") and plan.parts["M2.K"].traits["current"] == "ac"


def test_a_dc_supply_is_named_by_its_volts_and_feeds_dc_coils_only() -> None:
    text = HEAD + '[control.C2]\nkind = "psu"\n[control.C3]\nkind = "psu"\n' + STARTER.replace('"C1"', '"C2"')
    plan = plan_of(text)
    assert {"24V", "0V", "24V.2", "0V.2"} <= {p.number for p in plan.potentials}
    assert plan.parts["M1.K"].code.endswith("@24DC") and plan.parts["C2.F"].traits["curve"] == "electronic"
    assert {c.colour for c in plan.conductors if c.number in {"24V", "0V"}} == {"blue"}, "IEC 60204-1 13.2, from memory"


def test_a_controller_drives_relays_and_reads_low_level_contacts() -> None:
    """Outputs drive 24 V relays, feedback has a contact of its own: common practice, no source."""
    plan = plan_of(BASE + starter_text("M1", "dol", 'control = "controller"\ncontroller = "P1"'))
    output = net_of(plan, "M1.KC:A1")
    assert len(output) == 2 and any(t.startswith("P1:Q") for t in output)
    assert plan.parts["M1.KC"].code.endswith("@24DC")
    numbers = {t: p.number for p in plan.potentials for t in p.net.terminals}
    feedback = next(u for u in plan.uses if u.key.startswith("M1/feedback") and u.device == "M1.K")
    assert numbers[f"M1.K:{plan.netlist.ends[feedback.key][0][0]}"] == "24V"


def test_channels_stay_where_they_are_when_a_motor_is_put_before() -> None:
    from riktig.job import edits
    from riktig.plan.plan import compute_plan
    from riktig.plan.settle import settle

    job = job_of(BASE + starter_text("M2", "dol", 'control = "controller"\ncontroller = "P1"'))
    before = compute_plan(job)
    first = job.starters[0].model_copy(update={"name": "M1"})
    after = compute_plan(settle(edits.replace(job, starters=(first, *job.starters))))
    assert net_of(after, "M2.KC:A1") == net_of(before, "M2.KC:A1")


@pytest.mark.parametrize(
    ("text", "rule", "words"),
    [
        (starter_text("M1", "dol", 'control = "selector"\nrestart = "automatic"'), "automatic-restart", "starts by itself"),
        (starter_text("M1", "star-delta", 'motor_volts = "230/400"'), "delta-voltage", "take a motor for 400 V in delta"),
        (starter_text("M1", "reversing"), "reversing-duty", "final limits, a brake"),
        ("[estop.E1]\n" + starter_text("M1", "dol"), "emergency-stop-relay", "safety relay"),
        ('[device.P9]\nkind = "lamp"\n[device.F9]\nkind = "breaker"\n[[feeder]]\npath = "in.L1 > F9 > P9:lamp > N"\n',
         "ahead-of-switch", "stays live with the main switch off"),
        ('[control.C5]\nkind = "transformer"\nvolts = 24\nearthed = false\n'
         + starter_text("M1", "dol", 'supply = "C5"', 'overload_contact = "return"'), "overload-on-return", "bond the supply"),
        ('[device.F9]\nkind = "breaker"\npart = "sx1-c6"\n', "rating-missing", "made for IEC"),
        ('[extra_supply.P]\nsystem = "3ph"\nvolts = 230\nisolated = "elsewhere"\n', "second-supply", "nothing says where"),
    ],
)  # fmt: skip
def test_what_must_be_said_is_found(text: str, rule: str, words: str) -> None:
    assert rule not in rules(plan_of(BASE))
    assert words in rules(plan_of(BASE + text))[rule]


def test_warning_labels_name_what_stays_live_second_supplies_and_automatic_starts() -> None:
    text = BASE + '[excepted.X1]\nload = "light"\n[excepted.X5]\nload = "from-elsewhere"\nsource = "panel 7"\n'
    text += '[extra_supply.P]\nsystem = "3ph"\nvolts = 230\nisolated = "elsewhere"\ntitle = "panel 9"\n'
    text += starter_text("M1", "dol", 'control = "selector"\nrestart = "automatic"\npower = "P"')
    plan = plan_of(text)
    assert [g.source for g in find_live_groups(plan)] == ["mains", "P", "X5.G"]
    warnings = {label.text for label in build_labels(plan) if label.kind == "warning"}
    assert warnings == {
        "DANGER, electric shock: 400 V inside", "MORE THAN ONE SUPPLY: 3 places to isolate",
        "Isolate, lock off and prove dead before opening",
        f"LIVE with the main switch off: Panel light, isolate it at {plan.tags['X1.F']}",
        "SECOND SUPPLY P: isolate it at panel 9", "SECOND SUPPLY X5: isolate it at panel 7",
        "M1 STARTS BY ITSELF: isolate before any work",
    }  # fmt: skip


def test_wires_of_excepted_circuits_have_a_colour_of_their_own_and_the_neutral_stays_light_blue() -> None:
    """Orange, neutral light blue: IEC 60204-1:2016 13.2.4, from memory."""
    plan = plan_of(HEAD + '[excepted.X1]\nload = "light"\n[incoming]\npoles = 4\n')
    colours = {c.number: c.colour for c in plan.conductors if c.kind == "wire" and "X1." in c.a + c.b}
    live = next(p.number for p in plan.potentials if "X1.F:2" in p.net.terminals)
    home = next(p.number for p in plan.potentials if "X1.F:4" in p.net.terminals)
    assert colours[live] == colours["in.L1"] == "orange" and colours[home] == "light blue"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (starter_text("M1", "pump", 'control = "buttons"'), "leave control out"),
        (starter_text("M1", "dol", 'speed = "potentiometer"'), 'speed belongs to kind = "drive"'),
        (starter_text("M1", "drive", 'speed = "controller"'), 'add controller = "P1"'),
        (starter_text("M1", "dol", 'selector = "hand-off-auto"', 'control = "selector"'), 'add auto = "B4:no"'),
        (starter_text("M1", "dol", 'auto = "B4:no"', 'control = "selector"'), "nothing declares 'B4'"),
        (starter_text("M1", "dol", 'control = "controller"'), 'add controller = "P1"'),
        (starter_text("M1", "dol", 'never_with = ["M1"]'), "interlocked with itself"),
        (starter_text("M1", "dol", 'runs_while = ["M2"]') + starter_text("M2", "dol", 'runs_while = ["M1"]'), "wait for it"),
        (starter_text("M1", "dol", 'runs_while = ["M2"]', 'never_with = ["M2"]') + starter_text("M2", "dol"), "never run"),
        (starter_text("M1", "star-delta", "phases = 1"), "is for three phases"),
        (starter_text("M1", "dol", 'restart = "automatic"'), "leave restart out"),
        (starter_text("M1", "dol", 'level = "TANK"'), 'belongs to kind = "pump"'),
        ("[level.T2]\nfloats = { stop = 2, start = 1 }\n", "floats rise from stop"),
        ('[way.W1]\nline = "L9"\n', "line"),
        ('[estop.E1]\nstops = ["M7"]\n', "no starter 'M7'"),
        ('[alarm.A1]\nfrom = "B7"\n', "nothing declares 'B7'"),
        ('[device.S4]\nkind = "selector"\ncontacts = ["a", "a"]\n', "name each position once"),
        ('[device.S4]\nkind = "selector"\ncontacts = ["a"]\n[[rung]]\npath = "C1+ > S4:b > P1:P-M > C1-"\n', "is no position"),
        ('[[rung]]\nname = "M1/run"\npath = "C1+ > B9:no > P1:P-M > C1-"\n' + starter_text("M1", "dol"), "choose another name"),
    ],
)  # fmt: skip
def test_what_does_not_go_together_is_named_with_the_mend(text: str, words: str) -> None:
    from riktig.files.brief_reader import BriefError, parse_brief

    with pytest.raises(BriefError) as caught:
        parse_brief(BASE + text)
    assert words in str(caught.value)


EVERYTHING = """
[incoming]
switch = "door"
poles = 3
main_contactor = false
[phase_lamps]
colour = "white"
[phase_relay.K10]
acts_on = "all"
[surge.F20]
type = 2
lamp = "spent"
[estop.E1]
at = ["door", "st1"]
stops = "all"
category = 0
reset = "button"
[way.W1]
title = "Press-house lights"
amps = 10
poles = 1
[pass_through]
section_mm2 = 16
[alarm.A1]
from = "B3"
at = "door"
test = true
[excepted.X1]
load = "socket"
[controller.P1]
inputs = 16
outputs = 8
analogue_in = 2
analogue_out = 2
[level.TANK]
floats = { stop = 0.4, start = 1.2, alarm = 1.6 }
[device.B3]
kind = "float"
[extra_supply.P]
system = "3ph+n"
volts = 400
isolated = "elsewhere"
"""


def test_every_table_together_makes_a_sound_panel_and_a_controller_gets_its_supply() -> None:
    plan = plan_of(HEAD.replace("width = 800", "width = 1600") + EVERYTHING + STARTER)
    assert plan.short_uses == () and plan.unmet == {}
    assert [c.kind for c in plan.job.controls] == ["transformer", "psu"]
    assert {f.rule for f in find_all(plan) if f.severity == "must"} == set()
    assert next(c for c in plan.cables if "in.L1" in c.numbers).size_label == "16 mm²"


def test_a_strip_named_like_an_excepted_circuit_changes_no_colour() -> None:
    """Black for power in North America, yellow only for excepted circuits: NFPA 79 13.2, from memory."""
    plan = plan_of(small_text("ul") + '[excepted.X1]\nload = "socket"\n')
    leads = [
        c
        for c in plan.conductors
        if c.number in {"1L1", "2L1", "3L1"} or (c.location == "plate" and "X1:1" in (c.a, c.b))
    ]
    assert leads and {c.colour for c in leads if "X1." not in c.a + c.b} == {"black"}
    assert any(c.colour == "yellow" for c in plan.conductors), "the excepted circuit itself is"


@pytest.mark.parametrize(("world", "rating"), [("iec", "cb1-c0_5"), ("ul", "cc1-0_5")])
def test_an_alarm_has_a_fuse_of_its_own_ahead_of_the_control_fuse(world: str, rating: str) -> None:
    """What trips the control supply still alarms: common practice, no source. Both guard one transformer of 63 VA: 0.27 A at 230 V,
    0.53 A at 120 V, so both are 0.5 A.
    """
    text = HEAD + STARTER if world == "iec" else small_text("ul")
    plan = plan_of(text + LEVEL + '[alarm.A1]\nfrom = "TANK.alarm"\n')
    assert plan.parts["C1.T"].rating("va") == 63
    assert {"C1.T:X1", "A1.F:1"} <= net_of(plan, "C1.F:1")
    assert {plan.parts[device].code for device in ("A1.F", "C1.F")} == {rating}
    assert "spring return" in plan.parts["A1.S"].title


def test_the_timer_of_a_star_delta_starter_returns_where_its_coils_return() -> None:
    """With the overload contact in the return, a timer outside it would time out while its coils are dead: common practice, no source."""
    head = HEAD.replace("[supply]", '[practice]\noverload_contact = "return"\n[supply]', 1)
    plan = plan_of(head + '[starter.M1]\nkind = "star-delta"\nkw = 18.5\nsupply = "C1"\n')
    returns = net_of(plan, "M1.T:A2")
    assert {"M1.K:A2", "M1.KS:A2", "M1.KD:A2", "M1.F:95"} <= returns


def test_a_socket_is_isolated_by_one_breaker_no_larger_than_itself_and_protects_people() -> None:
    """30 mA for people: IEC 60364-4-41 415.1.1; in North America class A of UL 943; from memory."""
    plan = plan_of(HEAD + STARTER + '[excepted.X1]\nload = "socket"\n')
    assert [plan.parts[f"X1.{role}"].code for role in "FRE"] == ["cb2-b16", "rc2-25-30", "so-16@230AC"]
    assert "X1.Q" not in plan.circuit.index
    ul = plan_of(small_text("ul") + '[excepted.X1]\nload = "socket"\n')
    assert ul.parts["X1.R"].traits["type"] == "UL 943 class A"
    assert ul.parts["X1.E"].traits["configuration"] == "5-15R" and ul.parts["X1.F"].rating("amps") == 15
