"""The derived function test: it holds on the panel that it comes from, reaches what hands can reach, and has no step too many."""

import json

import pytest

from effort import EFFORT, examples
from panels import panel_text
from riktig.job.scripts import Script, Step
from riktig.live.coverage import Coverage, Reach
from riktig.live.currents import snapshot, state_of
from riktig.live.derive import derive_tests
from riktig.live.derived import Derived, as_document
from riktig.live.names import Names
from riktig.live.rig import WiringState
from riktig.live.scripts import play, play_on, play_step
from riktig.live.seen import look_at, tell_changes
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan
from riktig.standards.colours import ConductorFunction
from support import HEAD, STARTER, plan_of, small_text

REVERSING = HEAD + STARTER.replace("[starter.M1]\n", '[starter.M1]\nkind = "reversing"\n')
STOPPED = HEAD + STARTER + '[estop.E1]\nat = ["door"]\n'
TANK = HEAD + "[level.TANK]\nfloats = { stop = 0.4, start = 1.2 }\n"
TANK += STARTER.replace("[starter.M1]\n", '[starter.M1]\nkind = "pump"\nlevel = "TANK"\n')
PUMPS = (
    HEAD
    + '[level.PIT]\nfloats = { stop = 0.5, start = 1.3, lag = 1.7 }\n[pumps.P1]\nstarters = ["M1", "M2"]\nlevel = "PIT"\n'
)
PUMPS += "".join(f'[starter.M{n}]\nkind = "pump"\nkw = 4\nsupply = "C1"\n' for n in (1, 2))
TEXTS = {"small": small_text(), "reversing": REVERSING, "emergency stop": STOPPED, "level": TANK, "two pumps": PUMPS}


@pytest.fixture(scope="module", params=list(TEXTS))
def derived(request: pytest.FixtureRequest) -> tuple[Plan, Derived]:
    plan = plan_of(TEXTS[request.param])
    return plan, derive_tests(plan)


def test_the_script_holds_on_the_panel_that_it_comes_from(derived: tuple[Plan, Derived]) -> None:
    plan, found = derived
    assert not [miss for played in play(plan, found.script) for miss in played.misses]


def test_every_contact_moves_and_every_conductor_carries_current(derived: tuple[Plan, Derived]) -> None:
    _, found = derived
    assert found.coverage.unmoved == [] and found.coverage.idle == []


def test_a_stop_is_tried_against_a_start_and_nothing_starts_when_it_is_let_go(derived: tuple[Plan, Derived]) -> None:
    """Interlocks, and no start by release or reset: IEC 60204-1 9.2.3.4.2 and 7.3.1, from memory."""
    plan, found = derived
    held = [step for step, why in zip(found.script.steps, found.why, strict=True) if "must not start" in why]
    assert held and all(
        any(text.endswith((" off", " stopped")) for text in step.expect) and step.never for step in held
    )
    document = json.loads(json.dumps(as_document(found)))
    assert len(document["steps"]) == len(found.script.steps) and document["contacts"]["never"] == []


def test_a_standby_is_seen_to_take_over_and_nothing_is_left_running_that_was_tripped(
    derived: tuple[Plan, Derived],
) -> None:
    """Pumps that take turns: the one that trips hands its order on (common practice, no source)."""
    plan, found = derived
    orders = [f"{plan.tags[name]} on" for name in ("P1.K1", "P1.K2") if name in plan.tags]
    for order in orders:
        assert any(step.do[0].startswith("trip") and order in step.expect for step in found.script.steps), order
    tripped = [text.removeprefix("trip ") for step in found.script.steps for text in step.do if text.startswith("trip")]
    done = [text for step in found.script.steps for text in step.do]
    assert all(f"reset {tag}" in done or f"close {tag}" in done for tag in tripped)


def test_a_stop_is_tried_with_all_running_that_it_stops_and_each_start_is_tried_against_it() -> None:
    """What starts only after the control is switched on is there as well: common practice, no source."""
    plan = plan_of(STOPPED + STARTER.replace("M1", "M2"))
    steps = derive_tests(plan).script.steps
    place = next(n for n, step in enumerate(steps) if f"press {plan.tags['E1.S1']}" in step.do)
    assert {"K1 off", "K2 off", "M1 stopped", "M2 stopped"} <= set(steps[place].expect)
    starts = {f"press {plan.tags[name]}" for name in ("M1.S1", "M2.S1")}
    assert starts <= set(steps[place + 1].do) and {"not K1 off", "not K2 off"} <= set(steps[place + 1].never)


def test_what_the_field_does_stays_and_what_a_hand_holds_is_let_go() -> None:
    """A bridged signal is not taken off after every step (common practice, no source)."""
    own = '[device.B9]\nkind = "limit-switch"\ncontacts = ["no"]\nat = "field"\n[device.K9]\nkind = "relay"\n'
    steps = derive_tests(plan_of(STOPPED + own + '[[rung]]\npath = "C1+ > B9:no > K9:coil > C1-"\n')).script.steps
    done = [action for step in steps for action in step.do]
    assert done.count("close B9") <= 2 and done.count("open B9") <= 2
    pressed = [action.split()[1] for action in done if action.startswith("press")]
    assert all(f"release {tag}" in done for tag in pressed)


def test_what_stops_in_automatic_alone_is_tried_in_automatic() -> None:
    """By hand a full bin stops nothing: common practice, no source."""
    own = '[device.B9]\nkind = "limit-switch"\ncontacts = ["nc"]\nat = "field"\n'
    hand = 'control = "selector"\nselector = "hand-off-auto"\nauto = "B9:nc"\nrestart = "automatic"\n'
    steps = derive_tests(plan_of(HEAD + own + STARTER + hand)).script.steps
    stopping = next(step for step in steps if "close B9" in step.do and "K1 off" in step.expect)
    assert "M1 stopped" in stopping.expect


def test_a_start_that_goes_round_what_has_stopped_is_said() -> None:
    """A stop that the seal-in bypasses stops nothing for good: a person must see that (common practice, no source)."""
    own = "".join(
        f'[device.{name}]\nkind = "pushbutton"\ncontacts = ["{sort}"]\n' for name, sort in (("S8", "nc"), ("S9", "no"))
    )
    own += '[device.K9]\nkind = "contactor"\n[[rung]]\npath = "C1+ > (S9:no | S8:nc > K9:no) > K9:coil > C1-"\n'
    found = derive_tests(plan_of(HEAD + own))
    assert any("S8" in why and "K9 can be started past it" in why for why in found.why)
    plain = own.replace("(S9:no | S8:nc > K9:no)", "S8:nc > (S9:no | K9:no)")
    assert not any("started past it" in why for why in derive_tests(plan_of(HEAD + plain)).why)


def test_what_a_stop_stops_has_run_before(derived: tuple[Plan, Derived]) -> None:
    """Whatever was left out of the script: a stop of what stands still proves nothing (common practice, no source)."""
    plan, found = derived
    panel = Simulation(plan)
    names, steps = Names(panel), found.script.steps
    for number, step in enumerate(steps):
        before = look_at(panel)
        play_step(panel, names, step, number)
        if number + 1 < len(steps) and "must not start" in found.why[number + 1]:
            changes = set(tell_changes(names, before, look_at(panel)))
            assert {text for text in changes if text.endswith((" off", " stopped"))} & set(step.expect), step


def test_it_holds_however_slowly_somebody_goes_from_step_to_step() -> None:
    """A star that lasts five seconds is over before the next step is read."""
    plan = plan_of(HEAD + STARTER.replace("[starter.M1]\n", '[starter.M1]\nkind = "star-delta"\n').replace("1.5", "11"))
    steps = derive_tests(plan).script.steps
    assert any("M1 star" in step.expect for step in steps) and any("M1 delta" in step.expect for step in steps)
    slow = Script(steps=tuple(step.model_copy(update={"do": ("wait 40", *step.do)}) for step in steps))
    assert not [miss for played in play(plan, slow) for miss in played.misses]


def test_what_stands_still_when_it_is_switched_on_is_said(derived: tuple[Plan, Derived]) -> None:
    first = derived[1].script.steps[0]
    assert "M1 stopped" in first.expect and all(action.startswith("set M") for action in first.do)


def reach(plan: Plan, steps: tuple[Step, ...]) -> tuple[set[object], bool]:
    """Return what steps reach, and whether each of them holds."""
    panel = Simulation(plan)
    coverage = Coverage(plan, panel)
    seen = set(coverage.now(panel))
    panel.watch = lambda: seen.update(coverage.now(panel))
    holds = not any(one.misses for one in play_on(panel, Names(panel), Script(steps=steps)))
    return seen, holds  # type: ignore[return-value]


def test_no_step_is_one_too_many(derived: tuple[Plan, Derived]) -> None:
    """Without a step something is not reached, or a later one fails; else it is there for what must not be, or lets run what stops next,
    or is how the panel is found or left.
    """
    plan, found = derived
    steps = found.script.steps
    assert all(step.expect or step.never for step in steps)
    whole, holds = reach(plan, steps)
    assert holds
    for n, (step, why) in list(enumerate(zip(steps, found.why, strict=True)))[:: 1 if EFFORT >= 0.5 else 3]:
        left, still_holds = reach(plan, (*steps[:n], *steps[n + 1 :]))
        assert not still_holds or left < whole or step.never or why.startswith(("let", "back", "switched on")), why


def test_nobody_waits_for_motors_to_cool_that_have_nothing_on_their_shafts(derived: tuple[Plan, Derived]) -> None:
    waits = [float(do.split()[1]) for step in derived[1].script.steps for do in step.do if do.startswith("wait")]
    assert max(waits, default=0.0) < 10.0


@pytest.mark.parametrize("name", ["small", "reversing", "emergency stop"])
def test_an_open_wire_is_revealed_by_the_script(name: str) -> None:
    """A wire that is off at one end: what it feeds does not come on, or something goes off that should not."""
    plan = plan_of(TEXTS[name])
    script = derive_tests(plan).script
    earths = {p.number for p in plan.potentials if p.net.function is ConductorFunction.EARTH}
    wires = [w for w in plan.conductors if w.is_wired and w.number not in earths]
    hidden = []
    for wire in wires[:: max(1, len(wires) // examples(40))]:
        panel = Simulation(plan, WiringState(off=frozenset({(wire.number, wire.b)})))
        if not any(one.misses for one in play_on(panel, Names(panel), script)):
            hidden.append((wire.number, plan.terminal_label(wire.a), plan.terminal_label(wire.b)))
    assert hidden == []


def test_what_starts_again_when_a_stop_is_let_go_of_is_said() -> None:
    """No start by release: IEC 60204-1 9.2.3.4.2, from memory; a maintained control does it all the same."""
    own = STOPPED.replace('control = "buttons"\n', "").replace(
        "[starter.M1]\n", '[starter.M1]\ncontrol = "selector"\nrestart = "automatic"\n'
    )
    assert any(
        "on again by itself" in why
        for why in derive_tests(plan_of(own.replace('at = ["door"]\n', 'at = ["door"]\nreset = "twist"\n'))).why
    )
    assert not any(
        "on again by itself" in why for why in derive_tests(plan_of(STOPPED)).why if why.startswith("back: S")
    )


def test_current_in_a_conductor_is_what_hangs_behind_it() -> None:
    """By Kirchhoff's first law: what flows into a tree of conductors at its leaves flows through its stem."""
    plan = plan_of(small_text())
    panel = Simulation(plan)
    coverage = Coverage(plan, panel)
    carried = {name for sort, name in coverage.items(state_of(snapshot(panel))) if sort == Reach.CARRIES}
    ends = {end for wire in coverage.conductors.values() if wire.id in carried for end in (wire.a, wire.b)}
    assert any("C1.T" in end for end in ends), "the transformer draws its own"
    assert not any("M1:" in end for end in ends), "no motor runs"


@pytest.mark.parametrize("seed", range(examples(6) if EFFORT >= 0.5 else 2))
def test_whatever_panel_it_is_its_script_holds(seed: int) -> None:
    plan = plan_of(panel_text(seed))
    found = derive_tests(plan)
    assert not [miss for played in play(plan, found.script) for miss in played.misses]
    assert len(found.coverage.unmoved) <= 0.2 * len(found.coverage.contacts)
