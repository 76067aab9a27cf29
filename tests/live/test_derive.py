"""The derived function test: it holds on the panel that it comes from, reaches what hands can reach, and has no step too many."""

import json

import pytest

from effort import EFFORT, examples
from panels import panel_text
from riktig.job.scripts import Script, Step
from riktig.live.coverage import Coverage, Reach
from riktig.live.currents import snapshot, state_of
from riktig.live.derive import Derived, as_document, derive_tests
from riktig.live.names import Names
from riktig.live.rig import WiringState
from riktig.live.scripts import play, play_on
from riktig.live.simulation import Simulation
from riktig.plan.plan import Plan
from riktig.standards.colours import ConductorFunction
from support import HEAD, STARTER, plan_of, small_text

REVERSING = HEAD + STARTER.replace("[starter.M1]\n", '[starter.M1]\nkind = "reversing"\n')
STOPPED = HEAD + STARTER + '[estop.E1]\nat = ["door"]\n'
TANK = HEAD + "[level.TANK]\nfloats = { stop = 0.4, start = 1.2 }\n"
TANK += STARTER.replace("[starter.M1]\n", '[starter.M1]\nkind = "pump"\nlevel = "TANK"\n')
TEXTS = {"small": small_text(), "reversing": REVERSING, "emergency stop": STOPPED, "level": TANK}


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
