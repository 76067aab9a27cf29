"""Rules about how a circuit behaves: each passes a sound circuit, turns red by the smallest change, and green again by its mend.

The changes are those that people make on paper: a contact left out, put before instead of behind, of a wrong sort, lines not exchanged.
Expected are facts of the trade (common practice, no source) and what the clauses that each rule names ask for.
"""

from collections.abc import Iterator
from dataclasses import replace

import pytest

from effort import examples
from panels import panel_text
from riktig.checks import behaviour, locks
from riktig.checks.finding import Finding, Severity
from riktig.job import edits
from riktig.job.model import Job
from riktig.plan.changes.detach import detach_starter
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import HEAD, demo_text, job_of, plan_of

BUTTONS = '[starter.M1]\nkw = 5.5\nsupply = "C1"\nlamps = ["run", "trip"]\n'
REVERSING, DRIVE = BUTTONS + 'kind = "reversing"\n', BUTTONS + 'kind = "drive"\n'
HELD = REVERSING + "hold_to_run = true\n"
STAR = BUTTONS + 'kind = "star-delta"\nmotor_volts = "400/690"\n'
PUMP = BUTTONS + 'kind = "pump"\nlevel = "T"\n[level.T]\nfloats = { stop = 0.4, start = 1.2 }\n'
STOP, TWIST = '[estop.E1]\nat = ["door", "st1"]\n', '[estop.E1]\nreset = "twist"\n'
OWN_STOP = BUTTONS + 'estop_at = ["door"]\n'
SWITCH = '[device.S9]\nkind = "switch"\ncontacts = ["no", "no"]\n'
RULES = [rule for part in (behaviour, locks) for name, rule in vars(part).items() if name.startswith("check_")]

RED = [
    ("emergency-stop-reach", BUTTONS + STOP, "run", "@E1_C1 >", "C1+ >"),
    ("emergency-stop-reach", DRIVE + STOP + SWITCH, "sto-1 sto-2", "E1.K:no", "S9:no"),
    ("emergency-stop-opening", OWN_STOP, "run", "M1.SE:nc", "M1.SE:no"),
    ("emergency-stop-release", BUTTONS + TWIST, "run", "M1.S1:no", "M1.S1:nc"),
    ("supply-return", BUTTONS, "run", "M1.S1:no", "M1.S1:nc"),
    ("stop-first", BUTTONS, "run", "M1.S0:nc > (M1.S1:no |", "(M1.S0:nc > M1.S1:no |"),
    ("stop-first", BUTTONS, "run", "M1.S0:nc > (M1.S1:no | M1.K:no)", "(M1.S1:no | M1.S0:nc > M1.K:no)"),
    ("overload-first", PUMP, "run", "M1.F:95-96 > (M1.SL:hand | M1.SL:auto", "(M1.SL:hand | M1.F:95-96 > M1.SL:auto"),
    ("overload-reset", BUTTONS + SWITCH, "run", "(M1.S1:no | M1.K:no)", "(M1.S1:no | S9:no)"),
    ("interlock-open", REVERSING, "run", "> M1.KR:nc >", ">"),
    ("interlock-open", REVERSING, "reverse", "(M1.S2:no | M1.KR:no) > M1.K:nc", "(M1.S2:no > M1.K:nc | M1.KR:no)"),
    ("interlock-open", STAR, "star-coil", "> M1.KD:nc >", ">"),
    ("reversal", REVERSING, "power", "[3 2 1]", "[2 3 1]"),
    ("reversal", REVERSING, "power", "[3 2 1]", ""),
    ("star-delta-ends", STAR, "delta", "@M1_V2 @M1_W2 @M1_U2", "@M1_U2 @M1_V2 @M1_W2"),
    ("star-delta-ends", STAR, "delta", "@M1_V2 @M1_W2 @M1_U2", "@M1_V2 @M1_V2 @M1_U2"),
    ("alarm-ahead", BUTTONS + STOP, "trip-lamp", "C1+ >", "@E1_C1 >"),
    ("hold-to-run", HELD, "run", "M1.S1:no", "(M1.S1:no | M1.K:no)"),
]  # fmt: skip


def found(plan: Plan) -> Iterator[Finding]:
    return (finding for rule in RULES for finding in rule(plan))


def rewritten(job: Job, rows: str, old: str, new: str) -> Job:
    """Return the Job with another text in some paths of M1."""
    for row in rows.split():
        field = "feeders" if any(f.name == f"M1/{row}" for f in job.feeders) else "rungs"
        path = next(one.path for one in getattr(job, field) if one.name == f"M1/{row}")
        assert old in path, path
        job = edits.change_member(job, field, f"M1/{row}", path=path.replace(old, new, 1))
    return job


@pytest.mark.parametrize(
    ("rule", "brief", "row", "sound", "wrong"), RED, ids=lambda v: v if isinstance(v, str) and len(v) < 30 else ""
)
def test_a_rule_turns_red_by_the_smallest_change_and_green_by_its_mend(
    rule: str, brief: str, row: str, sound: str, wrong: str
) -> None:
    job = settle(detach_starter(job_of(HEAD + brief), "M1"))
    assert [f.message for f in found(compute_plan(job)) if f.severity is not Severity.NOTE] == []
    red = compute_plan(settle(rewritten(job, row, sound, wrong)))
    hits = [f for f in found(red) if f.rule == rule]
    assert hits, f"{wrong} passes"
    assert all(f.subject in red.tags and red.tags[f.subject] in f.message for f in hits), (
        "it names its thing by its tag"
    )
    mended = settle(red.job.model_copy(update={"rungs": job.rungs, "feeders": job.feeders}))
    assert not [f for f in found(compute_plan(mended)) if f.rule == rule]


@pytest.mark.parametrize(
    ("rule", "brief", "kind", "trait"),
    [
        ("mirror-contact", REVERSING, "contactor", "mirror"),
        ("emergency-stop-opening", BUTTONS + STOP, "emergency-stop", "opening"),
    ],
)
def test_what_a_part_does_not_say_is_asked(rule: str, brief: str, kind: str, trait: str) -> None:
    plan = plan_of(HEAD + brief)
    assert not [f for f in found(plan) if f.rule == rule]
    silent = {
        name: replace(part, traits={k: v for k, v in part.traits.items() if k != trait}) if part.kind == kind else part
        for name, part in plan.parts.items()
    }
    assert [f.rule for f in found(replace(plan, parts=silent))].count(rule) == 2


def test_an_overload_that_resets_itself_must_not_start_the_motor() -> None:
    selector = BUTTONS + 'control = "selector"\n' + STOP
    plan = plan_of(HEAD + selector)
    assert [(f.rule, f.severity) for f in found(plan)] == [("overload-reset", Severity.NOTE)]
    part = plan.parts["M1.F"]
    by_itself = {**plan.parts, "M1.F": replace(part, traits={**part.traits, "reset": "automatic"})}
    assert [f.severity for f in found(replace(plan, parts=by_itself))] == [Severity.MUST]


@pytest.mark.parametrize("world", ["iec", "ul"])
def test_the_demos_raise_nothing_that_must_or_should_be_mended(world: str) -> None:
    assert [f.message for f in found(plan_of(demo_text(world))) if f.severity is not Severity.NOTE] == []


@pytest.mark.parametrize("seed", range(examples(100)))
def test_sound_panels_raise_nothing_that_must_or_should_be_mended(seed: int) -> None:
    """Random panels of both worlds, all kinds of starters and controls, with stops, levels, pairs of pumps and supplies."""
    assert [f.message for f in found(plan_of(panel_text(seed))) if f.severity is not Severity.NOTE] == []


OWN = """
[device.Q7]
kind = "motor-breaker"
[device.K7]
kind = "contactor"
[device.M7]
kind = "motor"
kw = 4
[device.S7]
kind = "switch"
contacts = ["no"]
[device.S8]
kind = "pushbutton"
[device.S9]
kind = "emergency-stop"
[[feeder]]
path = "L1 L2 L3 > Q7 > K7 > M7"
[[rung]]
path = "C1+ > {} > K7:coil > C1-"
"""


@pytest.mark.parametrize(
    ("path", "said"),
    [
        ("S9:nc > (S8:no | K7:no)", []),
        ("(S9:nc > S8:no | K7:no)", [("emergency-stop-reach", "S9", Severity.MUST)]),
        ("S9:nc > S7:no", [("supply-return", "M7", Severity.NOTE)]),
    ],
)
def test_circuits_of_ones_own_are_judged_too(path: str, said: list[tuple[str, str, Severity]]) -> None:
    rules = {"emergency-stop-reach", "supply-return"}
    plan = plan_of(HEAD + OWN.format(path))
    assert [(f.rule, f.subject, f.severity) for f in found(plan) if f.rule in rules] == said
