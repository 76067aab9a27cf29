"""Circuits of the trade played step by step, each with what must never be: common practice, no source."""

from pathlib import Path

import pytest

from riktig.files.script_file import read_script
from riktig.live.scripts import play, report
from support import plan_of

SCRIPTS = Path(__file__).parents[1] / "data" / "live"
NAMES = sorted(path.stem for path in SCRIPTS.glob("*.toml") if not path.stem.endswith(".brief"))


@pytest.mark.parametrize("name", NAMES)
def test_a_circuit_does_what_the_trade_expects_and_never_what_it_must_not(name: str) -> None:
    plan = plan_of((SCRIPTS / f"{name}.brief.toml").read_text())
    script, _ = read_script(SCRIPTS / f"{name}.toml")
    played = play(plan, script)
    assert [(n, miss) for n, one in enumerate(played, 1) for miss in one.misses] == []
    assert report(played, plan)["passed"] and any(step.never for step in script.steps)
