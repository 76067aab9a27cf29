"""A motor that runs only while a button is held: ends of its ways, mechanical interlock, legends. By a relay simulation that knows
nothing of the expansion."""

import pytest

from relay_simulation import Panel
from riktig.checks.practice import check_interlocks
from riktig.checks.run import find_all
from riktig.files.brief_reader import BriefError, parse_brief
from riktig.plan.arrange.edit import arrange_plate
from riktig.plan.changes.plate import keep_moves
from riktig.plan.plan import compute_plan
from riktig.standards.iec_60947_4_1 import making_multiple
from support import HEAD, plan_of

LIMITS = '[device.B1]\nkind = "limit-switch"\n[device.B2]\nkind = "limit-switch"\n'
HOIST = '[starter.M1]\nkind = "reversing"\nkw = 3\nsupply = "C1"\nlamps = ["run"]\n'
HELD = HOIST + 'hold_to_run = true\nlimits = ["B1", "B2"]\n'


def moving(panel: Panel) -> str:
    return " ".join(word for device, word in (("M1.K", "up"), ("M1.KR", "down")) if device in panel.on)


def test_it_runs_only_while_a_button_is_held_and_never_both_ways() -> None:
    """What can fall or crush runs only while the button is held: common practice, no source."""
    panel = Panel(plan_of(HEAD + LIMITS + HELD))
    assert moving(panel.hold("M1.S1")) == "up"
    assert moving(panel.hold("M1.S2")) == "up", "the second button does nothing while the first way is in"
    assert moving(panel.release("M1.S1")) == "down" and moving(panel.release("M1.S2")) == ""
    assert "M1.S0" not in panel.plan.parts


def test_each_limit_ends_its_own_way_and_leaves_the_way_back() -> None:
    panel = Panel(plan_of(HEAD + LIMITS + HELD))
    panel.hold("M1.S1").hold("B1")
    assert moving(panel) == ""
    panel.release("M1.S1").hold("M1.S2")
    assert moving(panel) == "down"
    assert moving(panel.hold("B2")) == ""


def test_a_direct_starter_held_to_run_has_no_seal() -> None:
    panel = Panel(plan_of(HEAD + '[starter.M1]\nkw = 1.5\nsupply = "C1"\nhold_to_run = true\n'))
    assert moving(panel.hold("M1.S1")) == "up" and moving(panel.release("M1.S1")) == ""


def test_its_contactors_are_for_inching_and_its_buttons_carry_the_ways() -> None:
    """AC-4 breaks and makes the start current: IEC 60947-4-1 Table 1; white, grey or black where held: IEC 60204-1 10.2.1; from memory."""
    plan = plan_of(HEAD + LIMITS + HELD)
    assert making_multiple("AC-4") > making_multiple("AC-3") - 1e-9
    assert all(plan.parts[k].rating("amps_ac4") >= plan.motors["M1"].current for k in ("M1.K", "M1.KR"))
    told = {role: plan.circuit.device(f"M1.{role}") for role in ("S1", "S2", "H", "HR")}
    assert [device.title.partition(",")[0] for device in told.values()] == ["Up", "Down", "Up", "Down"]
    assert (told["S1"].colour, told["S2"].colour) == ("white", "black")


@pytest.mark.parametrize(("more", "is_there"), [("", False), ('interlock = "mechanical"\n', True)])
def test_a_mechanical_interlock_is_a_part_between_both_contactors_also_when_the_plate_is_arranged(
    more: str, is_there: bool
) -> None:
    others = '[starter.M2]\nkw = 5.5\nsupply = "C1"\n[starter.M3]\nkind = "star-delta"\nkw = 11\nsupply = "C1"\n'
    job = parse_brief(HEAD + HOIST + more + others)
    for plan in (compute_plan(job), compute_plan(arrange_plate(job, effort=0.05))):
        assert ("M1.MI" in plan.parts) is is_there and not list(check_interlocks(plan))
        if is_there:
            left, middle, right = (plan.plate.boxes[f"M1.{role}"] for role in ("K", "MI", "KR"))
            assert left.x < middle.x < right.x and middle.x - left.right == right.x - middle.right


def test_an_interlock_of_contactors_too_large_for_a_rail_stands_between_them_on_the_plate() -> None:
    text = (
        HEAD.replace("height = 1200", "height = 1800")
        + HOIST.replace("kw = 3", "kw = 75")
        + 'interlock = "mechanical"\n'
    )
    plan = plan_of(text)
    assert not plan.plate.items["M1.K"].on_rail and not list(check_interlocks(plan))


def test_an_interlock_that_stands_elsewhere_is_a_must() -> None:
    job = parse_brief(HEAD + HOIST + 'interlock = "mechanical"\n')
    rail = job.ledger.places["M1.MI"].value.rail
    job = keep_moves(job, {"M1.MI": f"{rail} 620"})
    assert [(f.subject, f.severity) for f in check_interlocks(compute_plan(job))] == [("M1.MI", "must")]


@pytest.mark.parametrize(
    ("limits", "rules"), [('limits = ["B1", "B2"]\n', {"hoist-brake"}), ("", {"hoist-brake", "hoist-limits"})]
)
def test_a_hoist_without_limits_is_a_must_and_its_brake_a_word(limits: str, rules: set[str]) -> None:
    plan = plan_of(HEAD + LIMITS + HOIST + "hold_to_run = true\n" + limits)
    found = {f.rule: f.severity for f in find_all(plan) if f.rule.startswith(("hoist", "reversing"))}
    assert found.keys() == rules and found.get("hoist-limits", "must") == "must"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (HELD.replace('"B1", "B2"', '"B1"'), "limits: write the limit of each way"),
        (HELD.replace('"B1", "B2"', '"B1", "B9"'), "limits: nothing declares 'B9'"),
        (HELD.replace('"reversing"', '"dol"'), 'limits: limits belongs to kind = "reversing"'),
        (HOIST + 'control = "selector"\nhold_to_run = true\n', "hold_to_run: what runs while it is held has buttons"),
    ],
)
def test_ways_that_do_not_fit_are_told_with_their_place(text: str, words: str) -> None:
    with pytest.raises(BriefError, match=words):
        parse_brief(HEAD + LIMITS + text)
