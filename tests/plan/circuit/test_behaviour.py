"""What panels do when they are operated, by a relay simulation over the netlist that knows nothing of the expansion."""

import pytest
from hypothesis import assume, given, settings

from effort import examples
from relay_simulation import Panel
from riktig.job.model import Starter
from riktig.job.roles import groups_of, has_control_on, is_maintained, overload_role, restarts
from riktig.plan.plan import Plan
from strategies import PANEL, POWER, options_of, panels, starter_text
from support import demo_text, plan_of

LEVEL = "[level.TANK]\nfloats = { stop = 0.4, start = 1.2, alarm = 1.6 }\n"
BASE = PANEL.format(school="live") + LEVEL
GROUP = '[estop.E1]\nat = ["door", "st1"]\nreset = "{}"\n'
EACH = [(kind, name) for kind in POWER for name in ("", *options_of(kind))]


def power_device(starter: Starter) -> str:
    """Return what puts the motor on its lines."""
    return f"{starter.name}.{'A' if starter.kind == 'drive' else 'K'}"


def running(panel: Panel) -> set[str]:
    return {s.name for s in panel.plan.job.starters if {power_device(s), f"{s.name}.KR"} & panel.on}


def run_all(panel: Panel) -> Panel:
    """Do everything that a person, a level and a controller can do to get every motor running."""
    plan = panel.plan
    kinds = {d.id: d for d in plan.circuit.devices}
    outputs = {(d, m) for d, p in plan.parts.items() for e in p.elements if e.kind == "output" for m in e.marks[1:]}
    reverse = {p.number for p in plan.potentials if any(".KCR:" in t for t in p.net.terminals)}
    panel.commands = {(d, m) for d, m in outputs if panel.net.get(f"{d}:{m}") not in reverse}
    panel.hold(*[d for d, x in kinds.items() if x.kind in {"float", "thermostat"} and not d.endswith(".alarm")])
    for device in kinds.values():
        if device.kind == "selector" and device.owner in {s.name for s in plan.job.starters}:
            panel.turn(device.id, (device.positions or ("on",))[0])
    for role in ("SB", "SX", "S1"):
        panel.push(*[d for d, x in kinds.items() if x.role == role and x.kind == "pushbutton"])
    panel.push(*[d for d, x in kinds.items() if x.role == "S1" and x.kind == "pushbutton"])
    return panel.wait()


def may_restart(starter: Starter, plan: Plan) -> bool:
    """Return whether a starter may run again by itself: deliberate automatic mode behind no group that is reset."""
    groups = groups_of(starter, plan.job)
    is_reset = bool(groups) and all(group.reset == "button" for group in groups)
    return is_maintained(starter) and restarts(starter, plan.job) and not is_reset


@pytest.mark.parametrize(("kind", "name"), EACH)
@pytest.mark.parametrize("group", ["", "button", "twist"])
def test_each_starter_runs_stops_on_trip_and_on_emergency_stop(kind: str, name: str, group: str) -> None:
    option = [options_of(kind)[name]] if name else []
    panel = Panel(plan_of(BASE + starter_text("M1", kind, *option) + (GROUP.format(group) if group else "")))
    assert running(run_all(panel)) == {"M1"}
    tripper = f"M1.{overload_role(panel.plan.job.starters[0], panel.plan.job)}"
    assert running(panel.trip(tripper).wait()) == set(), "hand and automatic never bypass the overload"
    panel.reset(tripper)
    starter = panel.plan.job.starters[0]
    if not is_maintained(starter) or has_control_on(starter, panel.plan.job):
        assert running(panel) == set(), "resetting starts nothing"
    assert running(run_all(panel)) == {"M1"}
    if group:
        panel.hold("E1.S2")
        assert running(panel) == set(), "nor the emergency stop"
        assert running(panel.release("E1.S2").wait()) <= ({"M1"} if may_restart(starter, panel.plan) else set())


@settings(max_examples=examples(60))
@given(text=panels())
def test_emergency_stop_and_supply_return_start_nothing(text: str) -> None:
    plan = plan_of(text)
    groups = [group.name for group in plan.job.estops]
    assume(groups)
    allowed = {s.name for s in plan.job.starters if may_restart(s, plan)}
    panel = run_all(Panel(plan))
    for group in plan.job.estops:
        members = {s.name for s in plan.job.starters if group in groups_of(s, plan.job)}
        panel.hold(f"{group.name}.S1")
        panel.wait() if group.category == 1 else panel
        assert not members & running(panel), f"{group.name} is open"
        assert not {f"{m}.{r}" for m in members for r in ("K", "KR", "KS", "KD", "KA", "A")} & panel.on
        assert not members & (running(panel.release(f"{group.name}.S1").wait()) - allowed)
        run_all(panel)
    panel.switch_off("Q0").wait()
    assert running(panel) == set()
    assert running(panel.switch_on("Q0").wait()) <= allowed


@settings(max_examples=examples(30))
@given(text=panels())
def test_a_trip_lamp_burns_with_the_emergency_stop_open(text: str) -> None:
    """Trip lamps are fed ahead of the emergency stop: common practice, no source."""
    panel = Panel(plan_of(text))
    panel.hold(*[f"{group.name}.S1" for group in panel.plan.job.estops])
    for starter in panel.plan.job.starters:
        if "trip" in starter.lamps:
            assert f"{starter.name}.HT" not in panel.on
            panel.trip(f"{starter.name}.{overload_role(starter, panel.plan.job)}")
            assert f"{starter.name}.HT" in panel.on


def test_star_gives_way_to_delta_and_never_meets_it() -> None:
    panel = Panel(plan_of(BASE + starter_text("M1", "star-delta"))).push("M1.S1")
    assert {"M1.K", "M1.KS"} <= panel.on and "M1.KD" not in panel.on
    assert {"M1.K", "M1.KD"} <= panel.wait().on and "M1.KS" not in panel.on
    assert running(panel.push("M1.S0")) == set()


def test_the_other_direction_waits_for_the_stop() -> None:
    """With plain interlocking the motor is stopped before the other direction is started: common practice."""
    panel = Panel(plan_of(BASE + starter_text("M1", "reversing"))).push("M1.S1", "M1.S2")
    assert "M1.K" in panel.on and "M1.KR" not in panel.on
    assert "M1.KR" in panel.push("M1.S0", "M1.S2").on and "M1.K" not in panel.on


def test_a_pump_runs_from_the_start_float_down_to_the_stop_float() -> None:
    """The seal lies across the start float only; hand feeds the coil: common practice, no source."""
    panel = Panel(plan_of(BASE + starter_text("M1", "pump", 'level = "TANK"'))).turn("M1.SL", "auto")
    assert running(panel.hold("TANK.stop")) == set()
    assert running(panel.hold("TANK.start")) == {"M1"}
    assert running(panel.release("TANK.start")) == {"M1"}
    assert running(panel.release("TANK.stop")) == set()
    assert running(panel.hold("TANK.stop")) == set(), "the seal does not lie across the stop float"
    assert running(panel.turn("M1.SL", "hand")) == {"M1"}
    assert running(panel.turn("M1.SL", None)) == set()


def test_an_alarm_is_silenced_resets_with_its_float_and_sounds_again() -> None:
    """Silence works only during an alarm: common practice, no source."""
    panel = Panel(plan_of(BASE + '[alarm.A1]\nfrom = "TANK.alarm"\n'))

    def silence() -> set[str]:
        panel.turn("A1.S", "silence").turn("A1.S", None)
        return panel.on & {"A1.P", "A1.H", "A1.K"}

    assert silence() == set(), "before an alarm it does nothing"
    assert panel.hold("TANK.alarm").on >= {"A1.P", "A1.H"}
    assert silence() == {"A1.P", "A1.K"}
    assert not panel.release("TANK.alarm").on & {"A1.P", "A1.H", "A1.K"}
    assert panel.hold("TANK.alarm").on >= {"A1.P", "A1.H"}, "a new alarm sounds again"
    panel.release("TANK.alarm").turn("A1.S", "test")
    assert panel.on >= {"A1.P", "A1.H"}
    assert not panel.turn("A1.S", None).on & {"A1.P", "A1.H", "A1.K"}


def test_the_line_contactor_of_a_soft_starter_drops_after_the_ramp_and_at_once_on_emergency_stop() -> None:
    panel = Panel(plan_of(BASE + starter_text("M1", "soft") + GROUP.format("button"))).push("E1.SB", "M1.S1")
    assert {"M1.K", "M1.A"} <= panel.on
    assert "M1.K" in panel.push("M1.S0").on, "the ramp holds it"
    assert "M1.K" not in panel.wait().on
    panel.push("M1.S1").hold("E1.S1")
    assert "M1.K" not in panel.on


EXCEPTED = """
[excepted.X1]
load = "light"
[excepted.X2]
load = "socket"
[excepted.X3]
load = "heater"
[excepted.X4]
load = "memory"
[excepted.X5]
load = "from-elsewhere"
source = "panel 7"
[extra_supply.P]
system = "3ph+n"
volts = 230
isolated = "elsewhere"
title = "panel 9"
[pass_through]
"""


@pytest.mark.parametrize(
    ("supply", "practice"),
    [('"3ph+n"\nvolts = 400', "iec"), ('"3ph"\nvolts = 480', "ul"), ('"3ph+n"\nvolts = 480', "ul"), ('"3ph"\nvolts = 400', "iec")],
)  # fmt: skip
@pytest.mark.parametrize("poles", ["", "poles = 3\n"])
def test_what_stays_live_with_the_main_switch_off_is_what_is_excepted(supply: str, practice: str, poles: str) -> None:
    text = BASE.replace('"3ph+n"\nvolts = 400', supply).replace("[supply]", "[supply]\nfault_ka = 5", 1)
    text = text.replace("overload_contact", f'standard = "{practice}"\noverload_contact', 1)
    panel = Panel(plan_of(text + EXCEPTED + f"[incoming]\n{poles}" + starter_text("M1", "dol")))
    panel.switch_off("Q0")
    live = {number for number, poles_ in panel.live().items() if poles_ - {("mains", "N")}}
    owners = {
        t.rpartition(":")[0].partition(".")[0]
        for p in panel.plan.potentials
        if p.number in live
        for t in p.net.terminals
    }
    assert owners - {"Q0"} == {"X1", "X2", "X3", "X4", "X5", "pass_through"}, "from the circuit, not as declared"
    assert {n for n in live if n.startswith("P.L")} == set(), "nothing hangs on the second supply here"
    ahead = {t.partition(":")[0] for p in panel.plan.potentials if any(n.startswith("in.L") for n in p.net.names)
             for t in p.net.terminals}  # fmt: skip
    roles = [{f"X{n}.F", f"X{n}.FP"} for n in (1, 2, 3, 4)]
    assert all(role & ahead for role in roles), "they branch off before the main switch"


def test_a_second_supply_of_other_volts_feeds_its_motor_alone() -> None:
    extra = '[extra_supply.P]\nsystem = "3ph"\nvolts = 230\nisolated = "here"\n'
    plan = plan_of(BASE + extra + starter_text("M1", "dol", 'power = "P"') + starter_text("M2", "dol"))
    panel = Panel(plan).push("M1.S1", "M2.S1")
    assert running(panel) == {"M1", "M2"}
    assert plan.motors["M1"].current == pytest.approx(15.0), "4 kW at 230 V, IEC 60947-4-1 Annex G, from memory"
    panel.switch_off("Q0")
    live = {n for n, poles in panel.live().items() if poles - {("mains", "N")}}
    assert {"P.L1", "in.P.L1"} <= live and not {"L1", "C1+"} & live
    assert {source for n in ("P.L1", "P.L2") for source, _ in panel.live()[n]} == {"P"}


def test_one_reset_serves_an_emergency_stop_and_the_phase_relay_of_the_same_starters() -> None:
    """What is on by itself starts again by a button alone, once for all that stopped it: common practice, no source."""
    text = BASE + GROUP.format("button") + "[phase_relay.K10]\n"
    text += starter_text("M1", "dol", 'control = "selector"') + starter_text("M2", "reversing", 'control = "selector"')
    panel = run_all(Panel(plan_of(text)))
    assert running(panel) == {"M1", "M2"}
    assert not {"M1.SX", "M1.X", "M2.SX", "M2.X", "K10.K"} & panel.plan.parts.keys()
    panel.hot.add("K10")
    assert running(panel.settle()) == set()
    panel.hot.discard("K10")
    assert running(panel.settle()) == set(), "phases that come back start nothing"
    assert running(panel.push("E1.SB")) == {"M1", "M2"}


def test_a_phase_relay_of_other_starters_than_the_group_keeps_a_button_of_its_own() -> None:
    text = BASE + GROUP.format("button") + '[phase_relay.K10]\nacts_on = ["M1"]\n'
    text += starter_text("M1", "dol", 'control = "selector"') + starter_text("M2", "dol", 'control = "selector"')
    parts = plan_of(text).parts
    assert {"M1.SX", "M1.X"} <= parts.keys() and "M2.X" not in parts


def test_a_main_contactor_comes_in_only_with_phases_right_and_door_closed() -> None:
    """The changeover 15-18 and the door switch in series feed its coil: common practice, no source."""
    text = BASE + "[incoming]\nmain_contactor = true\n[phase_relay.K10]\n" + starter_text("M1", "dol")
    panel = Panel(plan_of(text))
    assert "incoming.K" not in panel.on, "the door is open"
    assert "incoming.K" in panel.hold("incoming.S").on
    panel.dead.add("in.L2")
    assert "incoming.K" not in panel.settle().on


def test_a_category_one_stop_takes_torque_off_only_after_its_delay() -> None:
    """IEC 60204-1:2016 9.2.2, from memory: a controlled stop, then power is removed."""
    group = GROUP.format("button") + "category = 1\n"
    panel = run_all(Panel(plan_of(BASE + starter_text("M1", "drive") + group)))
    assert running(panel) == {"M1"}
    panel.hold("E1.S1")
    assert "M1.K" not in panel.on and "E1.T" in panel.elapsed
    assert "E1.T" not in panel.wait().elapsed


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_every_motor_of_the_demos_runs(world: str) -> None:
    panel = Panel(plan_of(demo_text(world)))
    names = {s.name for s in panel.plan.job.starters}
    for _ in range(3):
        run_all(panel)
    assert running(panel) == names
    assert running(panel.hold("E1.S1").wait()) == set()
