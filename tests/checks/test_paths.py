"""Rules about what lies on a way: each passes a sound circuit, turns red by one word, and green again by its mend."""

import pytest

from effort import examples
from panels import panel_text
from riktig.checks import paths
from riktig.checks.finding import Finding, Severity
from riktig.plan.plan import Plan
from support import HEAD, STARTER, demo_text, plan_of

RULES = [rule for name, rule in vars(paths).items() if name.startswith("check_")]
OWN = '[device.K9]\nkind = "relay"\n[device.S9]\nkind = "switch"\ncontacts = ["no"]\n[device.B9]\nkind = "breaker"\npoles = 1\namps = 6\n'
SOCKET = '[device.E9]\nkind = "socket"\nvolts = 230\n[device.R9]\nkind = "rcd"\npoles = 2\namps = 16\n'
SOCKET += '[device.F9]\nkind = "breaker"\npoles = 2\namps = 10\n'
TT = HEAD.replace("volts = 400", 'volts = 400\nearthing = "tt"') + STARTER + "[way.W1]\namps = 2\n[incoming]\npoles = "
RETURN = '[device.K8]\nkind = "contactor"\n[device.K9]\nkind = "contactor"\n[device.P9]\nkind = "lamp"\n[device.F9]\nkind = "overload"\n'
RETURN += '[device.S8]\nkind = "switch"\n[device.S9]\nkind = "switch"\n'
RETURN += "".join(f'[[rung]]\npath = "{path}"\n' for path in (
    "C1+ > S9:no > K9:coil > @back", "C1+ > S8:no > @k8 > K8:coil > @back", "@k8 > P9 > {0}", "@back > F9:95-96 > C1-",
))  # fmt: skip
"""Two coils that return over one trip contact, as the old school has it; what lies beside one of them returns there too, or not."""

RED = [
    ("bonded-side", HEAD + STARTER + OWN + '[[rung]]\npath = "{}"\n', "C1+ > S9:no > K9:coil > C1-", "C1+ > K9:coil > S9:no > C1-"),
    ("switched-earth", HEAD + STARTER + OWN + '[[rung]]\npath = "{}"\n', "C1+ > S9:no > K9:coil > C1-", "C1+ > K9:coil > S9:no > PE"),
    ("socket-rcd", HEAD + STARTER + SOCKET + '[[feeder]]\npath = "{}"\n', "L1 N > F9 > R9 > E9", "L1 N > F9 > E9"),
    ("sneak-path", HEAD + STARTER + RETURN, "@back", "C1-"),
    ("neutral-cut", TT + "{}\n", "4", "3"),
]  # fmt: skip


def found(plan: Plan) -> list[Finding]:
    return [finding for rule in RULES for finding in rule(plan)]


@pytest.mark.parametrize(("rule", "text", "sound", "wrong"), RED, ids=[row[0] for row in RED])
def test_a_rule_turns_red_by_one_word_and_green_by_its_mend(rule: str, text: str, sound: str, wrong: str) -> None:
    assert found(plan_of(text.format(sound))) == []
    assert rule in {finding.rule for finding in found(plan_of(text.format(wrong)))}


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_the_demos_raise_nothing(world: str) -> None:
    assert [f.message for f in found(plan_of(demo_text(world)))] == []


@pytest.mark.parametrize("seed", range(examples(100)))
def test_sound_panels_raise_nothing_that_must_or_should_be_mended(seed: int) -> None:
    assert [f.message for f in found(plan_of(panel_text(seed))) if f.severity is not Severity.NOTE] == []
