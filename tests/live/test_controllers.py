"""A controller runs its program: equations, delays, flags, analogue outputs; what a program cannot say is refused with its place."""

import pytest

from riktig.files.brief_reader import BriefError
from riktig.job.program import ProgramError, names_in, read_program
from riktig.live.simulation import Simulation
from support import HEAD, plan_of

PLC = '[control.C2]\nkind = "psu"\nfrom = "L1 L2"\n[device.S1]\nkind = "switch"\n[device.S2]\nkind = "switch"\n'
PLC += '[device.K5]\nkind = "relay"\n'
PATHS = ("C2+ > S1:no > P1:I1-M > C2-", "C2+ > S2:no > P1:I2-M > C2-", "C2+ > P1:P-Q1 > K5:coil > C2-")
RUNGS = "".join(f'[[rung]]\npath = "{path}"\n' for path in PATHS)
BAD = ("Q1", "Q1 =", "Q1 = I1 and", "Q1 = (I1", "Q1 = I1; Q1 = I2", "= I1", "Q1 = I1 for s", "Q1 = I1 %", "(" * 99)
REFUSED = {"Q1 = I1 and": "a name is expected", "Q1 = rune": "nothing says what rune is", "I1 = Q1": "I1 is an input"}


def panel(program: str) -> Simulation:
    controller = f'[controller.P1]\nsupply = "C2"\nanalogue_out = 2\nprogram = "{program}"\n'
    return Simulation(plan_of(HEAD + PLC + controller + RUNGS))


@pytest.mark.parametrize(
    ("program", "closed", "is_on"),
    [
        ("Q1 = I1", "S1", True), ("Q1 = not I1", "", True), ("Q1 = I1 and I2", "S1", False), ("Q1 = I1 and I2", "S1 S2", True),
        ("Q1 = I1 or I2", "S2", True), ("Q1 = run; run = I1 and not I2", "S1", True), ("Q1 = not (I1 or I2)", "S2", False),
    ],
)  # fmt: skip
def test_an_equation_moves_a_relay(program: str, closed: str, is_on: bool) -> None:
    live = panel(program)
    for switch in closed.split():
        live.act(switch, "close")
        live.rest()
    assert ("on" in live.gears["K5"].states) == is_on


def test_a_delay_runs_out_and_starts_anew_and_a_flag_holds() -> None:
    live = panel("Q1 = I1 for 5 s or (Q1 and I2)")
    live.act("S1", "close")
    live.run(4.9)
    live.act("S1", "open")
    live.act("S1", "close")
    live.run(4.9)
    assert "on" not in live.gears["K5"].states
    live.run(0.5)
    assert "on" in live.gears["K5"].states
    live.act("S2", "close")
    live.act("S1", "open")
    live.run(60)
    assert "on" in live.gears["K5"].states
    live.act("S2", "open")
    live.run(1)
    assert "on" not in live.gears["K5"].states


def test_an_analogue_output_gives_volts_while_it_is_told() -> None:
    live = panel("Q1 = I1; AO1 = 4 when I1")
    a, b = live.rig.node("P1:AO1"), live.rig.node("P1:MO1")
    assert live.across(a, b, is_dc=True) < 0.1
    live.act("S1", "close")
    live.rest()
    assert live.across(a, b, is_dc=True) == pytest.approx(4, rel=0.01)


def test_a_program_without_rest_is_named_and_nothing_hangs() -> None:
    live = panel("Q1 = not Q1")
    live.run(3600)
    assert len(live.log) < 50
    live.act("S1", "close")
    assert any("no rest" in h.words for h in live.log)


@pytest.mark.parametrize("text", BAD)
def test_what_is_no_program_is_refused(text: str) -> None:
    with pytest.raises(ProgramError):
        read_program(text)


def test_a_brief_says_where_its_program_is_wrong() -> None:
    for program, words in REFUSED.items():
        with pytest.raises(BriefError, match=f"program: .*{words}"):
            panel(program)
    assert names_in(read_program("Q1 = a and not b for 2 s; AO1 = AI1 when c")) == {"a", "b", "AI1", "c"}
