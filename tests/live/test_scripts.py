"""Circuits of the trade played step by step, each with what must never be: common practice, no source."""

from pathlib import Path

import pytest

from riktig.files.script_file import read_script
from riktig.job.scripts import FieldBody, Script, Step
from riktig.live.scripts import ScriptError, play, report
from support import HEAD, demo_text, plan_of

SCRIPTS = Path(__file__).parents[1] / "data" / "live"
NAMES = sorted(path.stem for path in SCRIPTS.glob("*.toml") if not path.stem.endswith(".brief"))


@pytest.mark.parametrize("name", NAMES)
def test_a_circuit_does_what_the_trade_expects_and_never_what_it_must_not(name: str) -> None:
    plan = plan_of((SCRIPTS / f"{name}.brief.toml").read_text())
    script, _ = read_script(SCRIPTS / f"{name}.toml")
    played = play(plan, script)
    assert [(n, miss) for n, one in enumerate(played, 1) for miss in one.misses] == []
    assert report(played, plan, script)["passed"] and any(step.never for step in script.steps)


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_the_scripts_that_the_demos_keep_pass(world: str) -> None:
    plan = plan_of(demo_text(world))
    assert len(plan.job.scripts) >= 2
    for script in plan.job.scripts:
        assert [miss for one in play(plan, script) for miss in one.misses] == [], script.title


FAULTS = {
    "direct": ("fault open 3@M1.K:A1", "fault swap M1.K:13 M1.K:A2", "fail M1.K", "fault weld M1.K"),
    "reversing": ("fault weld M1.KR", "fault swap L1 L2", "fail M1.KR"),
    "pump": ("fail TANK.start", "fault swap TANK.stop:13 TANK.start:13", "lose L1"),
}


@pytest.mark.parametrize(("name", "fault"), [(name, fault) for name, faults in FAULTS.items() for fault in faults])
def test_a_panel_with_a_fault_does_not_pass(name: str, fault: str) -> None:
    """A check that cannot fail is none."""
    plan = plan_of((SCRIPTS / f"{name}.brief.toml").read_text())
    script, _ = read_script(SCRIPTS / f"{name}.toml")
    number = plan.number_at("M1.K:A1")
    words = fault.replace("open 3@", f"open {number}@")
    faulty = script.model_copy(update={"steps": (Step(do=(words,)), *script.steps)})
    assert any(one.misses for one in play(plan, faulty))


def test_a_script_says_what_was_in_the_way() -> None:
    plan = plan_of((SCRIPTS / "direct.brief.toml").read_text())
    (played,) = play(plan, Script(steps=(Step(do=("push M1.S1",), expect=("M1.K on",)),)))
    (miss,) = played.misses
    start = plan.tags["M1.S1"]
    assert miss.was == "M1.K off" and f"{start} is open between" in miss.because and " is open between" in miss.because


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ('[[step]]\ndo = ["pres M1.S1"]', "begins with no action"), ('[[step]]\ndo = ["press M9.S1"]', "nothing is called M9.S1"),
        ('[[step]]\nexpect = ["M1 blue"]', "is no state"), ('[[step]]\nexpect = ["M1 > x A"]', "claims nothing"),
        ('[[step]]\ndo = ["wait -1"]', "not between"), ('[[step]]\ndo = ["set M1 nan"]', "not between"),
        ('[[step]]\ndo = ["fault melt K1"]', "is no fault"), ('[[step]]\ndo = ["lose L9"]', "no line comes in"),
        ('[field.A]\nmoves = { "M7 forward" = 1 }\n[[step]]', "nothing is called M7"), ('[[step]]\ndo = ["turn M1.K"]', "cannot be told"),
    ],
)  # fmt: skip
def test_what_a_script_cannot_say_is_one_sentence(text: str, words: str, tmp_path: Path) -> None:
    plan = plan_of((SCRIPTS / "direct.brief.toml").read_text())
    (tmp_path / "s.toml").write_text(text)
    script, _ = read_script(tmp_path / "s.toml")
    with pytest.raises(ScriptError, match=words) as refused:
        play(plan, script)
    assert "\n" not in str(refused.value)


def test_a_carriage_runs_between_its_limits_and_a_heater_between_two_temperatures() -> None:
    """What lives along moves switches at the instants that follow from its speed: 0.4 of the way at 0.1 a second are 4 s."""
    text = (SCRIPTS / "reversing.brief.toml").read_text()
    text += '[device.B1]\nkind = "limit-switch"\n[device.B9]\nkind = "thermostat"\n[device.K9]\nkind = "relay"\n'
    text += '[[rung]]\npath = "C1+ > B1:no > K9:coil > C1-"\n[[rung]]\npath = "C1+ > B9:no > K9:no > K9:no > C1-"\n'
    text = text.replace('[[rung]]\npath = "C1+ > B9:no > K9:no > K9:no > C1-"\n', "")
    carriage = FieldBody(
        at=0.5, low=0.0, high=1.0, moves={"M1 forward": 0.1, "M1 reverse": -0.1}, operates={"B1": "> 0.9"}
    )
    warm = FieldBody(at=20.0, moves={"K9 on": 1.0, "K9 off": -0.5}, operates={"B9": "> 22"})
    script = Script(
        steps=(
            Step(do=("push M1.S1", "wait 3.5"), expect=("K9 off",)),
            Step(do=("wait 1", "push M1.S0"), expect=("K9 on",)),
            Step(do=("wait 10",), expect=("B9 operated",)),
            Step(do=("push M1.S2", "wait 2"), expect=("K9 off",)),
            Step(do=("wait 60",), expect=("B9 released",)),
        ),
        field={"carriage": carriage, "air": warm},
    )
    assert [miss for one in play(plan_of(text), script) for miss in one.misses] == []


def test_a_selector_goes_through_off_so_that_a_seal_over_its_positions_drops() -> None:
    """From hand to automatic the hand passes the middle, and a contactor drops in 20 ms: common practice, no source."""
    own = '[device.S9]\nkind = "selector"\ncontacts = ["hand", "auto"]\n[device.S8]\nkind = "pushbutton"\ncontacts = ["no"]\n'
    own += '[device.K9]\nkind = "contactor"\n[[rung]]\npath = "C1+ > (S9:hand | S9:auto) > (S8:no | K9:no) > K9:coil > C1-"\n'
    steps = (
        Step(do=("turn S9 hand", "push S8"), expect=("K9 on",)),
        Step(do=("turn S9 auto",), expect=("K9 off",)),
        Step(do=("push S8",), expect=("K9 on",)),
        Step(do=("turn S9 off", "turn S9 auto"), expect=("K9 off",)),
    )
    assert [one.misses for one in play(plan_of(HEAD + own), Script(steps=steps))] == [()] * 4
