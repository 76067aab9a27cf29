"""What people ask of a live circuit: planted sneak paths, what restarts, what depends, what is in the way."""

import pytest

from riktig.live.names import Names
from riktig.live.questions import (
    cut_sets,
    devices_of,
    redundant,
    restarts,
    sneak_paths,
    what_depends,
    why_live,
    why_off,
)
from riktig.live.readings import why_off_words
from riktig.live.simulation import Simulation
from support import HEAD, demo_text, plan_of

STARTER = '[starter.M1]\nkw = 4\nsupply = "C1"\nlamps = ["run", "trip"]\n'
TWO = HEAD + '[control.C2]\nkind = "transformer"\nfrom = "L2 L3"\nvolts = 230\n'
LAMPS = "".join(f'[device.P{n}]\nkind = "lamp"\n' for n in (1, 2, 3))
SWITCH = '[device.S1]\nkind = "switch"\ncontacts = ["nc"]\n[device.K1]\nkind = "contactor"\n[device.F8]\nkind = "breaker"\namps = 2\n'
SWITCH += '[device.F9]\nkind = "breaker"\namps = 2\n'


def rungs(*paths: str) -> str:
    return "".join(f'[[rung]]\npath = "{path}"\n' for path in paths)


def panel(text: str, *pushed: str) -> Simulation:
    live = Simulation(plan_of(text))
    for device in pushed:
        for verb in ("press", "release"):
            live.act(device, verb)
            live.rest()
    return live


PLANTED = {
    "two lamps lose their common return and burn in series": (
        TWO + LAMPS + SWITCH + rungs("C1+ > P1 > @x", "C2+ > P2 > @x", "@x > S1:nc > C1-"), "S1", {"P1", "P2"}
    ),
    "a lamp feeds a coil backwards when its fuse is out": (
        HEAD + LAMPS + SWITCH + rungs("C1+ > F8 > @a > K1:coil > C1-", "C1+ > F9 > @b > P1 > @a", "@b > P2 > C1-"), "F8", {"P1"}
    ),
    "two lamps in series where a wire was to be": (
        HEAD + LAMPS + SWITCH + rungs("C1+ > P1 > @a > P2 > C1-", "C1+ > S1:nc > @a"), "S1", {"P1", "P2"}
    ),
    "a return that goes by a fuse of its own": (
        HEAD + LAMPS + SWITCH + rungs("C1+ > P1 > @r", "@r > F8 > C1-", "@r > P2 > C1-"), "F8", {"P1", "P2"}
    ),
    "a coil and a lamp of two supplies that return by one fuse": (
        TWO + LAMPS + SWITCH + rungs("C1+ > K1:coil > @r", "C2+ > P1 > @r", "@r > F8 > C1-"), "F8", {"P1"}
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", PLANTED)
def test_a_planted_sneak_path_is_found(name: str) -> None:
    text, opened, loads = PLANTED[name]
    found = [sneak for sneak in sneak_paths(panel(text)) if sneak.opened == opened]
    assert {sneak.load for sneak in found} == loads


@pytest.mark.parametrize(
    ("world", "pushed"), [("iec", ("E1.SB", "M2.S1", "M1.S1", "M3.S1", "M6.S1")), ("ul", ("E1.SB", "M1.S1", "M3.S1"))]
)
def test_no_sneak_path_is_invented_on_the_demos_at_rest_and_running(world: str, pushed: tuple[str, ...]) -> None:
    live = panel(demo_text(world))
    assert sneak_paths(live) == ()
    for device in pushed:
        for verb in ("press", "release"):
            live.act(device, verb)
            live.rest()
    live.run(15)
    assert sneak_paths(live) == ()


def test_what_a_machine_restarts_by_itself_is_nothing_and_a_pump_comes_back() -> None:
    """A machine does not, a pump that nobody watches does: common practice, no source."""
    assert restarts(panel(HEAD + STARTER, "M1.S1")) == ()
    level = "[level.TANK]\nfloats = { stop = 0.4, start = 1.2, alarm = 1.6 }\n"
    pump = panel(HEAD + level + '[starter.M1]\nkind = "pump"\nkw = 0.75\nlevel = "TANK"\nsupply = "C1"\n')
    for device, verb, value in (("TANK.stop", "close", ""), ("TANK.start", "close", ""), ("M1.SL", "turn", "auto")):
        pump.act(device, verb, value)
        pump.rest()
    assert {(one.cause, one.devices) for one in restarts(pump)} == {("supply", ("M1",)), ("M1.F", ("M1",))}


def test_what_stands_in_the_way_is_named_and_why_it_is_live_is_a_way() -> None:
    live = panel(HEAD + STARTER)
    words = why_off_words(live, Names(live), "M1.K")
    assert words in {"S2 is open between 3 and 4", "K1 is open between 3 and 4"}, words
    assert {devices_of(gaps) for gaps in why_off(live, "M1.K")} == {frozenset({"M1.S1"}), frozenset({"M1.K"})}
    live.act("M1.S1", "press")
    live.rest()
    assert {gap.device for gap in redundant(live)} >= {"M1.S1", "M1.K"}
    live.act("M1.S1", "release")
    assert why_off(live, "M1.K") == (frozenset(),)
    assert [gap.device for gap in why_live(live, live.rig.node("M1.K:A1"))] == ["M1.K", "M1.S0", "M1.F", "C1.F"]
    assert {devices_of(gaps) for gaps in cut_sets(live, "M1.K")} == {frozenset({d}) for d in ("M1.S0", "M1.F", "C1.F")}


def test_what_depends_on_a_fuse_drops_with_all_that_follows() -> None:
    live = panel(HEAD + STARTER, "M1.S1")
    places = live.gears["C1.F"].places  # type: ignore[attr-defined]
    assert set(what_depends(live, places)) == {"M1.K", "M1.H", "M1"}
    assert "forward" in live.gears["M1"].states, "asking changes nothing"
