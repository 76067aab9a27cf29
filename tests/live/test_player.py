"""A panel that is played with: touches, going back, what was done as a script that passes when it is played again."""

from itertools import pairwise

import pytest

from riktig.drawings.circuit.live import live_overlay
from riktig.drawings.display import Drawing, Line, Tone
from riktig.drawings.sheet_set import draw_sheets
from riktig.job.scripts import Script, Step
from riktig.live.currents import LiveState
from riktig.live.player import Player
from riktig.live.readings import Reading
from riktig.live.scripts import play
from riktig.plan.plan import Plan
from support import HEAD, demo_text, plan_of

STARTER = '[starter.M1]\nkw = 4\nsupply = "C1"\nlamps = ["run", "trip"]\n'


def push(player: Player, device: str) -> None:
    player.touch(device)
    player.let_go(device)


def test_a_button_springs_back_a_selector_goes_round_and_a_breaker_stays() -> None:
    player = Player(plan_of(demo_text("iec")))
    states = player.simulation.gears
    player.touch("M1.S1")
    assert "operated" in states["M1.S1"].states
    player.let_go("M1.S1")
    assert "released" in states["M1.S1"].states
    seen = []
    for _ in range(3):
        player.touch("M5.SL")
        seen.append(next(iter(states["M5.SL"].states)))
    assert sorted(seen) == ["auto", "hand", "off"]
    player.touch("M1.Q")
    player.let_go("M1.Q")
    assert "off" in states["M1.Q"].states and not player.may_touch("M1.K")


def test_what_was_done_is_a_script_that_passes() -> None:
    plan = plan_of(demo_text("iec"))
    player = Player(plan)
    push(player, "E1.SB")
    push(player, "M2.S1")
    player.run(12)
    push(player, "M1.S1")
    push(player, "E1.S2")
    script = player.script("Played")
    assert "M2 forward" in script.steps[1].expect and "M2 stopped" in script.steps[-1].expect
    assert [miss for one in play(plan, script) for miss in one.misses] == []


def test_a_level_that_was_raised_is_in_the_script_with_its_pump() -> None:
    plan = plan_of(demo_text("iec"))
    player = Player(plan)
    push(player, "E1.SB")
    while "auto" not in player.simulation.gears["M5.SL"].states:
        push(player, "M5.SL")
    player.set_level("TANK", 1.5)
    player.run(60)
    script = player.script("Played")
    assert "M5 forward" in script.field["TANK"].moves and "stopped" in player.simulation.gears["M5"].states
    assert [miss for one in play(plan, script) for miss in one.misses] == []


def test_playing_a_script_minds_what_must_never_be() -> None:
    player = Player(plan_of(HEAD + STARTER))
    script = Script(steps=(Step(do=("push M1.S1", "push M1.S0"), never=("M1.K",)),))
    assert [miss.expected for one in player.play(script) for miss in one.misses] == ["never M1.K"]
    assert any(lane.device == "M1.K" for lane in player.lanes), "who watches goes on"


def test_going_back_shows_what_was() -> None:
    player = Player(plan_of(HEAD + STARTER))
    push(player, "M1.S1")
    player.run(5)
    push(player, "M1.S0")
    assert "stopped" in player.state_at().states["M1"] and "forward" in player.state_at(3.0).states["M1"]
    then, now = player.reading_of("M1", 3.0), player.reading_of("M1")
    assert then is not None and now is not None and (then.states, now.states) == (("forward",), ("stopped",))
    assert then.is_past and then.amps == pytest.approx(8.6, abs=0.6) and now.amps == pytest.approx(0, abs=1e-3)
    assert player.motors(3.0)[0].speed == 1.0 and "stopped" in player.motors()[0].states
    behind = f"net:{player.plan.number_at('M1:U1')}"
    volts = [found.volts for time in (3.0, None) if (found := player.reading_of(behind, time)) is not None]
    assert volts == pytest.approx([230, 0], abs=12)
    (lane,) = [lane for lane in player.lanes if lane.device == "M1.K"]
    ((begun, ended),) = lane.spans
    assert begun < 0.1 and ended == pytest.approx(5, abs=0.2)


def reading(player: Player, ref: str) -> Reading:
    found = player.reading_of(ref)
    assert found is not None
    return found


def test_a_reading_says_what_it_is_what_stands_in_the_way_and_what_feeds_it() -> None:
    player = Player(plan_of(HEAD + STARTER))
    assert player.reading_of("nobody") is None and player.reading_of("net:nobody") is None
    assert "is open between" in reading(player, "M1.K").in_the_way[0][0]
    assert reading(player, "M1.K").way == () and reading(player, "M1.K").volts == pytest.approx(0, abs=0.1)
    push(player, "M1.S1")
    player.run(5)
    motor, coil = reading(player, "M1"), reading(player, "M1.K")
    assert motor.states == ("forward",) and motor.amps == pytest.approx(8.6, abs=0.6), "4 kW at 400 V"
    assert motor.volts == pytest.approx(400, rel=0.02) and coil.volts == pytest.approx(230, rel=0.05)
    assert coil.in_the_way == () and {"M1.S0", "M1.F"} <= {one.device for one in coil.way}
    assert all(a.numbers[1] == b.numbers[0] for a, b in pairwise(coil.way)), "each begins where the one before ends"
    behind = reading(player, f"net:{coil.way[0].numbers[1]}")
    assert behind.volts == pytest.approx(230, rel=0.05) and behind.way == coil.way[1:]


def test_what_hands_can_do_stands_first_and_other_ways_behind() -> None:
    switches = "".join(f'[device.S{n}]\nkind = "switch"\ncontacts = ["no"]\n' for n in (8, 9))
    rungs = switches + '[device.K8]\nkind = "relay"\n[device.P8]\nkind = "lamp"\n'
    rungs += '[[rung]]\npath = "C1+ > S9:no > K8:coil > C1-"\n[[rung]]\npath = "C1+ > (K8:no | S8:no) > P8 > C1-"\n'
    ways = reading(Player(plan_of(HEAD + rungs)), "P8").in_the_way
    assert [[one.split()[0] for one in way] for way in ways] == [["S8"], ["S9"]], (
        "the relay is told by what keeps it off"
    )


def test_a_press_that_is_let_go_of_is_one_push_of_the_script() -> None:
    player = Player(plan_of(HEAD + STARTER))
    assert player.script("t").steps == (), "nothing was done yet"
    push(player, "M1.S1")
    player.run(2)
    player.touch("M1.S0")
    player.run(2)
    player.let_go("M1.S0")
    assert [step.do[0] for step in player.script("t").steps] == ["push M1.S1", "press M1.S0", "release M1.S0"]


# -- what is drawn


def sheet_of(plan: Plan, device: str) -> Drawing:
    return next(
        s
        for s in draw_sheets(plan)
        if s.chapter == "Control circuit" and any(getattr(i, "ref", "") == device for i in s.items)
    )


def overlay(plan: Plan, sheet: Drawing, state: LiveState) -> list[Line]:
    terminal_of = {f"net:{p.number}": p.net.terminals[0] for p in plan.potentials}
    return [item for item in live_overlay(sheet, state, terminal_of) if isinstance(item, Line)]


def lit(plan: Plan, lines: list[Line], sheet: Drawing, number: str, look: str) -> float:
    """Return how much of the wire of a number is drawn in a look, in mm."""
    wires = [i for i in sheet.items if isinstance(i, Line) and i.ref == f"net:{number}"]
    total = 0.0
    for line in lines:
        kind = (
            "carrying"
            if line.width > 1
            else "redundant"
            if line.tone is Tone.DONE
            else "live"
            if line.is_dashed
            else "bare"
        )
        (ax, ay), (bx, by) = line.points[0], line.points[-1]
        middle = ((ax + bx) / 2, (ay + by) / 2)
        if kind == look and any(_near(middle, wire) for wire in wires):
            total += ((bx - ax) ** 2 + (by - ay) ** 2) ** 0.5
    return total


def _near(point: tuple[float, float], wire: Line) -> bool:
    from shapely.geometry import LineString, Point

    return bool(LineString(wire.points).distance(Point(point)) < 1.0)


def test_wires_are_drawn_as_they_are() -> None:
    """Stop - start with seal-in - coil: live up to the start at rest, carrying when it is in, the held start redundant beside the seal."""
    plan = plan_of(HEAD + STARTER)
    sheet, number = sheet_of(plan, "M1.S1"), plan.number_at("M1.S1:14")
    before = plan.number_at("M1.S1:13")
    player = Player(plan)
    lines = overlay(plan, sheet, player.state_at())
    assert lit(plan, lines, sheet, before, "live") > 5 and lit(plan, lines, sheet, number, "live") == 0
    player.touch("M1.S1")
    lines = overlay(plan, sheet, player.state_at())
    assert lit(plan, lines, sheet, number, "carrying") > 5 and lit(plan, lines, sheet, number, "redundant") > 1
    player.let_go("M1.S1")
    push(player, "M1.S0")
    lines = overlay(plan, sheet, player.state_at())
    assert lit(plan, lines, sheet, number, "carrying") == 0


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_what_goes_into_a_potential_comes_out_of_it(world: str) -> None:
    """Kirchhoff: the currents of all terminals of a potential but earth and what feeds add up to nothing."""
    player = Player(plan_of(demo_text(world)))
    push(player, "E1.SB")
    push(player, "M3.S1")
    state = player.state_at()
    fed = {terminal for feed in player.simulation.ways_in for terminal in feed.terminals.values()}
    for potential in player.plan.potentials:
        ends = potential.net.terminals
        if potential.net.function != "earth" and not fed.intersection(ends):
            assert abs(sum(state.amps.get(end, 0j) for end in ends)) < 1e-3, potential.number


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_every_sheet_of_a_demo_takes_its_state(world: str) -> None:
    plan = plan_of(demo_text(world))
    player = Player(plan)
    push(player, "E1.SB")
    push(player, "M3.S1")
    state = player.state_at()
    drawn = [
        len(overlay(plan, sheet, state))
        for sheet in draw_sheets(plan)
        if sheet.chapter in {"Power circuit", "Control circuit"}
    ]
    assert sum(count > 10 for count in drawn) >= 4
