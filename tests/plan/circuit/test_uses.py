"""Which contact a mention gets, and which part a device becomes."""

import pytest

from riktig.checks.run import find_all
from riktig.job import edits
from riktig.plan.plan import Plan, compute_plan
from riktig.plan.settle import settle
from support import HEAD, STARTER, job_of, plan_of

RELAY = (
    '[device.K9]\nkind = "relay"\n[device.P1]\nkind = "lamp"\n[device.P2]\nkind = "lamp"\n[device.P3]\nkind = "lamp"\n'
)
COIL = '[[rung]]\npath = "C1+ > P3 > K9:coil > C1-"\n'


def rung(what: str, lamp: str) -> str:
    return f'[[rung]]\npath = "C1+ > K9:{what} > {lamp} > C1-"\n'


def contacts(plan: Plan, device: str = "K9") -> list[str]:
    return [plan.contacts[u.key] for u in plan.uses if u.device == device and u.key in plan.contacts]


def test_make_and_break_on_one_point_share_a_changeover_and_each_other_mention_takes_the_next() -> None:
    plan = plan_of(HEAD + RELAY + COIL + rung("no", "P1") + rung("nc", "P2") + rung("no", "P1"))
    assert contacts(plan) == ["11-14", "11-12", "21-24"], "the common on the supply side"
    apart = HEAD + RELAY + COIL + rung("no", "P1") + rung("nc", "P2").replace("C1+", "@b > P3 > @c")
    assert contacts(plan_of(apart)) == ["11-14", "21-22"], "their commons lie on different points"


ALARM = """
[device.B3]
kind = "float"
[device.P5]
kind = "beacon"
[device.P6]
kind = "horn"
[device.S9]
kind = "pushbutton"
[device.K9]
kind = "relay"
[[rung]]
path = "C1+ > B3:no > @alarm > P5 > C1-"
[[rung]]
path = "@alarm > K9:nc > P6 > C1-"
[[rung]]
path = "@alarm > (S9:no | K9:no) > K9:coil > C1-"
"""


def test_an_alarm_of_three_rungs_needs_one_changeover_and_five_numbers() -> None:
    """1 before the float, 2 the alarm, 3 the return, 4 to the horn, 5 to the coil: numbered as rungs meet them."""
    plan = plan_of(HEAD + ALARM)
    at = {t: p.number for p in plan.potentials for t in p.net.terminals}
    assert plan.parts["K9"].code == "rl-1@230AC"
    assert [at[t] for t in ("B3:13", "B3:14", "K9:11", "P5:X2", "K9:12", "K9:14", "K9:A1")] == [
        "1",
        "2",
        "2",
        "3",
        "4",
        "5",
        "5",
    ]
    assert find_all(plan) == find_all(plan_of(HEAD + ALARM.replace("K9:nc", "K9:11-12").replace("K9:no", "K9:11-14")))


@pytest.mark.parametrize(
    ("kind", "one", "two"),
    [
        ("timer", "15-16", "15-18"),
        ("timer", "tnc", "tno"),
        ("relay", "11-12", "11-14"),
        ("phase-relay", "15-16", "15-18"),
    ],
)
def test_halves_of_a_changeover_by_marks_are_one_contact_and_no_finding(kind: str, one: str, two: str) -> None:
    text = HEAD + RELAY.replace('"relay"', f'"{kind}"') + rung(one, "P1") + rung(two, "P2")
    plan = plan_of(text)
    assert [f.rule for f in find_all(plan) if f.rule in {"contact-twice", "contact-common", "part-too-small"}] == []
    assert len({c.partition("-")[0] for c in contacts(plan)}) == 1


def test_the_second_half_of_a_changeover_on_another_common_is_found() -> None:
    text = HEAD + RELAY + COIL + rung("11-12", "P1") + '[[rung]]\npath = "C1+ > P2 > K9:11-14 > C1-"\n'
    (found,) = [f for f in find_all(plan_of(text)) if f.rule == "contact-common"]
    assert found.severity == "must" and "K9:11-14 in rung3" in found.message.replace("K2", "K9")


def test_a_contact_asked_for_by_its_marks_is_left_to_it() -> None:
    plan = plan_of(HEAD + RELAY + COIL + rung("no", "P1") + rung("11-14", "P2"))
    assert contacts(plan) == ["21-24", "11-14"]


def test_the_first_named_mark_lies_on_the_left() -> None:
    plan = plan_of(HEAD + RELAY + COIL + rung("14-11", "P1"))
    potential = plan.potential_of("K9:14")
    assert potential is not None and potential.name == "C1+"


def test_a_mention_stays_with_its_contact_when_an_earlier_one_goes() -> None:
    job = job_of(HEAD + RELAY + COIL + rung("no", "P1") + rung("no", "P2"))
    later = compute_plan(settle(edits.remove(job, "rungs", "rung2")))
    assert contacts(later) == ["21-24"]


@pytest.mark.parametrize(("uses", "code"), [(1, "rl-1"), (2, "rl-2"), (3, "rl-4"), (5, "kr-40+br-40")])
def test_the_smallest_part_that_has_what_the_paths_ask_for_is_chosen(uses: int, code: str) -> None:
    text = HEAD + RELAY + COIL + "".join(rung("no", f"P{1 + n % 2}") for n in range(uses))
    assert plan_of(text).parts["K9"].code == f"{code}@230AC"


def test_a_contactor_grows_with_its_contacts_and_keeps_its_rating() -> None:
    one, two = plan_of(HEAD + STARTER.replace(', "trip"', "").replace('"run"', "")), plan_of(HEAD + STARTER)
    assert (one.parts["M1.K"].code, two.parts["M1.K"].code) == ("ct9-10@230AC", "ct9-10+bf-10@230AC")


def test_what_a_part_lacks_stays_in_the_circuit_under_a_starred_mark() -> None:
    text = HEAD + RELAY.replace('kind = "relay"', 'kind = "relay"\npart = "rl-2"')
    plan = plan_of(text + COIL + rung("no", "P1") + rung("no", "P2") + rung("no", "P1"))
    (short,) = plan.short_uses
    left, right = plan.netlist.ends[short.key]
    assert left[0].endswith("*") and right[0].endswith("*")
    assert plan.potential_of(f"K9:{left[0]}") is not None


def test_a_part_in_the_ledger_stays_while_it_serves_and_goes_when_it_does_not() -> None:
    job = job_of(HEAD + STARTER)
    smaller = settle(edits.change_starter(job, "M1", lamps=()))
    assert smaller.ledger.parts["M1.K"].value == "ct9-10+bf-10@230AC", "one contact too many do no harm"
    larger = settle(edits.change_starter(job, "M1", kw=11))
    assert larger.ledger.parts["M1.K"].value.startswith("ct25")


def test_a_colour_and_a_contact_set_of_a_person_are_followed() -> None:
    text = (
        HEAD
        + '[device.P8]\nkind = "lamp"\ncolour = "blue"\n[device.S8]\nkind = "pushbutton"\ncontacts = ["no", "nc"]\n'
    )
    plan = plan_of(text)
    assert (plan.parts["P8"].code, plan.parts["S8"].code) == ("pl22-blue", "pb22-11")
    assert "colour pink" in plan_of(text.replace("blue", "pink")).unmet["P8"]


def test_a_device_named_without_a_contact_means_its_only_element() -> None:
    plan = plan_of(HEAD + RELAY + '[device.B1]\nkind = "thermostat"\n[[rung]]\npath = "C1+ > B1 > K9 > C1-"\n')
    ends = [plan.netlist.ends[u.key] for u in plan.uses if u.key.startswith("rung")]
    assert ends[1] == (("A1",), ("A2",))


def test_a_lamp_in_a_button_is_asked_for_by_its_sort_and_an_illuminated_one_is_taken() -> None:
    text = HEAD + RELAY + '[device.S5]\nkind = "pushbutton"\ncolour = "green"\n'
    text += '[[rung]]\npath = "C1+ > S5:no > K9:coil > C1-"\n[[rung]]\npath = "C1+ > K9:no > S5:lamp > C1-"\n'
    plan = plan_of(text)
    assert plan.parts["S5"].code == "pi22-green-10@230AC" and plan.short_uses == ()
    assert plan_of(text.replace("K9:no > S5:lamp", "K9:no > P1")).parts["S5"].code == "pb22-10"


def test_a_selector_closes_an_element_of_its_own_in_each_position() -> None:
    text = HEAD + RELAY + '[device.S5]\nkind = "selector"\ncontacts = ["hand", "auto"]\n'
    text += "".join(
        f'[[rung]]\npath = "C1+ > S5:{p} > {q} > C1-"\n'
        for p, q in (("auto", "P1"), ("hand", "K9:coil"), ("auto", "P2"))
    )
    plan = plan_of(text)
    assert contacts(plan, "S5") == ["23-24", "13-14", "33-34"], "positions from left to right, then further elements"
    assert plan.parts["S5"].code == "se22-3"


def test_contacts_that_two_paths_lack_stay_apart() -> None:
    """What is missing joins nothing: an emergency stop seemed to be bridged where two starters lacked a contact of one contactor."""
    text = HEAD + RELAY.replace('kind = "relay"', 'kind = "relay"\npart = "rl-1"') + COIL
    plan = plan_of(text + rung("no", "P1") + rung("no", "P2") + rung("no", "P3"))
    ends = [plan.netlist.ends[use.key] for use in plan.short_uses]
    assert len(ends) == 2 and len({end for left, right in ends for end in (*left, *right)}) == 4
